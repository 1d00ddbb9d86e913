// SPDX-License-Identifier: GPL-3.0-or-later
// The brief as a sentence with underlined values, the ruler of rates under it, and what it asks of every frame.
#include "stations/brief/brief.h"
#include "pictures/sentence.h"

#include <cmath>
#include <impasto/base/text.h>
#include <impasto/pace/power.h>
#include <impasto/wording/bounds.h>

namespace impasto::app {
namespace {

/// What may be asked besides rates and picture: each any, or a limit.
void writeBounds(Sentence& s, const View& view, const run::Brief& b) {
    const auto value = [&](run::Bound bound) {
        const auto& asked = b.bounds[bound];
        const QString name = qs(wording::boundName(view.w, bound));
        const double shown = asked ? *asked / wording::typedFrom(bound, 1) : 0;
        const QString number = qs(shortestText(std::round(1000 * shown) / 1000)),
                      unit = qs(wording::boundUnit(view.w, bound));
        return SentenceValue{
            "bound." + std::string(run::keyOf(bound)),
            (run::isLeast(bound) ? say("Least %1, %2, or any") : say("Most %1, %2, or any")).arg(name, unit),
            !asked                       ? say("any")
            : unit == QLatin1String("%") ? number + unit
                                         : number + QLatin1Char(' ') + unit,
            asked ? number : say("any")};
    };
    std::vector<SentenceValue> values;
    for (const auto bound : {run::Bound::Latency, run::Bound::Power, run::Bound::GpuTemperature, run::Bound::GpuLoad,
                             run::Bound::Fan, run::Bound::BatteryHours})
        values.push_back(value(bound));
    s.say(pace::batteryOf(view.session.machine()) || b.bounds[run::Bound::BatteryHours]
              ? say("At most: latency %1, power %2, GPU temperature %3, GPU load %4, fan %5; the battery lasts %6.")
              : say("At most: latency %1, power %2, GPU temperature %3, GPU load %4, fan %5."),
          values);
}

/// The goal in words. One that is not set is offered as something that can be set.
double writeSentence(Sheet& sheet, const View& view, const run::Brief& b) {
    Sentence s(sheet, 24, 20, sheet.width() - 60);
    const QString target = qs(wording::wishFps(b.target)),
                  floor = b.lowestLow ? qs(wording::wishFps(*b.lowestLow)) : say("none"),
                  share = b.pictureFloor ? QString::number(std::lround(100 * *b.pictureFloor)) : say("none"),
                  floorName = say("Lowest acceptable low, fps, or none"),
                  shareName = say("Least share of the picture, percent, or none");
    const SentenceValue rate{"brief.target", say("Target rate, fps"), say("%1 fps").arg(target), target};
    const SentenceValue route{"brief.route", say("Route"),
                              view.edits().subject.route.empty() ? say("the route") : qs(view.edits().subject.route)};
    const SentenceValue low{"brief.floorof", say("The 1% low, or the slowest second"),
                            b.floorOf == run::FloorOf::SlowestSecond ? say("slowest second") : say("1% low")};
    if (b.lowestLow)
        s.say(say("Hold %1 in every part of %2, with a %3 of at least %4."),
              {rate, route, low, {"brief.floor", floorName, say("%1 fps").arg(floor), floor}});
    else
        s.say(say("Hold %1 in every part of %2, with %3 %4."),
              {rate, route, {"brief.floor", floorName, say("any"), floor}, low});
    s.say(say("Kind of scene: %1."), {{"brief.scene", say("How the scene is played again"),
                                       qs(wording::sceneKind(view.w, view.session.scene())).toLower()}});
    const QString shown = b.shown ? qs(wording::wishFps(*b.shown)) : say("none"),
                  shownName = say("Rate shown with invented frames, fps, or none");
    if (b.shown)
        s.say(say("With frame generation show %1, invented frames among them."),
              {{"brief.shown", shownName, say("%1 fps").arg(shown), shown}});
    else
        s.say(say("Show %1."), {{"brief.shown", shownName, say("what is rendered, no invented frames"), shown}});
    const QString onTime = QString::number(std::round(1000 * b.wishedOnTime()) / 10),
                  tolerance = QString::number(std::round(1000 * b.tolerated()) / 10);
    s.say(say("Held means %1 of the frames on time, up to %2 over the budget."),
          {{"brief.ontime", say("Share of frames on time, percent, or the style's"), onTime + QStringLiteral("%"),
            b.onTimeShare ? onTime : say("style")},
           {"brief.tolerance", say("Tolerance over the budget, percent, or the style's"),
            tolerance + QStringLiteral("%"), b.tolerance ? tolerance : say("style")}});
    const SentenceValue style{"brief.style", say("Style"), qs(wording::style(view.w, b.style))},
        steering{"brief.steering", say("What is steered with"), qs(wording::steering(view.w, b.steering))};
    if (b.pictureFloor)
        s.say(say("The style is %1, steered with %2; keep at least %3 of the picture."),
              {style, steering, {"brief.picture", shareName, share + QStringLiteral("%"), share}});
    else
        s.say(say("The style is %1, steered with %2; keep %3 of the picture."),
              {style, steering, {"brief.picture", shareName, say("as much as fits"), share}});
    writeBounds(s, view, b);
    s.say(say("Lows are counted as the %1."),
          {{"brief.lows", say("How lows are counted"), qs(wording::lowRule(view.w, b.lowRule))}});
    return s.bottom();
}

void ruler(Sheet& sheet, const View& view, const run::Brief& b, double top) {
    const double left = 42, right = sheet.width() - 34, axis = top + 56;
    const double low = std::log(20.0), high = std::log(std::max(160.0, 1.15 * b.target.value()));
    const auto px = [&](double fps) {
        return left + (std::log(std::clamp(fps, 20.0, std::exp(high))) - low) / (high - low) * (right - left);
    };
    const auto panel = view.session.panel();
    if (panel && panel->variable) {
        const double from = px(panel->variable->lowest.value()), to = px(panel->variable->highest.value());
        Shape band;
        sheet.area(QPolygonF(QRectF(from, axis - 26, to - from, 26)), Ink::Disp, 0.28);
        sheet.hatch(QRectF(left, axis - 26, from - left, 26), Ink::Line, 6);
        sheet.text(from - 8, axis - 22, say("below %1 each frame is shown twice").arg(panel->variable->lowest.value()),
                   Type::Note, Ink::Ink, Align::Right, from - left - 12, Ink::Paper);
        sheet.text(to - 8, axis - 22, say("the panel follows every rate"), Type::Note, Ink::Ink, Align::Right,
                   std::max(10.0, to - px(b.target.value()) - 16));
    }
    sheet.line({left, axis}, {right, axis}, Ink::Ink, 1.5);
    double lastEnd = 0;
    for (const double fps : {30.0, 40.0, 60.0, 90.0, 120.0, 144.0, 240.0}) {
        if (fps > std::exp(high) || px(fps) - 20 < lastEnd) continue;
        sheet.line({px(fps), axis}, {px(fps), axis + 7}, Ink::Ink, 1.2);
        sheet.text(px(fps), axis + 8, QString::number(fps), Type::Body, Ink::Ink, Align::Centre);
        sheet.text(px(fps), axis + 26, qs(wording::ms(1000 / fps)), Type::Small, Ink::Muted, Align::Centre);
        lastEnd = px(fps) + 20;
    }
    sheet.text(8, axis + 8, say("fps"), Type::Small, Ink::Muted);
    sheet.text(8, axis + 26, say("ms"), Type::Small, Ink::Muted);
    const double at = px(b.target.value());
    sheet.line({at, top + 6}, {at, axis}, Ink::Over, 2.6);
    sheet.circle({at, top + 6}, 7, Ink::Over);
    const auto beyond = pace::beyondPanel(panel, b.target);
    const QString words =
        beyond ? say("target %1 fps: this panel shows at most %2")
                     .arg(qs(wording::wishFps(b.target)), qs(wording::wishFps(Fps(beyond->value()))))
               : say("target %1 fps, budget %2 ms")
                     .arg(qs(wording::wishFps(b.target)), QString::number(budgetOf(b.target).value(), 'f', 2));
    const double room = right - at - 14, needed = textWidth(words, Type::BodyBold);
    sheet.text(needed <= room ? at + 14 : at - 14, top - 3, words, Type::BodyBold, Ink::Over,
               needed <= room ? Align::Left : Align::Right, needed <= room ? room : at - left - 14);
    if (b.lowestLow && b.lowestLow->value() < b.target.value()) {
        const double f = px(b.lowestLow->value());
        sheet.line({f, top + 14}, {f, axis}, Ink::Over, 1.2, {5, 4});
        sheet.text(std::min(f - 8, at - 20), top - 3,
                   say("lowest acceptable, %1 fps").arg(qs(wording::wishFps(*b.lowestLow))), Type::BodyBold, Ink::Over,
                   Align::Right);
    }
    Hot h;
    h.id = QStringLiteral("brief.ruler");
    h.name = say("Target %1 fps").arg(qs(wording::wishFps(b.target)));
    h.role = Role::Slab;
    h.rect = QRectF(at - 10, top - 4, 20, axis - top + 4);
    h.hint = say("Up and Down change it by 1 fps");
    sheet.hot(h);
}

/// What the target asks of each lane, with what the runs so far say.
void asks(Sheet& sheet, const View& view, const run::Brief& b, double top) {
    const double left = 88, right = sheet.width() - 60, budget = budgetOf(b.target).value();
    const bool low = sheet.height() - top < 150;
    if (top + 24 > sheet.height()) return;
    sheet.text(24, top, say("What this asks of every frame"), Type::Game);
    const auto fill = results::fillOf(*view.results);
    const QString asked = qs(wording::fillAsked(view.w, b, fill));
    if (!low)
        sheet.text(
            24, top + 23,
            !asked.isEmpty()
                ? asked
                : say("mean work that still leaves %1 of the frames within %2 ms, by how much the frames of your runs "
                      "vary")
                      .arg(qs(wording::percent(b.wishedOnTime())), QString::number(budget, 'f', 2)),
            Type::Body, fill ? Ink::Muted : Ink::Over, Align::Left, sheet.width() - 48);
    const Scale x{0, 1.2 * budget, left, right};
    struct Lane {
        QString name;
        run::Lane lane;
        Ink ink;
    };
    const double first = top + (low ? 28 : 52), gap = low ? 6 : 14;
    if (sheet.height() - first < 2 * (16 + gap) + 22) return;
    double y = first;
    for (const auto& lane : {Lane{say("CPU"), run::Lane::Cpu, Ink::Cpu}, Lane{say("GPU"), run::Lane::Gpu, Ink::Gpu}}) {
        const double share = results::safeShareOf(view.session, *view.results, lane.lane), usable = share * budget;
        const bool byHand = view.edits().goal.shares.of(lane.lane).has_value();
        const double height =
            std::clamp((sheet.height() - first - 22) / 2 - gap, 16.0, sheet.height() < 500 ? 22.0 : 30.0);
        sheet.text(left - 10, y + height / 2 - 9, lane.name, Type::BodyBold, Ink::Ink, Align::Right);
        double worst = 0;
        for (const auto& v : results::verdictsOf(*view.results))
            if (const auto* f = v.of(lane.lane)) worst = std::max(worst, f->meanMs);
        if (worst > 0) sheet.slab(QRectF(left, y, x.px(std::min(worst, 1.18 * budget)) - left, height), lane.ink, 3);
        sheet.rect(QRectF(left, y, x.px(usable) - left, height), Ink::None, lane.ink, 1.5, {5, 4});
        const QString measured =
            worst > 0 ? say("%1 ms in the worst part").arg(qs(wording::ms(worst))) : say("nothing measured yet");
        sheet.text(left + 10, y + height / 2 - 9,
                   say("safe limit %1 ms, %2 · %3").arg(qs(wording::ms(usable)), qs(wording::percent(share)), measured),
                   Type::Body, worst > 0 ? Ink::OnSlab : Ink::Ink, Align::Left, x.px(usable) - left - 16);
        Hot h;
        h.id = lane.lane == run::Lane::Cpu ? QStringLiteral("share.cpu") : QStringLiteral("share.gpu");
        h.name = say("Safe limit of the %1: percent of the budget, or measured").arg(lane.name);
        h.role = Role::Value;
        h.rect = QRectF(left, y, x.px(usable) - left, height);
        h.edit = byHand ? QString::number(std::lround(100 * share)) : say("measured");
        h.hint = say("A percentage of your own, or \"measured\"");
        sheet.hot(h);
        y += height + gap;
    }
    sheet.line({left, y}, {right, y}, Ink::Ink, 1.2);
    sheet.line({x.px(budget), first - 6}, {x.px(budget), y}, Ink::Over, 2.6);
    const double step = niceStep(1.2 * budget, 5);
    for (double v = 0; v <= 1.2 * budget; v += step)
        sheet.text(x.px(v), y + 4, qs(shortestText(std::round(v * 100) / 100)), Type::Small, Ink::Muted, Align::Centre);
    if (y + 76 > sheet.height() || view.session.route() == nullptr) return;
    sheet.text(24, y + 32, qs(wording::sceneKind(view.w, view.session.scene())), Type::BodyBold);
    sheet.text(24, y + 50, qs(wording::sceneMeaning(view.w, view.session.scene())), Type::Body, Ink::Muted, Align::Left,
               sheet.width() - 48);
}

} // namespace

Drawing layoutBrief(const View& view, QSizeF size) {
    Sheet sheet(size);
    if (!view.edits().goal.brief) {
        sheet.heading(24, 12, say("Your goal"), say("With a target rate, every figure is either met or not."));
        sheet.wrapped(24, 80, size.width() - 60,
                      say("Set the rate that every part of the route should hold. 60 suits most slow games; "
                          "competitive play wants what the panel shows; a handheld is calmer at 40."),
                      Type::Body);
        sheet.button(QRectF(24, 130, 230, 30), QStringLiteral("brief.begin"), say("Start with 60 fps"));
        return sheet.take();
    }
    run::Brief b = *view.edits().goal.brief;
    b.target = view.target();
    Sheet measured(size);
    const double below = writeSentence(measured, view, b) + 26;
    const double paper = std::max(size.height() < 500 ? 218.0 : 262.0, below + 108);
    sheet.rect(QRectF(0.5, 0, size.width() - 1, paper), Ink::Paper, Ink::Ink, 1.5);
    writeSentence(sheet, view, b);
    ruler(sheet, view, b, std::max(below, paper - 116));
    asks(sheet, view, b, paper + 14);
    return sheet.take();
}

Drawing layoutBriefColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    sheet.text(x, 16, say("Styles"), Type::Heading);
    sheet.text(x, 37, say("what matters most; all of it can be changed"), Type::Body, Ink::Muted);
    double y = 64;
    for (const auto style : run::allStyles) {
        const bool chosen = view.edits().goal.brief && view.edits().goal.brief->style == style;
        const QRectF r(x - 4, y, w + 8, 62);
        if (r.bottom() > size.height()) break;
        if (chosen) sheet.rect(r, Ink::Paper, Ink::Ink, 1.5);
        sheet.text(x + 6, y + 4, qs(wording::style(view.w, style)), Type::BodyBold);
        if (chosen) sheet.text(x + w - 4, y + 5, say("chosen"), Type::Small, Ink::Muted, Align::Right);
        sheet.text(x + 6, y + 22, qs(wording::styleWants(view.w, style)), Type::Body, Ink::Ink, Align::Left, w - 8);
        sheet.text(x + 6, y + 40, qs(wording::styleGivesUp(view.w, style)), Type::Body, Ink::Muted, Align::Left, w - 8);
        Hot h;
        h.id = QStringLiteral("style.") + qs(std::string(run::keyOf(style)));
        h.name = qs(wording::style(view.w, style));
        h.rect = r;
        h.focusable = view.edits().goal.brief.has_value();
        sheet.hot(h);
        y += 68;
    }
    if (y + 60 < size.height()) {
        sheet.text(x, y + 8, say("How lows are counted"), Type::Heading);
        sheet.wrapped(x, y + 30, w,
                      qs(wording::lowRuleMeaning(view.w, view.edits().goal.brief ? view.edits().goal.brief->lowRule
                                                                                 : stats::LowRule::WorstMean)) +
                          QStringLiteral("."),
                      Type::Body, Ink::Muted);
    }
    return sheet.take();
}

} // namespace impasto::app
