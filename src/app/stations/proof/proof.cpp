// SPDX-License-Identifier: GPL-3.0-or-later
// Before and after on one axis in percent of the wish, with the interval of the difference.
#include "stations/proof/proof.h"
#include "stations/pages.h"

#include "pictures/trace.h"

#include <cmath>
#include <impasto/results/pace.h>
#include <impasto/wording/power.h>

namespace impasto::app {
namespace {

using proof::WishOutcome;
using proof::WishState;

struct Columns {
    double figures, axisLeft, axisRight, difference, state, right;
};

Columns columnsOf(QSizeF size) {
    const double w = size.width() - 40;
    return {24 + 0.35 * w, 24 + 0.38 * w, 24 + 0.66 * w, 24 + 0.80 * w, 24 + 0.83 * w, size.width() - 16};
}

/// A mark for each state, never by colour alone.
void stateMark(Sheet& sheet, double x, double y, WishState state) {
    const QRectF r(x, y, 9, 9);
    if (state == WishState::Met)
        sheet.rect(r, Ink::Ink, Ink::Ink, 1.2);
    else if (state == WishState::NotMet)
        sheet.rect(r, Ink::None, Ink::Over, 1.8);
    else
        sheet.rect(r, Ink::None, Ink::Ink, 1.2, {2.5, 2});
}

void point(Sheet& sheet, const stats::Interval& i, const WishOutcome& w, const Scale& axis, double y, bool solid) {
    if (i.count == 0 || w.wanted <= 0) return;
    const auto px = [&](double v) { return axis.px(std::clamp(100 * w.keeps(v), axis.fromValue, axis.toValue)); };
    const double at = px(i.estimate);
    if (i.halfWidth && *i.halfWidth > 0)
        sheet.interval({px(i.estimate - *i.halfWidth), y}, {px(i.estimate + *i.halfWidth), y}, 12, Ink::Ink,
                       solid ? 2 : 1.2);
    sheet.circle({at, y}, 4, solid ? Ink::Ink : Ink::Paper, Ink::Ink, 1.5);
    const double share = 100 * w.keeps(i.estimate);
    if (share < axis.fromValue || share > axis.toValue) {
        const double sign = share < axis.fromValue ? -1 : 1;
        sheet.curve(
            QPolygonF({QPointF(at - sign * 2, y - 5), QPointF(at + sign * 6, y), QPointF(at - sign * 2, y + 5)}),
            Ink::Ink, 1.4);
    }
}

/// The part that keeps worst to the target; while it is not met, with the figure that decides.
QString nearest(const View& view, const WishOutcome& w) {
    const auto* worst = view.get<proof::Proof>()->worst();
    if (w.state == WishState::Met || worst == nullptr || worst->worst() == frames::HeldFigure::Average)
        return say("nearest to it: %1").arg(qs(wording::part(view.w, w.worstPart)));
    return say("%1: %2").arg(qs(wording::part(view.w, worst->part)),
                             qs(wording::heldFigureName(view.w, worst->worst())));
}

/// What of the runs a bound is held against.
QString whatIsRead(const View& view, run::Bound bound) {
    switch (bound) {
    case run::Bound::Latency:
        return say("CPU start to panel, mean");
    case run::Bound::GpuTemperature:
    case run::Bound::Fan:
        return say("highest reading");
    case run::Bound::BatteryHours:
        return say("battery over mean power");
    case run::Bound::Power:
        if (const auto* caps = view.get<results::CapView>(); caps != nullptr && caps->power)
            return say("mean, %1").arg(qs(wording::powerOf(view.w, caps->power->uncapped().of)));
        return say("mean of the readings");
    case run::Bound::GpuLoad:
        return say("mean of the readings");
    }
    return {};
}

/// "met", and of what no log tells that.
QString stateOf(const View& view, const WishOutcome& w) {
    return w.untold ? say("not told") : qs(wording::goalState(view.w, w.state));
}

void wishRow(Sheet& sheet, const View& view, const WishOutcome& w, double y, const Columns& c, const Scale& axis,
             double differenceScale) {
    sheet.text(24, y + 2, qs(wording::goal(view.w, w)), Type::BodyBold, Ink::Ink, Align::Left, c.figures - 24 - 120);
    const QString note =
        w.wish == proof::Wish::Target ? nearest(view, w)
        : w.wish == proof::Wish::LowestLow
            ? w.floorOf == run::FloorOf::SlowestSecond
                  ? say("whole seconds, whole route")
                  : say("%1, whole route").arg(qs(wording::lowRuleShort(view.w, view.edits().goal.brief->lowRule)))
        : w.bound                      ? w.untold ? say("no log tells it") : whatIsRead(view, *w.bound)
                             : w.wish == proof::Wish::Shown ? say("invented frames among them")
                                       : say("from its settings");
    sheet.text(24, y + 20, note, Type::Body, Ink::Muted, Align::Left, c.figures - 24 - 120);
    const QString after =
        w.after.count > 0 ? qs(wording::goalFigure(view.w, w, w.after.estimate)) : QStringLiteral("?");
    const double aw = sheet.text(c.figures, y + 11, after, Type::Figure, Ink::Ink, Align::Right);
    sheet.text(c.figures - aw - 4, y + 11,
               (w.before.count > 0 ? qs(wording::goalFigure(view.w, w, w.before.estimate)) : QStringLiteral("?")) +
                   QStringLiteral(" →"),
               Type::Figure, Ink::Muted, Align::Right);
    point(sheet, w.before, w, axis, y + 14, false);
    point(sheet, w.after, w, axis, y + 28, true);
    // The difference on its own small axis with zero.
    const double zero = c.axisRight + 22, room = c.difference - zero - 6;
    if (w.before.count > 0 && w.after.count > 0) {
        const double sign = w.atMost() ? -1 : 1, wanted = std::max(w.wanted, 1e-9); // right is better
        const auto px = [&](double v) {
            return zero + std::clamp(sign * v / wanted / differenceScale, -0.25, 1.0) * room;
        };
        sheet.line({zero, y + 4}, {zero, y + 20}, Ink::Ink, 1.2);
        const double end = px(w.difference.estimate), half = w.difference.halfWidth.value_or(0);
        sheet.rect(QRectF(std::min(zero, end), y + 9, std::abs(end - zero), 6), Ink::Band2);
        if (half > 0)
            sheet.interval({px(w.difference.estimate - sign * half), y + 12},
                           {px(w.difference.estimate + sign * half), y + 12}, 8, Ink::Ink, 2);
        sheet.text(c.difference, y + 23, qs(wording::goalChange(view.w, w)), Type::Body, Ink::Ink, Align::Right);
    }
    stateMark(sheet, c.state + 6, y + 16, w.state);
    sheet.text(c.state + 22, y + 11, stateOf(view, w), Type::BodyBold,
               w.state == WishState::NotMet ? Ink::Over : Ink::Ink, Align::Left, c.right - c.state - 22);
    Hot h;
    h.id = w.bound ? QStringLiteral("wish.") + qs(std::string(run::keyOf(*w.bound)))
                   : QStringLiteral("wish.%1").arg(static_cast<int>(w.wish));
    h.name = say("%1: %2").arg(qs(wording::goal(view.w, w)), stateOf(view, w));
    h.role = Role::Row;
    h.rect = QRectF(22, y, c.right - 22, 38);
    sheet.hot(h);
}

void runsInOrder(Sheet& sheet, const View& view, QRectF r) {
    const auto& proof = *view.get<proof::Proof>();
    sheet.text(r.left() - 34, r.top() - 28, say("The runs, in the order they were made"), Type::Heading, Ink::Ink,
               Align::Left, r.width() + 34);
    const auto& brief = *view.edits().goal.brief;
    // Of figures that were read off, the low is not always known: their averages then.
    const bool averages = proof.readOff && !brief.floor();
    const auto valueOf = [averages](const proof::ProofRun& run) { return averages ? run.worstPartRate : run.low; };
    double low = 1e9, high = 0;
    for (const auto& run : proof.runs) {
        low = std::min(low, valueOf(run));
        high = std::max(high, valueOf(run));
    }
    if (brief.floor()) low = std::min(low, brief.floor()->value());
    if (brief.floor()) high = std::max(high, brief.floor()->value());
    const double step = niceStep(std::max(1.0, 1.3 * (high - low)), r.height() < 110 ? 3 : 5);
    const Scale y{std::floor((low - 0.3 * step) / step) * step, std::ceil((high + 0.3 * step) / step) * step,
                  r.bottom(), r.top()};
    for (double v = y.fromValue; v <= y.toValue + 1e-9; v += step) {
        sheet.line({r.left(), y.px(v)}, {r.right(), y.px(v)}, Ink::Grid, 1);
        sheet.text(r.left() - 6, y.px(v) - 8, QString::number(v), Type::Small, Ink::Muted, Align::Right);
    }
    sheet.text(r.right(), r.top() + 2,
               averages                                       ? say("average, fps")
               : brief.floorOf == run::FloorOf::SlowestSecond ? say("slowest second, fps")
                                                              : say("1% low, fps"),
               Type::Small, Ink::Muted, Align::Right, 0, Ink::Ground);
    if (brief.floor()) {
        sheet.line({r.left(), y.px(brief.floor()->value())}, {r.right(), y.px(brief.floor()->value())}, Ink::Over, 1.6);
        sheet.text(r.right(), y.px(brief.floor()->value()) - 18,
                   say("lowest acceptable %1").arg(qs(wording::wishFps(*brief.floor()))), Type::BodyBold, Ink::Over,
                   Align::Right, 0, Ink::Ground);
    }
    const double pitch = r.width() / static_cast<double>(proof.runs.size() + 1);
    for (std::size_t i = 0; i < proof.runs.size(); ++i) {
        const double x = r.left() + pitch * static_cast<double>(i + 1);
        sheet.circle({x, y.px(valueOf(proof.runs[i]))}, 5, proof.runs[i].after ? Ink::Ink : Ink::Ground, Ink::Ink, 1.6);
        sheet.text(x, r.bottom() + 6, QString::number(view.session.numberOf(proof.runs[i].id)), Type::Small, Ink::Muted,
                   Align::Centre);
    }
    sheet.text(r.left() - 6, r.bottom() + 6, say("run"), Type::Small, Ink::Muted, Align::Right);
}

void distributions(Sheet& sheet, const View& view, QRectF r) {
    if (view.get<proof::Proof>()->readOff) return; // no frames were recorded
    sheet.text(r.left(), r.top() - 28, say("Frame times, before dashed and after solid"), Type::Heading, Ink::Ink,
               Align::Left, r.width());
    std::vector<double> before, after;
    for (const auto& run : view.get<proof::Proof>()->runs) {
        const auto& frames = view.session.facts->run(run.id)->capture->framesMs;
        auto& to = run.after ? after : before;
        to.insert(to.end(), frames.begin(), frames.end());
    }
    if (before.empty()) return;
    const double budget = budgetOf(view.target()).value();
    double low = *stats::quantile(before, 0.002), high = std::max(*stats::quantile(before, 0.99), 1.15 * budget);
    if (!after.empty()) {
        low = std::min(low, *stats::quantile(after, 0.002));
        high = std::max(high, *stats::quantile(after, 0.99));
    }
    low *= 0.9;
    high *= 1.08;
    const Scale x{low, high, r.left(), r.right()};
    const auto outline = [&](const std::vector<double>& values) {
        const auto d = density(values, low, high, 140);
        QPolygonF points;
        points.append(QPointF(r.left(), r.bottom()));
        for (std::size_t i = 0; i < d.size(); ++i)
            points.append(
                QPointF(x.px(low + (high - low) * (static_cast<double>(i) + 0.5) / static_cast<double>(d.size())),
                        r.bottom() - 0.86 * d[i] * r.height()));
        points.append(QPointF(r.right(), r.bottom()));
        return points;
    };
    sheet.rect(QRectF(r.left(), r.top(), std::max(0.0, x.px(budget) - r.left()), r.height()), Ink::Paper);
    if (!after.empty()) {
        sheet.area(outline(after), Ink::Band2);
        sheet.curve(outline(after), Ink::Ink, 1.8);
    }
    sheet.curve(outline(before), Ink::Ink, 1.6, {4, 3});
    sheet.line({r.left(), r.bottom()}, {r.right(), r.bottom()}, Ink::Ink, 1.5);
    sheet.line({x.px(budget), r.top()}, {x.px(budget), r.bottom()}, Ink::Over, 2.6);
    sheet.text(x.px(budget) + 6, r.top() - 2, say("%1 ms").arg(QString::number(budget, 'f', 2)), Type::BodyBold,
               Ink::Over);
    const auto onTime = [&](bool side) {
        double sum = 0, runs = 0;
        for (const auto& run : view.get<proof::Proof>()->runs)
            if (const auto* f = view.of<results::RunFigures>(run.id); f != nullptr && run.after == side) {
                sum += f->summary.onTimeShare.value_or(0);
                ++runs;
            }
        return qs(wording::percent(runs > 0 ? sum / runs : 0));
    };
    sheet.text(r.right(), r.top() + 18, say("before: %1 on time").arg(onTime(false)), Type::Body, Ink::Ink,
               Align::Right, 0, Ink::Ground);
    if (!after.empty())
        sheet.text(r.right(), r.top() + 36, say("after: %1 on time").arg(onTime(true)), Type::Body, Ink::Ink,
                   Align::Right, 0, Ink::Ground);
    const double step = niceStep(high - low, 7);
    for (double v = std::ceil(low / step) * step; v <= high; v += step)
        sheet.text(x.px(v), r.bottom() + 6, QString::number(v), Type::Small, Ink::Muted, Align::Centre);
}

} // namespace

Drawing layoutProof(const View& view, QSizeF size) {
    const auto* proof = view.get<proof::Proof>();
    if (!proof || !view.edits().goal.brief)
        return layoutEmpty(
            view, size, say("Is it better, and does it meet the goals?"),
            say("Before and after will be shown here on one axis, each goal with its interval and met, not "
                "met or not enough runs."));
    Sheet sheet(size);
    sheet.heading(24, 12, say("Is it better, and does it meet the goals?"),
                  say("%1 runs before, %2 after, alternating · hollow: before · solid: after · bars: 95% intervals · "
                      "right is better")
                      .arg(proof->before)
                      .arg(proof->after));
    const Columns c = columnsOf(size);
    const Scale axis{60, 160, c.axisLeft, c.axisRight};
    const double pitch = size.height() < 500 ? 42 : 48, top = 90, room = size.height() - top - 24;
    const auto page = pageIn(view, QStringLiteral("wishes"), proof->wishes.size(), room, pitch);
    const double bottom = top + pitch * static_cast<double>(page.last - page.first);
    sheet.text(24, 66, say("goal"), Type::Note, Ink::Muted);
    sheet.text(axis.px(100) - 8, 66, say("misses"), Type::Note, Ink::Muted, Align::Right);
    sheet.text(axis.px(100) + 8, 66, say("meets it, by % of it"), Type::Note, Ink::Muted, Align::Left,
               c.axisRight - axis.px(100) - 8);
    sheet.text(c.difference, 66, say("difference"), Type::Note, Ink::Muted, Align::Right);
    sheet.rect(QRectF(axis.px(100), top - 6, c.axisRight - axis.px(100), bottom - top + 6), Ink::Paper);
    sheet.hatch(QRectF(c.axisLeft, top - 6, axis.px(100) - c.axisLeft, bottom - top + 6), Ink::Line, 6);
    double most = 0.02; // of what is wanted
    for (const auto& w : proof->wishes)
        if (w.wanted > 0)
            most = std::max(most, (std::abs(w.difference.estimate) + w.difference.halfWidth.value_or(0)) / w.wanted);
    double y = top - 4;
    for (std::size_t i = page.first; i < page.last; ++i) {
        wishRow(sheet, view, proof->wishes[i], y, c, axis, most);
        y += pitch;
        sheet.line({24, y - 3}, {c.right, y - 3}, Ink::Line, 1);
    }
    sheet.line({axis.px(100), top - 10}, {axis.px(100), bottom}, Ink::Over, 2.6);
    for (const int v : {60, 80, 100, 120, 140, 160})
        sheet.text(axis.px(v), bottom + 2, QString::number(v) + QLatin1Char('%'), Type::Small,
                   v == 100 ? Ink::Over : Ink::Muted, Align::Centre);
    drawPager(sheet, c.right, bottom + 4, page, say("%1 to %2 of %3"));
    const double low = bottom + 62, end = size.height() - 30;
    if (end - low > 60) {
        const double half = (size.width() - 60) / 2;
        runsInOrder(sheet, view, QRectF(58, low, half - 44, end - low));
        distributions(sheet, view, QRectF(36 + half, low, half - 12, end - low));
    }
    return sheet.take();
}

/// The levels that differ from before, and the cap.
void whatWasChanged(Sheet& sheet, const View& view, double x, double y, double w) {
    sheet.text(x, y, say("What was changed"), Type::Heading);
    y += 26;
    if (view.session.game() != nullptr && view.edits().settings.choice) {
        const auto lines = wording::changes(*view.session.game(), view.edits().settings.baseline,
                                            view.edits().settings.choice->values);
        const auto page = pageIn(view, QStringLiteral("changes"), lines.size(), sheet.height() - y - 21, 21);
        for (std::size_t i = page.first; i < page.last; ++i) {
            const auto& line = lines[i];
            const double lw = sheet.text(x, y, qs(line.setting), Type::Body, Ink::Muted, Align::Left, w * 0.5);
            sheet.text(x + w, y, qs(line.before) + QStringLiteral(" → ") + qs(line.after), Type::BodyBold, Ink::Ink,
                       Align::Right, w - lw - 10);
            y += 21;
        }
        drawPager(sheet, x + w, y, page, say("%1 to %2 of %3"));
        if (!page.whole()) y += pagerHeight;
    }
    if (view.edits().pacing.cap && y + 20 < sheet.height()) {
        sheet.text(x, y, say("Cap"), Type::Body, Ink::Muted);
        sheet.text(x + w, y,
                   view.edits().pacing.cap->plan.pacedTo()
                       ? say("none → %1").arg(qs(wording::wishFps(*view.edits().pacing.cap->plan.pacedTo())))
                       : say("none"),
                   Type::BodyBold, Ink::Ink, Align::Right);
    }
}

namespace {

/// How many goals are met, and what that rests on; gives the y below it.
double verdictLines(Sheet& sheet, const proof::Proof& proof, double x, double y, double w) {
    const auto met = std::count_if(proof.wishes.begin(), proof.wishes.end(),
                                   [](const WishOutcome& o) { return o.state == WishState::Met; });
    y = sheet.wrapped(x, y, w, say("%1 of %2 goals are met.").arg(met).arg(proof.wishes.size()), Type::BodyBold) + 4;
    if (proof.readOff)
        y = sheet.wrapped(x, y, w,
                          say("Read off a counter, not recorded: what share of the frames came on time is not known. A "
                              "log tells it."),
                          Type::Body, Ink::Muted) +
            4;
    y = sheet.wrapped(x, y, w,
                      say("Bars are 95% intervals. Met and not met ask for more, because the runs are looked at up to "
                          "four times."),
                      Type::Note, Ink::Muted, 3) +
        14;
    return y;
}

} // namespace

Drawing layoutProofColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    const auto* proof = view.get<proof::Proof>();
    if (!proof) {
        sheet.text(x, 16, say("How it is proven"), Type::Heading);
        sheet.wrapped(
            x, 40, w,
            say("Three runs with the baseline settings and three with the choice and the cap, alternating, all new. "
                "Intervals come from the differences between runs, not between frames. The bars are 95% intervals; met "
                "and not met ask for more, because the runs are looked at up to four times."),
            Type::Body, Ink::Muted);
        return sheet.take();
    }
    sheet.text(x, 16, say("What was proven"), Type::Heading);
    double y = 42;
    const auto& d = proof->averageDifference;
    if (proof->before > 0 && proof->after > 0)
        y = sheet.wrapped(x, y, w,
                          (d.halfWidth && !d.excludesZero()
                               ? say("The average changed by %1 fps, which is within the error.")
                               : say("The average changed by %1 fps."))
                              .arg(qs(wording::signedPlusMinus(d.estimate, d.halfWidth, 1))),
                          Type::Body) +
            6;
    y = verdictLines(sheet, *proof, x, y, w);
    if (proof->met() < proof->wishes.size() && proof->after >= proof::firstLook && !view.edits().record.kept) {
        y = sheet.wrapped(x, y - 6, w, qs(wording::reason(view.w, view.session, *view.results, view.step)), Type::Body,
                          Ink::Ink, 6) +
            6;
        const double keep = 0.57 * (w - 8);
        if (view.step.action != path::Action::KeepResult) {
            sheet.button(QRectF(x, y, w, 30), QStringLiteral("proof.next"),
                         qs(wording::action(view.w, view.session, *view.results, view.step)));
            y += 36;
        }
        sheet.button(QRectF(x, y, keep, 30), QStringLiteral("proof.keep"), qs(wording::saveAs(view.w, proof)));
        sheet.button(QRectF(x + keep + 8, y, w - keep - 8, 30), QStringLiteral("proof.longer"), say("Prove longer"));
        y += 46;
    }
    for (const auto& wish : proof->wishes) {
        if (wish.state == WishState::Met || y + 60 > size.height()) continue;
        sheet.text(x, y, wish.state == WishState::NotMet ? say("Not met") : say("Still open"), Type::Heading);
        const bool part =
            wish.state == WishState::NotMet && wish.wish == proof::Wish::Target && proof->worst() != nullptr;
        const QString text = part ? say("%1: %2.").arg(qs(wording::part(view.w, wish.worstPart)),
                                                       qs(wording::heldFigure(view.w, *proof->worst())))
                                  : qs(wording::goalShort(view.w, wish));
        y = sheet.wrapped(x, y + 22, w, text, Type::Body) + 12;
    }
    if (y + 90 <= size.height()) whatWasChanged(sheet, view, x, y, w);
    return sheet.take();
}

} // namespace impasto::app
