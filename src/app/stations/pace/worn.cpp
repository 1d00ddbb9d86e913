// SPDX-License-Identifier: GPL-3.0-or-later
// Pace for a headset: CPU and GPU work against the refresh, what the runtime then does and where, every refresh the
// headset has, and whether foveation pays.
#include <cmath>
#include <impasto/wording/headset.h>

#include "stations/pace/pace.h"

namespace impasto::app {
namespace {

const pace::WornRate* rateOf(const results::Worn& worn) {
    const auto it = std::find_if(worn.rates.begin(), worn.rates.end(),
                                 [&](const pace::WornRate& rate) { return rate.mode == worn.mode; });
    return it == worn.rates.end() ? nullptr : &*it;
}

/// Up to the refresh the axis has more room than over it; marked where it changes.
struct MsAxis {
    double least, refresh, most;
    double bottom, bend, top;
    [[nodiscard]] double px(double ms) const {
        if (ms <= refresh) return bottom + (ms - least) / (refresh - least) * (bend - bottom);
        return bend + (ms - refresh) / (most - refresh) * (top - bend);
    }
};

/// How often each time occurred, standing on the ms axis; what lies over the refresh is late.
void standing(Sheet& sheet, const frames::Distribution& times, double x, double width, const MsAxis& y, Ink ink) {
    constexpr int bins = 90;
    std::array<double, bins> share{};
    double most = 1e-9;
    const double step = (y.most - y.least) / bins;
    for (int i = 0; i < bins; ++i) {
        const double from = y.least + i * step;
        share[static_cast<std::size_t>(i)] = times.shareUpTo(from + step) - times.shareUpTo(from);
        most = std::max(most, share[static_cast<std::size_t>(i)]);
    }
    QPolygonF area;
    area.append(QPointF(x, y.px(y.least)));
    for (int i = 0; i < bins; ++i)
        area.append(QPointF(x + width * share[static_cast<std::size_t>(i)] / most, y.px(y.least + (i + 0.5) * step)));
    area.append(QPointF(x, y.px(y.most)));
    sheet.area(area, ink);
    sheet.line({x, y.px(y.least)}, {x, y.px(y.most)}, Ink::Ink, 1.2);
}

QString late(double onTime) {
    return say("%1 late").arg(qs(wording::percent(1 - onTime)));
}

/// Both lanes against the refresh, with what the runtime does above it.
void lanesAgainst(Sheet& sheet, const results::Worn& worn, const pace::WornRate& rate, QRectF r) {
    const double refresh = 1000 / worn.mode.value();
    const double low =
        std::max(0.0, 0.9 * std::min(worn.gpu.quantile(0.002), worn.cpu ? worn.cpu->quantile(0.002) : 1e9));
    const MsAxis y{std::min(low, 0.7 * refresh), refresh, 2.4 * refresh, r.bottom(),
                   r.top() + 0.5 * r.height(),   r.top()};
    sheet.rect(QRectF(r.x(), y.px(refresh), r.width(), r.bottom() - y.px(refresh)), Ink::Paper);
    sheet.rect(QRectF(r.x(), y.px(2 * refresh), r.width(), y.px(refresh) - y.px(2 * refresh)), Ink::Band);
    sheet.rect(QRectF(r.x(), r.top(), r.width(), y.px(2 * refresh) - r.top()), Ink::Band2);
    for (const double ms : {0.5 * (y.least + refresh), refresh, refresh * 1.5, refresh * 2})
        sheet.text(r.x() - 8, y.px(ms) - 8, qs(wording::ms(ms)), Type::Small, Ink::Muted, Align::Right);
    sheet.text(r.x() - 8, r.top() - 2, say("ms"), Type::Small, Ink::Muted, Align::Right);
    const double half = r.width() / 2;
    if (worn.cpu)
        standing(sheet, *worn.cpu, r.x() + 14, half - 40, y, Ink::Cpu);
    else
        sheet.wrapped(r.x() + 14, y.px(refresh) + 40, half - 34,
                      say("The log's CPU time is the wait for the headset: the CPU's work is not known."), Type::Note,
                      Ink::Muted);
    standing(sheet, worn.gpu, r.x() + half + 14, half - 40, y, Ink::Gpu);
    sheet.line({r.x(), y.px(refresh)}, {r.right(), y.px(refresh)}, Ink::Over, 2.6, {}, Ink::Ground);
    const auto rateName = [&](int by) { return qs(wording::wishFps(Fps(worn.mode.value() / by))); };
    sheet.text(r.x() + 30, r.top() + 4,
               say("third rate, %1 and less: %2 of the time").arg(rateName(3), qs(wording::percent(rate.third))),
               Type::BodyBold, Ink::Ink, Align::Left, 0, Ink::Band2);
    sheet.text(r.x() + 30, y.px(2 * refresh) + 6,
               say("half rate, %1: %2 of the time").arg(rateName(2), qs(wording::percent(rate.half))), Type::BodyBold,
               Ink::Ink, Align::Left, 0, Ink::Band);
    sheet.text(r.x() + 30, y.px(2 * refresh) + 24, say("a late frame is replaced by one that is invented"), Type::Note,
               Ink::Muted, Align::Left, 0, Ink::Band);
    sheet.text(r.x() + 30, y.px(refresh) + 8,
               say("full rate, %1: %2 of the time").arg(rateName(1), qs(wording::percent(rate.full))), Type::BodyBold,
               Ink::Ink, Align::Left, 0, Ink::Paper);
    if (rate.cpuOnTime)
        sheet.text(r.x() + half - 16, y.px(refresh) - 24, late(*rate.cpuOnTime), Type::BodyBold, Ink::Over,
                   Align::Right);
    sheet.text(r.right() - 8, y.px(refresh) - 24, late(rate.gpuOnTime), Type::BodyBold, Ink::Over, Align::Right);
    const auto under = [&](double x, const QString& name, std::optional<double> onTime, double mean) {
        sheet.text(x, r.bottom() + 6, name, Type::BodyBold);
        sheet.text(x + 40, r.bottom() + 6,
                   onTime ? say("%1 on time").arg(qs(wording::percent(*onTime))) : say("not told"), Type::Body);
        if (onTime)
            sheet.text(x, r.bottom() + 23, say("%1 ms on average").arg(qs(wording::ms(mean))), Type::Small, Ink::Muted);
    };
    under(r.x() + 14, say("CPU"), rate.cpuOnTime, worn.cpuMeanMs);
    under(r.x() + half + 14, say("GPU"), rate.gpuOnTime, worn.gpuMeanMs);
}

/// Where on the route frames came late.
void alongRoute(Sheet& sheet, const View& view, const results::Worn& worn, double x, double y, double w) {
    sheet.text(x, y, say("Along the route"), Type::BodyBold);
    sheet.text(x + w, y + 1, say("grey: half rate · black: third"), Type::Small, Ink::Muted, Align::Right);
    const QRectF r(x, y + 22, w, 18);
    sheet.rect(r, Ink::Paper, Ink::Line);
    const Scale at{0, std::max(1.0, worn.durationMs), x, x + w};
    for (const auto& frame : worn.late) {
        const double px = at.px(frame.atMs);
        sheet.line({px, r.top() + 1}, {px, r.bottom() - 1}, frame.refreshes == 2 ? Ink::Off : Ink::Ink,
                   frame.refreshes == 2 ? 1 : 1.6);
    }
    for (std::size_t i = 0; i < worn.parts.size(); ++i) {
        const double from = at.px(worn.partStartMs[i]),
                     to = i + 1 < worn.parts.size() ? at.px(worn.partStartMs[i + 1]) : x + w;
        if (i > 0) sheet.line({from, r.top() - 3}, {from, r.bottom() + 3}, Ink::Ink, 1.2);
        sheet.text(from + 2, r.bottom() + 3, qs(wording::part(view.w, worn.parts[i].part)), Type::Small, Ink::Muted,
                   Align::Left, to - from - 6);
    }
}

/// Every refresh on one on-time axis; the goal as a line.
void refreshes(Sheet& sheet, const View& view, const results::Worn& worn, double x, double y, double w) {
    sheet.text(x, y, say("Refresh choices"), Type::Heading);
    sheet.text(x + w, y + 2, worn.cpu ? say("on time, worst part") : say("on time, worst part; slower: at least"),
               Type::Small, Ink::Muted, Align::Right);
    const double left = x + 112, right = x + w - 60, top = y + 28;
    const Scale axis{0, 1, left, right};
    double at = top;
    const double wished = view.edits().goal.brief->wishedOnTime();
    for (const auto& rate : worn.rates) {
        const bool now = rate.mode == worn.mode;
        if (now) sheet.rect(QRectF(x - 6, at - 4, w + 12, 26), Ink::Paper, Ink::Ink, 1.5);
        sheet.text(x, at, say("%1 Hz").arg(qs(wording::wishFps(Fps(rate.mode.value())))), Type::BodyBold);
        sheet.text(x + 98, at + 1, say("%1 ms").arg(qs(wording::ms(1000 / rate.mode.value()))), Type::Small, Ink::Muted,
                   Align::Right);
        sheet.line({left, at + 9}, {right, at + 9}, Ink::Grid, 1);
        sheet.circle({axis.px(rate.onTime), at + 9}, 5, rate.holds ? Ink::Ink : Ink::Paper, Ink::Ink);
        sheet.text(x + w, at, qs(wording::percent(rate.onTime)), Type::BodyBold, rate.holds ? Ink::Ink : Ink::Over,
                   Align::Right);
        Hot h;
        h.id = QStringLiteral("worn.") + QString::number(rate.mode.value());
        h.name = say("%1 Hz: %2 on time").arg(rate.mode.value()).arg(qs(wording::percent(rate.onTime)));
        h.rect = QRectF(x - 6, at - 4, w + 12, 26);
        h.role = Role::Row;
        h.hint = say("Press to make it the target");
        sheet.hot(h);
        at += 34;
    }
    sheet.line({axis.px(wished), top - 6}, {axis.px(wished), at - 2}, Ink::Over, 1.4);
    sheet.text(axis.px(wished) + 2, at - 1, say("%1 wanted").arg(qs(wording::percent(wished))), Type::Small, Ink::Over,
               Align::Right);
}

/// The game's own scale of the headset's picture; nothing where the game has none.
std::optional<double> gameScale(const View& view, const run::Order* order) {
    const auto* game = view.session.game();
    if (game == nullptr || order == nullptr) return std::nullopt;
    std::optional<double> scale;
    for (const auto& setting : game->settings)
        if (const auto it = order->variant.values.find(setting.id); it != order->variant.values.end())
            if (const auto index = setting.levelIndex(it->second); index && setting.levels[*index].scale)
                scale = scale.value_or(1) * *setting.levels[*index].scale;
    return scale;
}

void internalSize(Sheet& sheet, const View& view, const results::Worn& worn, double x, double y, double w) {
    sheet.text(x, y, say("One internal size"), Type::Heading);
    const auto panel = view.session.panel();
    const auto* run = view.session.facts->run(worn.run);
    const auto scale = gameScale(view, run == nullptr ? nullptr : view.session.orderOf(*run));
    const double side = 74, most = std::max(1.0, scale.value_or(1));
    const double outer = side / most, inner = outer * scale.value_or(1);
    sheet.slab(QRectF(x, y + 28, inner, inner), Ink::Gpu, 5);
    sheet.rect(QRectF(x, y + 28, outer, outer), Ink::None, Ink::Ink, 1.4, {5, 4});
    const double tx = x + side + 18, tw = w - side - 18;
    const QString size = panel ? qs(wording::resolution(panel->native)) : say("not set");
    sheet.text(tx, y + 28, say("panel %1, dashed").arg(size), Type::Body, Ink::Ink, Align::Left, tw);
    if (scale && panel)
        sheet.text(tx, y + 46,
                   say("game %1 an axis: %2 of the pixels")
                       .arg(qs(wording::percent(*scale)), qs(wording::percent(*scale * *scale))),
                   Type::BodyBold, Ink::Ink, Align::Left, tw);
    sheet.wrapped(
        tx, y + 66, tw,
        say("The runtime's scale multiplies it. Only the product costs time: change one of the two, always the "
            "same."),
        Type::Note, Ink::Muted, 3);
}

void foveation(Sheet& sheet, const View& view, const results::Worn& worn, double x, double y, double w) {
    if (!worn.foveation) return;
    const auto& f = *worn.foveation;
    sheet.text(x, y, say("Foveation"), Type::Heading);
    sheet.text(x + 92, y + 2, qs(wording::foveationVerdict(view.w, f.advice)), Type::Body, Ink::Ink, Align::Left,
               w - 92);
    const double refresh = 1000 / worn.mode.value(), left = x + 44, right = x + 0.52 * w;
    const Scale ms{0, 1.15 * std::max({refresh, f.gpuMs, f.cpuMs.value_or(0) + f.cpuCostMs}), left, right};
    double at = y + 30;
    const auto pair = [&](const QString& name, double now, double with, Ink even, Ink odd) {
        sheet.text(x, at + 8, name, Type::BodyBold);
        for (const auto& [value, ink, what] : {std::tuple(now, even, say("as now")), {with, odd, say("with it")}}) {
            sheet.slab(QRectF(left, at, ms.px(value) - left, 17), ink, 3);
            sheet.text(left + 6, at + 1, what, Type::Small, Ink::OnSlab);
            sheet.text(ms.px(value) - 6, at + 1, qs(wording::ms(value)), Type::Small, Ink::OnSlab, Align::Right);
            at += 19;
        }
        at += 6;
    };
    if (f.cpuMs) pair(say("CPU"), *f.cpuMs, *f.cpuMs + f.cpuCostMs, Ink::Cpu, Ink::Cpu2);
    pair(say("GPU"), f.gpuMs, f.gpuMs - f.gpuSavedMs, Ink::Gpu, Ink::Gpu2);
    sheet.line({ms.px(refresh), y + 26}, {ms.px(refresh), at}, Ink::Over, 2);
    sheet.text(ms.px(refresh), at + 1, qs(wording::ms(refresh)), Type::Small, Ink::Over, Align::Centre);
    sheet.wrapped(right + 22, y + 28, w - (right - x) - 22, qs(wording::foveationReason(view.w, f, worn.mode)),
                  Type::Body);
}

} // namespace

Drawing layoutWorn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto& worn = *view.get<results::Worn>();
    const auto* rate = rateOf(worn);
    const double refresh = 1000 / worn.mode.value();
    sheet.heading(24, 12, say("Does every frame meet the %1 ms refresh?").arg(qs(wording::ms(refresh))),
                  say("%1 · how often each time occurred, CPU and GPU apart; bands: what the runtime then does")
                      .arg(qs(wording::runTitle(view.w, view.session, *view.session.facts->run(worn.run)))));
    if (rate == nullptr) return sheet.take();
    const bool low = size.height() < 500;
    const double left = 64, width = 0.46 * size.width() - 30, right = left + width + 34,
                 rightWidth = size.width() - right - 24;
    const double plotBottom = low ? size.height() - 120 : size.height() - 270;
    lanesAgainst(sheet, worn, *rate, QRectF(left, 74, width, plotBottom - 74));
    alongRoute(sheet, view, worn, left, plotBottom + 48, width);
    internalSize(sheet, view, worn, right, 66, rightWidth);
    refreshes(sheet, view, worn, right, 190, rightWidth);
    if (!low) foveation(sheet, view, worn, 24, size.height() - 148, size.width() - 48);
    return sheet.take();
}

Drawing layoutWornColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    const auto& worn = *view.get<results::Worn>();
    const auto* rate = rateOf(worn);
    double y = 16;
    if (rate != nullptr) {
        sheet.text(x, y, say("At %1 Hz").arg(qs(wording::wishFps(Fps(worn.mode.value())))), Type::Heading);
        y += 26;
        const auto line = [&](const QString& name, double share) {
            sheet.row(x, y, w, name, qs(wording::percent(share)), Type::BodyBold);
            y += 21;
        };
        line(say("on time, worst part"), rate->onTime);
        line(say("full rate, of the time"), rate->full);
        line(say("half rate"), rate->half);
        line(say("third rate and less"), rate->third);
        y += 8;
        if (!rate->holds) {
            const pace::WornRate* slower = nullptr;
            for (const auto& other : worn.rates)
                if (other.holds && other.mode < worn.mode) slower = &other;
            const bool unknown = !worn.cpu && rate->gpuOnTime >= view.edits().goal.brief->wishedOnTime();
            y = sheet.wrapped(
                    x, y, w,
                    unknown ? say("The GPU's work fits: what comes late is the CPU's, and its readings do not tell by "
                                  "how much. Lower what costs the CPU, or try a slower rate.")
                    : slower == nullptr
                        ? say("No rate of this headset holds with these settings: the size of the picture is "
                              "the first lever, cars, mirrors and crowds the CPU's.")
                        : say("%1 Hz holds with these settings.").arg(qs(wording::wishFps(Fps(slower->mode.value())))),
                    Type::Body) +
                8;
        }
    }
    sheet.text(x, y, say("Comfort and care"), Type::Heading);
    y += 24;
    for (const auto& caution : wording::headsetCautions(view.w)) {
        if (y + 40 > size.height()) break;
        y = sheet.wrapped(x, y, w, qs(caution), Type::Body) + 6;
    }
    sheet.wrapped(x, y + 4, w, say("The headset paces the frames itself: a cap has nothing to add."), Type::Note,
                  Ink::Muted);
    return sheet.take();
}

} // namespace impasto::app
