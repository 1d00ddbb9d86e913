// SPDX-License-Identifier: GPL-3.0-or-later
// Ways to one rate as narrow stacks.
#include "stations/layers/around.h"
#include "stations/layers/stack.h"

#include <cmath>

namespace impasto::app {
namespace {

/// The lane that is nearest to its limit.
const choose::LaneOutcome* nearest(const std::vector<choose::LaneOutcome>& lanes) {
    const auto it = std::max_element(lanes.begin(), lanes.end(), [](const auto& a, const auto& b) {
        return (a.meanMs + a.marginMs) / a.usableMs < (b.meanMs + b.marginMs) / b.usableMs;
    });
    return it == lanes.end() ? nullptr : &*it;
}

QString titleOf(const Around& around, const choose::Way& way) {
    const bool full = std::abs(way.size.scale - 1) < 0.005;
    const bool upscaled = way.size.upscaler && *way.size.upscaler != game::UpscalerKind::Engine;
    if (way.base) {
        const int times = around.inventing->generation.multiplier;
        return full ? say("full resolution, generation ×%1").arg(times)
                    : say("at %1, generation ×%2").arg(qs(way.size.name)).arg(times);
    }
    return full ? say("at full resolution")
                : (upscaled ? say("upscaled, %1") : say("rendered at %1")).arg(qs(way.size.name));
}

/// What stands beside a way: how it differs from the choice, after what invented frames mean.
struct Line {
    QString text;
    bool misses = false; // a goal
};
std::vector<Line> linesOf(const View& view, const Around& around, const choose::Way& way) {
    std::vector<Line> out;
    if (way.base) {
        out.push_back(
            {say("base %1, %2 shown").arg(qs(wording::wishFps(*way.base)), qs(wording::wishFps(*way.base * 2)))});
        out.push_back({say("at least %1 ms later").arg(qs(wording::ms(budgetOf(*way.base).value())))});
        const auto& brief = view.edits().goal.brief;
        const auto low = brief ? results::estimatedLow(*view.results, *brief, *way.base) : std::nullopt;
        if (low && *low < *brief->floor())
            out.push_back({say("1% low about %1").arg(qs(wording::fps(low->value()))), true});
    }
    for (const auto& line : wording::changes(*view.session.game(), around.choice, way.proposal.values))
        out.push_back({qs(line.setting) + QLatin1Char(' ') + qs(line.after)});
    return out;
}

/// The figure of a slab, and its name where that fits whole: beside it, or above it.
void drawWords(Sheet& sheet, const Layer& layer, QRectF r) {
    constexpr double line = 16;
    if (r.height() < line + 1) return;
    const Ink ink = layer.usual ? Ink::Ink : Ink::OnSlab;
    const QString figure = qs(wording::ms(layer.ms));
    const double name = textWidth(layer.label, Type::Small), room = r.width() - 12;
    const bool beside = name + textWidth(figure, Type::Small) + 8 <= room;
    const bool above = !beside && name <= room && r.height() >= 2 * line + 2;
    const double y = r.center().y() - 8;
    sheet.text(r.right() - 6, above ? y + line / 2 : y, figure, Type::Small, ink, Align::Right);
    if (beside || above) sheet.text(r.left() + 6, above ? y - line / 2 : y, layer.label, Type::Small, ink);
}

/// What a frame costs on a lane, slab by slab, with what invented frames take on top.
void drawWayStack(Sheet& sheet, const View& view, const choose::Way& way, run::Lane lane, std::size_t index,
                  double left, double stackWidth, const Scale& ms) {
    double below = 0;
    for (const auto& stack : stacksOf(view, way.proposal.values)) {
        if (stack.lane != lane) continue;
        std::size_t i = 0;
        for (const auto& layer : stack.layers) {
            const bool gpu = stack.lane == run::Lane::Gpu, even = i % 2 == 0;
            const QRectF r(left, ms.px(below + layer.ms), stackWidth, ms.px(below) - ms.px(below + layer.ms));
            const Ink ink = gpu ? (even ? Ink::Gpu : Ink::Gpu2) : (even ? Ink::Cpu : Ink::Cpu2);
            if (layer.usual)
                sheet.rect(r.adjusted(0.8, 1, -0.8, -1), Ink::Ground, ink, 1.2, {4, 3});
            else
                sheet.slab(r.adjusted(0, 0.6, 0, -0.6), ink, static_cast<unsigned>(31 * i + index), false);
            drawWords(sheet, layer, r);
            below += layer.ms;
            ++i;
        }
    }
    if (const double invented = way.inventedMs; lane == run::Lane::Gpu && invented > 0) {
        const QRectF r(left, ms.px(below + invented), stackWidth, ms.px(below) - ms.px(below + invented));
        sheet.rect(r.adjusted(0.8, 1, -0.8, -1), Ink::Ground, Ink::Gen, 1.2, {4, 3}); // as usual
        drawWords(sheet, Layer{{}, say("Generation"), {}, invented, {}, true, {}}, r);
    }
}

/// One way: its stack on the lane that is nearest to its limit, against the limit and the budget.
void drawWay(Sheet& sheet, const View& view, const Around& around, std::size_t index, QRectF place, const Scale& ms) {
    const auto& way = around.ways[index];
    const auto* lane = nearest(way.proposal.lanes);
    if (lane == nullptr) return;
    const bool chosen = !way.base && way.proposal.values == around.choice;
    const double invented = lane->lane == run::Lane::Gpu ? way.inventedMs : 0;
    if (chosen) sheet.rect(place.adjusted(-8, -4, 0, 4), Ink::Paper, Ink::Ink, 1.5);
    const double w =
        sheet.text(place.left(), place.top(), QString(QChar(static_cast<char16_t>(u'A' + index))), Type::Game);
    sheet.text(place.left() + w + 8, place.top() + 2, titleOf(around, way), Type::BodyBold, Ink::Ink, Align::Left,
               place.width() - w - 16);
    const double stackWidth = std::min(92.0, 0.36 * place.width());
    drawWayStack(sheet, view, way, lane->lane, index, place.left(), stackWidth, ms);
    const double limit = ms.px(lane->usableMs + invented);
    sheet.line({place.left() - 3, limit}, {place.left() + stackWidth + 5, limit}, Ink::Ink, 1.6);
    sheet.text(
        place.left() + stackWidth / 2, ms.px(0) + 4,
        say("%1 of %2 ms").arg(qs(wording::ms(lane->meanMs + invented)), qs(wording::ms(lane->usableMs + invented))),
        Type::Note, Ink::Ink, Align::Centre);
    const double x = place.left() + stackWidth + 16, right = place.right() - 10, width = right - x;
    double y = place.top() + 28;
    sheet.row(x, y, width, say("picture"), pictureShare(way.proposal.picture), Type::BodyBold);
    sheet.rect(QRectF(x, y + 20, width, 6), Ink::Rail);
    sheet.rect(QRectF(x, y + 20, width * way.proposal.picture, 6), Ink::Stroke);
    y += 34;
    for (const auto& each : way.proposal.lanes) {
        sheet.row(x, y, width, qs(wording::lane(view.w, each.lane)),
                  say("%1 ms").arg(qs(wording::plusMinus(each.meanMs, each.marginMs, 1))), Type::BodyBold);
        y += 18;
    }
    sheet.row(x, y, width, say("holds once"), qs(wording::percent(way.proposal.chance)), Type::BodyBold);
    if (const QString draws = drawsSaid(view, around, way.proposal.values); !draws.isEmpty() && !way.base) {
        y += 18;
        sheet.row(x, y, width, drawsName(view), draws, Type::BodyBold);
    }
    y += 24;
    const double bottom = place.bottom() - (chosen ? 18 : 24);
    const auto lines = linesOf(view, around, way);
    std::size_t shown = 0;
    for (const auto& line : lines) {
        if (y + 17 > bottom - (shown + 1 < lines.size() ? 17 : 0)) break;
        sheet.text(x, y, line.text, Type::Note, line.misses ? Ink::Over : Ink::Ink, Align::Left, width);
        y += 17;
        ++shown;
    }
    if (shown < lines.size()) sheet.text(x, y, say("and %1 more").arg(lines.size() - shown), Type::Note, Ink::Muted);
    if (chosen) {
        sheet.text(x, place.bottom() - 16, say("the choice"), Type::BodyBold);
        return;
    }
    const QRectF button(x, place.bottom() - 22, std::min(width, 96.0), 24);
    sheet.button(button, QStringLiteral("way.%1").arg(index),
                 say("Take %1").arg(QChar(static_cast<char16_t>(u'A' + index))));
}

} // namespace

QString pictureShare(double picture) {
    return QStringLiteral("%1%").arg(QString::number(100 * picture, 'f', 1));
}

double drawWaysToRate(Sheet& sheet, const View& view, const Around& around, double top, double bottom) {
    if (around.ways.size() < 2) return top;
    const double left = 60, right = sheet.width() - 8;
    double most = 1.08 * budgetOf(around.target).value();
    for (const auto& way : around.ways)
        for (const auto& lane : way.proposal.lanes)
            most = std::max({most, 1.05 * lane.meanMs, way.base ? 1.03 * (lane.usableMs + way.inventedMs) : 0});
    const Scale ms{0, most, bottom - 22, top + 30};
    const double step = niceStep(most, 4);
    for (double v = 0; v <= most + 1e-9; v += step) {
        sheet.line({left - 6, ms.px(v)}, {right, ms.px(v)}, Ink::Grid, 1);
        sheet.text(left - 12, ms.px(v) - 8, QString::number(v), Type::Small, Ink::Muted, Align::Right);
    }
    const double width = (right - left) / static_cast<double>(around.ways.size());
    for (std::size_t i = 0; i < around.ways.size(); ++i)
        drawWay(sheet, view, around, i,
                QRectF(left + 4 + width * static_cast<double>(i), top, width - 12, bottom - top), ms);
    return bottom + 14;
}

} // namespace impasto::app
