// SPDX-License-Identifier: GPL-3.0-or-later
// A run of which a table of rates is all that is known: its steps, as they are. No frame is drawn that no one saw.
#include "stations/runs/run_picture.h"

#include <algorithm>
#include <cmath>

namespace impasto::app {
namespace {

/// Of milliseconds, as short as three digits tell.
double shortSeconds(double ms) {
    const double s = ms / 1000;
    return s < 100 ? std::round(100 * s) / 100 : std::round(s);
}

} // namespace

void drawRates(Sheet& sheet, const View& view, const run::Run& run, double top) {
    if (!run.readOff || run.readOff->rates.empty()) return;
    const auto& rates = run.readOff->rates;
    const QRectF plot(58, top + 30, sheet.width() - 58 - 16, sheet.height() - 26 - top - 30);
    const double w = sheet.text(24, top, qs(wording::runTitle(view.w, view.session, run)), Type::Heading);
    const auto& step = run.readOff->stepMs;
    sheet.text(
        24 + w + 12, top + 2,
        step ? say("a rate every %1 s, not frame by frame: no low and no part of it is known").arg(shortSeconds(*step))
             : say("a rate a row, not frame by frame: no low and no part of it is known"),
        Type::Body, Ink::Muted, Align::Left, sheet.width() - 24 - w - 28);
    const double most = *std::max_element(rates.begin(), rates.end());
    const double target = view.edits().goal.brief ? view.target().value() : 0;
    const double grid = niceStep(std::max(most, 1.05 * target), 4);
    const Scale fps{0, grid * std::ceil(std::max({most, 1.05 * target, 1.0}) / grid), plot.bottom(), plot.top()};
    const Scale at{0, static_cast<double>(rates.size()), plot.left(), plot.right()};
    sheet.rect(plot, Ink::Paper);
    for (double v = 0; v <= fps.toValue + 1e-9; v += grid) {
        sheet.line({plot.left(), fps.px(v)}, {plot.right(), fps.px(v)}, Ink::Grid, 1);
        const bool last = v + grid > fps.toValue + 1e-9;
        sheet.text(plot.left() - 6, fps.px(v) - 8, (last ? say("%1 fps") : QStringLiteral("%1")).arg(v), Type::Small,
                   Ink::Muted, Align::Right, plot.left() - 8);
    }
    // More steps than pixels: from the least to the greatest of each pixel.
    const std::size_t wide = std::max<std::size_t>(1, rates.size() / static_cast<std::size_t>(plot.width()));
    QPolygonF curve;
    for (std::size_t i = 0; i < rates.size(); i += wide) {
        const auto end = rates.begin() + static_cast<std::ptrdiff_t>(std::min(rates.size(), i + wide));
        const auto [low, high] = std::minmax_element(rates.begin() + static_cast<std::ptrdiff_t>(i), end);
        const double from = at.px(static_cast<double>(i)), to = at.px(static_cast<double>(end - rates.begin()));
        curve.append(QPointF(from, fps.px(*low)));
        if (*high > *low) curve.append(QPointF(from, fps.px(*high)));
        curve.append(QPointF(to, fps.px(*high)));
    }
    sheet.curve(curve, Ink::Ink, 1.2);
    const double average = fps.px(run.readOff->average.value());
    sheet.line({plot.left(), average}, {plot.right(), average}, Ink::Stroke, 1.6);
    sheet.text(plot.center().x(), plot.bottom() + 5,
               say("average %1 fps").arg(qs(wording::fps(run.readOff->average.value()))), Type::Small, Ink::Ink,
               Align::Centre);
    if (target > 0) {
        sheet.line({plot.left(), fps.px(target)}, {plot.right(), fps.px(target)}, Ink::Over, 2);
        sheet.text(plot.left() + 6, fps.px(target) - 19, say("%1 fps wanted").arg(qs(wording::wishFps(view.target()))),
                   Type::BodyBold, Ink::Over, Align::Left, 0, Ink::Paper);
    }
    const double all = static_cast<double>(rates.size());
    sheet.text(plot.left(), plot.bottom() + 5, step ? say("0 s") : say("first row"), Type::Small, Ink::Muted);
    sheet.text(plot.right(), plot.bottom() + 5,
               step ? say("%1 s").arg(shortSeconds(all * *step)) : say("row %1").arg(rates.size()), Type::Small,
               Ink::Muted, Align::Right);
}

} // namespace impasto::app
