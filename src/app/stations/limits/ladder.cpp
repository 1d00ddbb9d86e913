// SPDX-License-Identifier: GPL-3.0-or-later
// The resolution ladder: rate against rendered megapixels, a line a part.
#include "stations/limits/limits.h"

#include <cmath>

namespace impasto::app {
namespace {

using limits::Ladder;

/// The part with the slowest frames at the largest size.
const Ladder* heaviest(const std::vector<Ladder>& ladders) {
    const auto it = std::max_element(ladders.begin(), ladders.end(), [](const Ladder& a, const Ladder& b) {
        return a.seen.back().frameMs < b.seen.back().frameMs;
    });
    return it == ladders.end() ? nullptr : &*it;
}

QString withHalf(double value, const std::optional<double>& half, int most, const char* unit) {
    return say(unit).arg(qs(wording::plusMinus(value, half, most)));
}

/// A frame time's interval as a rate's.
QString rateText(const stats::Interval& ms) {
    const double rate = 1000 / ms.estimate;
    return withHalf(rate, ms.halfWidth ? std::optional(rate * *ms.halfWidth / ms.estimate) : std::nullopt, 1, "%1 fps");
}

/// The figures of one part; ends at the sheet's foot.
void figures(Sheet& sheet, const View& view, const Ladder& l, double x, double y, double w) {
    const auto line = [&](const QString& name, const QString& figure) {
        if (y + 36 > sheet.height()) return;
        sheet.text(x, y, name, Type::Small, Ink::Muted, Align::Left, w);
        sheet.text(x, y + 14, figure, Type::BodyBold, Ink::Ink, Align::Left, w);
        y += 37;
    };
    sheet.text(x, y, qs(wording::part(view.w, l.part)), Type::Heading, Ink::Ink, Align::Left, w);
    y += 22;
    line(say("CPU ceiling"), l.fit.ceilingMs ? rateText(*l.fit.ceilingMs) : say("not reached"));
    if (l.fit.gpuFixedMs) {
        line(say("GPU, fixed"), withHalf(l.fit.gpuFixedMs->estimate, l.fit.gpuFixedMs->halfWidth, 2, "%1 ms"));
        line(say("GPU, a megapixel"),
             withHalf(l.fit.gpuPerMegapixelMs->estimate, l.fit.gpuPerMegapixelMs->halfWidth, 2, "%1 ms"));
    } else {
        line(say("GPU"), l.byTimes ? say("needs one more size") : say("does not grow with pixels"));
    }
}

void curve(Sheet& sheet, const Ladder& l, const Scale& mpix, const Scale& fps, bool strong) {
    QPolygonF middle, band, lower;
    const int steps = 60;
    for (int i = 0; i <= steps; ++i) {
        const double m = mpix.fromValue + (mpix.toValue - mpix.fromValue) * i / steps;
        const auto p = l.at(Megapixels(m));
        if (!p) continue;
        const auto y = [&](double ms) { return fps.px(std::clamp(1000 / ms, fps.fromValue, fps.toValue)); };
        middle << QPointF(mpix.px(m), y(p->ms));
        band << QPointF(mpix.px(m), y(p->lowMs));
        lower << QPointF(mpix.px(m), y(p->highMs));
    }
    for (auto it = lower.rbegin(); it != lower.rend(); ++it) band << *it;
    if (strong && band.size() > 3) sheet.area(band, Ink::Band2, 0.7);
    if (middle.size() > 1)
        sheet.curve(middle, Ink::Ink, strong ? 2 : 1.4, strong ? std::vector<double>() : std::vector<double>{6, 4});
    for (const auto& s : l.seen)
        sheet.circle({mpix.px(s.rendered.value()), fps.px(1000 / s.frameMs)}, strong ? 4 : 3.5,
                     strong ? Ink::Ink : Ink::Paper, Ink::Ink, 1.4);
}

} // namespace

bool layoutLadder(Sheet& sheet, const View& view, double top) {
    const auto* ladders = view.get<results::Ladders>();
    const auto* main = ladders == nullptr ? nullptr : heaviest(ladders->parts);
    const double left = 58, right = sheet.width() - 16, foot = sheet.height() - 26;
    if (main == nullptr || foot - top < 130) return false;
    const double w = sheet.text(24, top, say("Resolution ladder"), Type::Heading);
    const double aside = 150, plotRight = right - aside - 14, plotTop = top + 30;
    sheet.text(36 + w, top + 2,
               say("rate against rendered megapixels: it rises where the GPU limits, stays where the CPU does"),
               Type::Body, Ink::Muted, Align::Left, right - 36 - w);
    double most = 0, least = 1e9, largest = 0;
    for (const auto& l : ladders->parts) {
        for (const auto& s : l.seen) {
            most = std::max(most, 1000 / s.frameMs);
            least = std::min(least, 1000 / s.frameMs);
        }
        largest = std::max(largest, l.seen.back().rendered.value());
    }
    least = std::min(least, view.target().value());
    most = std::max(most, view.target().value());
    const double margin = 0.15 * (most - least) + 2;
    const Scale mpix{0, 1.08 * largest, left, plotRight};
    const Scale fps{std::max(0.0, least - margin), most + margin, foot, plotTop};
    sheet.rect(QRectF(left, plotTop, plotRight - left, foot - plotTop), Ink::Paper);
    const double step = niceStep(fps.toValue - fps.fromValue, 4);
    for (double v = std::ceil(fps.fromValue / step) * step; v < fps.toValue; v += step) {
        sheet.line({left, fps.px(v)}, {plotRight, fps.px(v)}, Ink::Grid, 1);
        sheet.text(left - 6, fps.px(v) - 8, QString::number(v), Type::Small, Ink::Muted, Align::Right);
    }
    sheet.text(left - 6, foot + 4, say("fps"), Type::Small, Ink::Muted, Align::Right);
    for (double v = 0; v <= mpix.toValue; v += niceStep(mpix.toValue, 6))
        sheet.text(mpix.px(v), foot + 4, QString::number(v), Type::Small, Ink::Muted, Align::Centre);
    sheet.text(plotRight + 6, foot + 4, say("megapixels"), Type::Small, Ink::Muted);
    sheet.line({left, fps.px(view.target().value())}, {plotRight, fps.px(view.target().value())}, Ink::Over, 1.6);
    for (const auto& l : ladders->parts)
        if (&l != main) curve(sheet, l, mpix, fps, false);
    curve(sheet, *main, mpix, fps, true);
    double free = plotTop; // names at the right ends give way downwards
    auto sorted = ladders->parts;
    std::sort(sorted.begin(), sorted.end(),
              [](const Ladder& a, const Ladder& b) { return a.seen.back().frameMs < b.seen.back().frameMs; });
    for (const auto& l : sorted) {
        if (free > foot - 16) break; // no room for more names
        const double y = std::clamp(fps.px(1000 / l.seen.back().frameMs) - 20, free, foot - 16);
        sheet.text(plotRight - 6, y, qs(wording::part(view.w, l.part)),
                   l.part == main->part ? Type::BodyBold : Type::Note, Ink::Ink, Align::Right, 150, Ink::Paper);
        free = y + 17;
    }
    if (main->changesSides && main->changesSides->estimate < mpix.toValue) {
        const double x = mpix.px(main->changesSides->estimate);
        sheet.line({x, plotTop}, {x, foot}, Ink::Ink, 1, {3, 3});
        sheet.text(x + 6, foot - 18,
                   withHalf(main->changesSides->estimate, main->changesSides->halfWidth, 1,
                            "the bottleneck changes sides at %1"),
                   Type::Note, Ink::Ink, Align::Left, plotRight - x - 12, Ink::Paper);
    }
    figures(sheet, view, *main, right - aside, plotTop, aside);
    return true;
}

} // namespace impasto::app
