// SPDX-License-Identifier: GPL-3.0-or-later
// Ten frames of a replay on their lanes, the cap against average and lows under them, and every school beside.
#include "stations/pace/pace.h"
#include "stations/pages.h"

#include <cmath>

namespace impasto::app {
namespace {

pace::CapPlan shownPlan(const View& view) {
    if (view.edits().pacing.cap) return view.edits().pacing.cap->plan;
    const auto* offer = results::shownOffer(view.session, *view.results);
    return offer == nullptr ? pace::CapPlan{} : offer->plan;
}

/// What the frames are paced to; under the hand, where the knob is.
std::optional<Fps> shownCap(const View& view) {
    if (const auto& dragged = view.state<PaceState>().dragged) return Fps(*dragged);
    return shownPlan(view).pacedTo();
}

void tenFrames(Sheet& sheet, const View& view, double top) {
    const double left = 88, right = sheet.width() - 24;
    const auto frames = pace::replayedFrames(view.get<results::CapView>()->replay, shownPlan(view));
    struct RowName {
        const char* name;
    };
    const double rowTop[] = {top + 28, top + 72, top + 116};
    const QString names[] = {say("CPU"), say("GPU"), say("display")};
    for (int i = 0; i < 3; ++i) {
        sheet.text(left - 10, rowTop[i] + 5, names[i], Type::BodyBold, Ink::Ink, Align::Right);
        sheet.rect(QRectF(left, rowTop[i], right - left, 28), Ink::Rail);
    }
    if (frames.size() < 40) {
        sheet.text(left + 10, rowTop[0] + 5,
                   say("Without CPU and GPU work no frame can be replayed: run the cap to know its lows."), Type::Body,
                   Ink::Muted, Align::Left, right - left - 20);
        return;
    }
    const std::size_t first = std::min(view.state<PaceState>().firstFrame + 12, frames.size() - 12), last = first + 10;
    const Scale x{frames[first].cpuStart, frames[last].shown, left, right};
    std::size_t slowest = first + 1;
    for (std::size_t i = first + 1; i < last; ++i)
        if (frames[i].shown - frames[i - 1].shown > frames[slowest].shown - frames[slowest - 1].shown) slowest = i;
    for (std::size_t i = first; i < last; ++i) {
        const auto& f = frames[i];
        const auto bar = [&](double from, double to, double y, Ink even, Ink odd, const QString& label,
                             Type type = Type::Body) {
            const QRectF r(x.px(from), y, std::min(x.px(to), right) - x.px(from), 28);
            if (r.width() < 1) return;
            sheet.slab(r, i % 2 == 0 ? even : odd, static_cast<unsigned>(i));
            if (textWidth(label, type) + 6 < r.width())
                sheet.text(r.center().x(), y + 5, label, type, Ink::OnSlab, Align::Centre);
        };
        const QString number = say("no. %1").arg(i + 1);
        const bool wide = textWidth(number, Type::Small) + 6 < x.px(f.cpuEnd) - x.px(f.cpuStart);
        bar(f.cpuStart, f.cpuEnd, rowTop[0], Ink::Cpu, Ink::Cpu2, wide ? number : QString::number(i + 1), Type::Small);
        bar(f.gpuStart, f.gpuEnd, rowTop[1], Ink::Gpu, Ink::Gpu2, qs(wording::ms(f.gpuEnd - f.gpuStart)));
        if (f.shown <= x.toValue + 0.01) sheet.rect(QRectF(x.px(f.shown) - 2, rowTop[2] - 2, 4, 32), Ink::DispText);
        if (i > first) {
            const double gap = f.shown - frames[i - 1].shown;
            const QString label = qs(wording::ms(gap));
            if (x.px(f.shown) - x.px(frames[i - 1].shown) > textWidth(label, Type::Body) + 12)
                sheet.text(0.5 * (x.px(f.shown) + x.px(frames[i - 1].shown)), rowTop[2] + 5, label,
                           i == slowest ? Type::BodyBold : Type::Body, i == slowest ? Ink::Over : Ink::Ink,
                           Align::Centre);
        }
    }
    // Latency as a thread that follows its own frame.
    const auto& f = frames[slowest];
    const double a = x.px(f.cpuStart), b = x.px(f.cpuEnd), c = std::min(x.px(f.gpuEnd), right),
                 d = std::min(x.px(f.shown), right);
    const double between1 = rowTop[0] + 36, between2 = rowTop[1] + 36;
    const QPolygonF thread({QPointF(a, rowTop[0] - 4), QPointF(a, between1), QPointF(b, between1), QPointF(b, between2),
                            QPointF(c, between2), QPointF(d, between2), QPointF(d, rowTop[2] - 2)});
    sheet.curve(thread, Ink::Ground, 4);
    sheet.curve(thread, Ink::Ink, 1.8);
    sheet.circle({a, rowTop[0] - 4}, 3, Ink::Ink);
    sheet.circle({d, rowTop[2] - 2}, 3, Ink::Ink);
    const QString words =
        say("frame %1: latency %2 ms, along the thread").arg(slowest + 1).arg(std::lround(f.shown - f.cpuStart));
    sheet.text(std::clamp(a - 10, left, right - textWidth(words, Type::Body)), top + 2, words, Type::Body);
}

void axes(Sheet& sheet, const Scale& x, const Scale& y, double step) {
    const double left = x.fromPx, right = x.toPx, bottom = y.fromPx, top = y.toPx;
    sheet.rect(QRectF(left, top, right - left, bottom - top), Ink::Paper);
    for (double v = y.fromValue; v <= y.toValue + 1e-9; v += step) {
        sheet.line({left, y.px(v)}, {right, y.px(v)}, Ink::Grid, 1);
        sheet.text(left - 8, y.px(v) - 8, QString::number(v), Type::Small, Ink::Muted, Align::Right);
    }
    sheet.text(left - 8, top - 22, say("fps"), Type::Small, Ink::Muted, Align::Right);
    const double tick = niceStep(x.toValue - x.fromValue, 7);
    for (double v = std::ceil(x.fromValue / tick) * tick; v <= x.toValue; v += tick) {
        sheet.line({x.px(v), bottom}, {x.px(v), bottom + 5}, Ink::Ink, 1.2);
        sheet.text(x.px(v), bottom + 6, QString::number(v), Type::Small, Ink::Muted, Align::Centre);
    }
    sheet.text(right + 14, bottom + 6, say("cap, fps"), Type::Small, Ink::Muted);
}

/// What the schools offer, as far as there is room for their names.
void flags(Sheet& sheet, const View& view, const Scale& x, double top) {
    const auto now = shownCap(view);
    std::vector<std::pair<double, QString>> all;
    for (const auto& offer : view.get<results::CapView>()->offers)
        if (const auto rate = offer.plan.pacedTo(); rate && rate->value() >= x.fromValue &&
                                                    rate->value() <= x.toValue &&
                                                    (!now || rate->value() != now->value()))
            all.emplace_back(x.px(rate->value()), qs(wording::wishFps(*rate)) + QLatin1Char(' ') +
                                                      qs(wording::capRule(view.w, offer.school)));
    std::sort(all.begin(), all.end());
    double lastEnd = x.fromPx - 10;
    for (const auto& [px, label] : all) {
        const double w = textWidth(label, Type::Small);
        double at = std::max(px - w / 2, lastEnd + 8);
        // The knob and its focus ring keep their place.
        const double knob = now ? x.px(std::clamp(now->value(), x.fromValue, x.toValue)) : -1e9;
        if (at < knob + 18 && at + w > knob - 18) at = knob + 18;
        if (at + w > x.toPx + 80) break;
        sheet.line({px, top - 8}, {px, top}, Ink::Ink, 1.2);
        sheet.text(at, top - 24, label, Type::Small, Ink::Ink);
        lastEnd = at + w;
    }
}

/// The cap, to be dragged or typed.
void capKnob(Sheet& sheet, const View& view, const Scale& x, double top, double bottom) {
    const auto now = shownCap(view);
    if (now) {
        const double px = x.px(std::clamp(now->value(), x.fromValue, x.toValue));
        sheet.line({px, top - 2}, {px, bottom}, Ink::Over, 2.6);
        sheet.circle({px, top - 2}, 8, Ink::Over);
        const QString value = qs(wording::wishFps(*now));
        const bool bySync = !shownPlan(view).cap && !view.state<PaceState>().dragged;
        const double w =
            sheet.text(px + 8, bottom - 22, bySync ? say("sync at %1").arg(value) : say("cap %1").arg(value),
                       Type::BodyBold, Ink::Over, Align::Left, 0, Ink::Paper);
        Hot knob;
        knob.id = QStringLiteral("pace.knob");
        knob.name = say("Cap %1 fps").arg(value);
        knob.role = Role::Slab;
        knob.rect = QRectF(px - 10, top - 12, 20, 20);
        knob.hint = say("Drag it, or Up and Down by 1 fps");
        sheet.hot(knob);
        Hot typed;
        typed.id = QStringLiteral("pace.cap");
        typed.name = say("Cap, fps, or none");
        typed.role = Role::Value;
        typed.rect = QRectF(px + 4, bottom - 26, w + 8, 24);
        typed.edit = value;
        sheet.hot(typed);
    }
}

void curves(Sheet& sheet, const View& view, double top) {
    const auto& cap = *view.get<results::CapView>();
    const Scale x = paceCapScale(view, sheet.size());
    const double left = x.fromPx, right = x.toPx, bottom = sheet.height() - 44;
    double low = 1e9, high = 0;
    for (const auto& p : cap.curve) {
        high = std::max(high, p.average.value());
        low = std::min(low, p.tenthPercentLow ? p.tenthPercentLow->low : p.average.value());
    }
    const auto& brief = *view.edits().goal.brief;
    if (brief.floor()) low = std::min(low, brief.floor()->value());
    low = std::min(low, brief.target.value());
    high = std::max(high, brief.target.value());
    const double step = niceStep(1.1 * high - 0.8 * low, bottom - top < 160 ? 4 : 7);
    const Scale y{std::floor(0.85 * low / step) * step, std::ceil(1.04 * high / step) * step, bottom, top};
    axes(sheet, x, y, step);
    const auto band = [&](auto member, Ink ink) {
        QPolygonF area;
        for (const auto& p : cap.curve)
            if (p.*member) area.append(QPointF(x.px(p.plan.cap->value()), y.px((p.*member)->high)));
        for (auto it = cap.curve.rbegin(); it != cap.curve.rend(); ++it)
            if ((*it).*member) area.append(QPointF(x.px(it->plan.cap->value()), y.px(((*it).*member)->low)));
        if (area.size() > 3) sheet.area(area, ink);
    };
    band(&pace::CapPrediction::tenthPercentLow, Ink::Band);
    band(&pace::CapPrediction::onePercentLow, Ink::Band2);
    const auto middle = [&](auto member) {
        QPolygonF points;
        for (const auto& p : cap.curve)
            if (p.*member) points.append(QPointF(x.px(p.plan.cap->value()), y.px((p.*member)->expected())));
        return points;
    };
    const QPolygonF tenth = middle(&pace::CapPrediction::tenthPercentLow),
                    one = middle(&pace::CapPrediction::onePercentLow);
    QPolygonF average;
    for (const auto& p : cap.curve) average.append(QPointF(x.px(p.plan.cap->value()), y.px(p.average.value())));
    if (tenth.size() > 1) sheet.curve(tenth, Ink::Ink, 1.6, {6, 4});
    if (one.size() > 1) sheet.curve(one, Ink::Ink, 1.8);
    sheet.curve(average, Ink::Ink, 3);
    double lastLabel = -1e9;
    const auto endLabel = [&](const QPolygonF& points, const QString& text, Type type) {
        if (points.size() < 2) return;
        const double at = std::max(points.last().y() - 9, lastLabel + 18);
        lastLabel = at;
        sheet.text(right + 10, at, text, type);
    };
    endLabel(average, say("average"), Type::BodyBold);
    endLabel(one, say("1% low"), Type::Body);
    endLabel(tenth, say("0.1% low"), Type::Body);
    sheet.line({left, y.px(brief.target.value())}, {right, y.px(brief.target.value())}, Ink::Over, 1.4);
    sheet.text(left + 8, y.px(brief.target.value()) - 18, say("target %1").arg(qs(wording::wishFps(brief.target))),
               Type::BodyBold, Ink::Over, Align::Left, 0, Ink::Paper);
    if (brief.floor() && brief.floor()->value() > y.fromValue &&
        std::abs(y.px(brief.floor()->value()) - y.px(brief.target.value())) > 20) {
        sheet.line({left, y.px(brief.floor()->value())}, {right, y.px(brief.floor()->value())}, Ink::Over, 1.2, {5, 4});
        sheet.text(left + 8, y.px(brief.floor()->value()) - 18,
                   say("lowest acceptable %1").arg(qs(wording::wishFps(*brief.floor()))), Type::BodyBold, Ink::Over,
                   Align::Left, 0, Ink::Paper);
    }
    flags(sheet, view, x, top);
    capKnob(sheet, view, x, top, bottom);
    sheet.text(24, sheet.height() - 22,
               say("Bands show what a replay cannot know. A cap is a prediction until it has been run."), Type::Body,
               Ink::Muted, Align::Left, sheet.width() - 40);
}

/// Gives their end.
double predictionLines(Sheet& sheet, const pace::CapOffer& offer, double x, double y, double w) {
    const auto& p = offer.prediction;
    const auto paced = offer.plan.pacedTo();
    sheet.text(x, y + 8,
               paced ? say("At %1, predicted").arg(qs(wording::wishFps(*paced))) : say("Without a cap, predicted"),
               Type::Heading);
    y += 32;
    const auto line = [&](const QString& name, const QString& figure) {
        if (y + 20 > sheet.height()) return;
        sheet.row(x, y, w, name, figure, Type::BodyBold);
        y += 21;
    };
    const auto range = [](const std::optional<pace::Band>& b) {
        return b ? say("%1 to %2 fps").arg(qs(wording::fps(b->low)), qs(wording::fps(b->high)))
                 : say("not measured: run it");
    };
    line(say("average"), say("%1 fps").arg(qs(wording::fps(p.average.value()))));
    line(say("1% low"), range(p.onePercentLow));
    line(say("0.1% low"), range(p.tenthPercentLow));
    line(say("slowest second"), range(p.slowestSecond));
    line(say("latency, CPU start to panel"),
         p.latencyMs ? say("%1 ms").arg(qs(wording::ms(*p.latencyMs))) : say("not known"));
    line(say("GPU busy"), p.gpuBusy ? qs(wording::percent(*p.gpuBusy)) : say("not known"));
    return y;
}

} // namespace

Scale paceCapScale(const View& view, QSizeF size) {
    const auto& curve = view.get<results::CapView>()->curve;
    if (curve.empty()) return {30, 120, 88, size.width() - 100};
    return {curve.front().plan.cap->value(), curve.back().plan.cap->value(), 88, size.width() - 100};
}

Drawing layoutPace(const View& view, QSizeF size) {
    if (!view.get<results::CapView>() || view.get<results::CapView>()->curve.empty() || !view.edits().goal.brief)
        return layoutEmpty(
            view, size, say("What a cap does to these frames"),
            results::idsOf<results::ReadChecks>(*view.results).empty()
                ? say("Runs with the chosen settings come first: every cap is computed from their frames, all "
                      "rules side by side.")
                : say("The choice was read off a counter: without its frames no cap can be tried on them. Drop a log "
                      "of it to see them."));
    Sheet sheet(size);
    const auto cap = shownCap(view);
    const auto& run = *view.session.facts->run(view.get<results::CapView>()->run);
    sheet.heading(
        24, 12,
        cap ? say("What a cap of %1 fps does to these frames").arg(qs(wording::wishFps(*cap)))
            : say("What these frames do without a cap"),
        say("%1, replayed · arrows: next frame, N: the worst").arg(qs(wording::runTitle(view.w, view.session, run))));
    if (size.height() >= 500) {
        tenFrames(sheet, view, 68);
        curves(sheet, view, 270);
        return sheet.take();
    }
    const bool frames = view.state<PaceState>().frames;
    if (frames)
        tenFrames(sheet, view, 92);
    else
        curves(sheet, view, 100);
    const QString hint = say("V: the other picture");
    const double left = sheet.choice(size.width() - 16, 62, QStringLiteral("pace.frames"), say("frames"), hint, frames);
    sheet.choice(left, 62, QStringLiteral("pace.caps"), say("caps"), hint, !frames);
    return sheet.take();
}

Drawing layoutPaceColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    sheet.text(x, 16, say("Cap rules, on your own frames"), Type::Heading);
    if (!view.get<results::CapView>()) {
        sheet.wrapped(x, 40, w,
                      say("Best lows, headroom, slowest seconds, even, inside the variable range, no cap: each rule "
                          "will show its cap here and what it does to the lows."),
                      Type::Body, Ink::Muted);
        return sheet.take();
    }
    sheet.text(
        x, 37,
        say("replayed, %1").arg(qs(wording::lowRule(view.w, view.get<results::CapView>()->replay.brief.lowRule))),
        Type::Body, Ink::Muted);
    double y = 62;
    std::vector<const pace::CapOffer*> all;
    if (const auto* own = view.get<results::OwnCap>(); own != nullptr && own->offer) all.push_back(&*own->offer);
    for (const auto& offer : view.get<results::CapView>()->offers) all.push_back(&offer);
    const auto page = pageIn(view, QStringLiteral("caps"), all.size(), size.height() - y - 4, 57);
    for (std::size_t i = page.first; i < page.last; ++i) {
        const auto& offer = *all[i];
        const bool chosen = view.edits().pacing.cap && view.edits().pacing.cap->school == offer.school;
        const QRectF r(x - 4, y, w + 8, 52);
        sheet.rect(r, chosen ? Ink::Paper : Ink::None, chosen ? Ink::Ink : Ink::Line, chosen ? 1.5 : 1.2);
        sheet.text(x + 40, y + 14,
                   offer.plan.pacedTo() ? QString::number(std::round(offer.plan.pacedTo()->value()))
                                        : QStringLiteral("–"),
                   Type::CapFigure, chosen ? Ink::Over : Ink::Ink, Align::Right);
        sheet.text(x + 52, y + 3, qs(wording::capRule(view.w, offer.school)), Type::BodyBold,
                   offer.applies ? Ink::Ink : Ink::Muted, Align::Left, w - 56);
        sheet.text(x + 52, y + 19,
                   offer.conflict  ? qs(wording::capConflict(view.w, *offer.conflict))
                   : offer.applies ? qs(wording::capPlan(view.w, offer.plan, view.session.panel()))
                                   : qs(wording::capRuleMeaning(view.w, offer.school, view.rules)),
                   Type::Small, offer.conflict ? Ink::Over : Ink::Muted, Align::Left, w - 56);
        sheet.text(x + 52, y + 34,
                   offer.applies ? qs(wording::capPrediction(view.w, offer.prediction)) : say("not applicable here"),
                   Type::Small, Ink::Ink, Align::Left, w - 56);
        Hot h;
        h.id = QStringLiteral("cap.") + qs(std::string(pace::keyOf(offer.school)));
        h.name = say("Cap: %1").arg(qs(wording::capRule(view.w, offer.school)));
        h.rect = r;
        h.focusable = offer.applies;
        sheet.hot(h);
        y += 57;
    }
    drawPager(sheet, x + w, y, page, say("%1 to %2 of %3"));
    if (!page.whole()) y += pagerHeight;
    const auto* now = results::shownOffer(view.session, *view.results);
    if (now == nullptr || y + 110 > size.height()) return sheet.take();
    y = predictionLines(sheet, *now, x, y, w);
    const QString stale = qs(wording::stale(view.w, results::standingOf(*view.results).cap));
    if (!stale.isEmpty() && y + 20 < size.height()) sheet.text(x, y + 2, stale, Type::BodyBold, Ink::Over);
    return sheet.take();
}

} // namespace impasto::app
