// SPDX-License-Identifier: GPL-3.0-or-later
// The column beside Layers: what to scrape off next, and the choice.
#include "stations/layers/stack.h"
#include "stations/layers/walks.h"

#include <cmath>
#include <impasto/wording/bounds.h>
#include <impasto/wording/walk.h>

namespace impasto::app {
namespace {

/// One step down of a setting on the lane that has most to save.
/// Of the whole picture.
QString loses(const View& view, double picture) {
    double weights = 0;
    for (const auto& setting : view.session.game()->settings) weights += setting.pictureWeight();
    if (picture < 0.0005 * weights) return say("no picture lost");
    return say("−%1 points of picture").arg(QString::number(100 * picture / (weights > 0 ? weights : 1.0), 'f', 1));
}

/// The rendered size goes first where a style says so, and last where it wants to see far.
double reluctance(const View& view, const game::Setting& setting) {
    if (!setting.changesSize() || !view.edits().goal.brief) return 1;
    const auto& rule = run::ruleOf(view.edits().goal.brief->style);
    return rule.resolutionFirst ? 0.5 : rule.pacesToTarget ? 1 : 2;
}

struct Scrape {
    const game::Setting* setting;
    std::string from, to;
    double ms;
    std::optional<double> halfWidth;
    double picture; // lost
};

std::vector<Scrape> scrapes(const View& view, const choose::LaneCosts& lane) {
    std::vector<Scrape> out;
    const auto gain = [&view](const Scrape& s) { return s.ms / (reluctance(view, *s.setting) * s.picture + 0.02); };
    for (const auto& setting : view.session.game()->settings) {
        const auto now = view.edits().settings.baseline.find(setting.id);
        const auto index = now == view.edits().settings.baseline.end() ? std::nullopt : setting.levelIndex(now->second);
        if (!index) continue;
        std::optional<Scrape> best; // the next level down; of rendered sizes, which are in no row, the cheapest
        bool looked = false;
        const std::size_t top = setting.unordered ? setting.levels.size() : *index; // any other way may save
        for (std::size_t l = top; l > 0 && (!looked || setting.changesSize() || setting.unordered); --l) {
            const auto& next = setting.levels[l - 1];
            if (l - 1 == *index || view.edits().settings.cannot.contains({setting.id, next.name})) continue;
            looked = true;
            const auto d = differenceOf(view, lane, setting.id, next.name);
            if (!d || d->ms >= -0.05) continue;
            Scrape scrape{&setting,     now->second,
                          next.name,    d->ms,
                          d->halfWidth, setting.pictureWeight() * (setting.levels[*index].picture - next.picture)};
            if (!best || gain(scrape) < gain(*best)) best = std::move(scrape);
        }
        if (best) out.push_back(std::move(*best));
    }
    std::sort(out.begin(), out.end(), [&](const Scrape& a, const Scrape& b) { return gain(a) < gain(b); });
    return out;
}

/// How sure the choice so far is, what it may miss, and what of that is good enough.
double doubtRows(Sheet& sheet, const View& view, const choose::Proposal& proposal, const results::NextRun& next,
                 double y, double x, double w) {
    const auto row = [&](const QString& name, const QString& figure) {
        sheet.row(x, y + 4, w, name, figure, Type::BodyBold);
        y += 20;
    };
    row(say("holds when run once"), say("%1 sure, at least").arg(qs(wording::percent(proposal.chance))));
    row(say("expected to miss"), say("%1 of the picture").arg(qs(wording::percent(next.gain))));
    const double enough = view.edits().settings.goodEnough.value_or(results::goodEnough);
    double right = x + w;
    for (const int percent : {5, 2, 1})
        right = sheet.choice(right, y + 2, QStringLiteral("enough.%1").arg(percent), QStringLiteral("%1%").arg(percent),
                             say("Test runs end where the choice is expected to miss less"),
                             std::abs(100 * enough - percent) < 0.05);
    sheet.text(x, y + 4, say("is good enough"), Type::Body, Ink::Muted, Align::Left, right - x);
    return y + 28;
}

double choiceSection(Sheet& sheet, const View& view, double y, double x, double w) {
    const bool accepted = view.edits().settings.choice.has_value() && !view.preview;
    const auto* proposed = view.get<results::Proposed>();
    const bool walked = proposed != nullptr && proposed->walked;
    sheet.text(x, y,
               view.preview ? say("At %1 fps").arg(qs(wording::wishFps(view.preview->target)))
               : accepted   ? say("The choice")
               : walked     ? say("The best that held")
                            : say("The exact choice so far"),
               Type::Heading);
    y += 23;
    const auto* proposal = !view.preview            ? results::proposalOf(*view.results)
                           : view.preview->proposal ? &*view.preview->proposal
                                                    : nullptr;
    if (view.preview && view.preview->error)
        return sheet.wrapped(x, y, w, qs(wording::error(view.w, *view.preview->error).what), Type::Body, Ink::Over) + 8;
    if (!proposal) {
        const auto error = proposed == nullptr ? std::nullopt : proposed->error;
        return sheet.wrapped(x, y, w,
                             error
                                 ? qs(wording::error(view.w, *error).what + " " + wording::error(view.w, *error).advice)
                                 : say("It will appear here after the test runs."),
                             Type::Body, Ink::Muted) +
               8;
    }
    choose::Proposal shown = *proposal;
    if (accepted) shown.values = view.edits().settings.choice->values;
    y = sheet.wrapped(x, y, w, qs(wording::choice(view.w, view.session, shown)), Type::Body, Ink::Ink, 4);
    if (const QString rendered = qs(wording::rendered(view.w, view.session, shown.values)); !rendered.isEmpty())
        y = sheet.wrapped(x, y + 3, w, rendered, Type::Body, Ink::Muted, 4);
    const bool same = !accepted || shown.values == proposal->values;
    const double picture = game::pictureValue(*view.session.game(), shown.values);
    y = sheet.wrapped(
        x, y + 3, w,
        say("%1 It keeps %2 of the picture.")
            .arg(same ? view.preview ? qs(wording::proven(view.w, *proposal)) : qs(wording::proven(view.w, *proposed))
                 : view.edits().settings.choice->byHand ? say("Changed by hand: not the best for these costs.")
                                                        : say("With the runs since, other settings fit better."),
                 qs(wording::percent(picture))),
        Type::Body, Ink::Ink, 3);
    const auto& brief = view.edits().goal.brief;
    const auto fill = results::fillOf(*view.results);
    if (const QString asked = brief ? qs(wording::fillAsked(view.w, *brief, fill)) : QString(); !asked.isEmpty())
        y = sheet.wrapped(x, y + 3, w, asked, Type::Body, fill ? Ink::Muted : Ink::Over, 3);
    const bool measuring = view.step.action == path::Action::RecordCosts;
    const bool walking = view.get<results::Walking>() != nullptr;
    if (const auto* next = view.get<results::NextRun>(); !accepted && !view.preview && !walking && next != nullptr)
        y = doubtRows(sheet, view, *proposal, *next, y, x, w);
    if (!accepted && !view.preview && !measuring) y = walkRow(sheet, view, x, y + 4, w);
    const QString stale = qs(wording::stale(view.w, results::standingOf(*view.results).choice));
    if (!stale.isEmpty()) y = sheet.wrapped(x, y + 3, w, stale, Type::BodyBold, Ink::Over);
    y += 10;
    if (!view.preview && !measuring) {
        const bool take = !accepted || !same || !results::standingOf(*view.results).choice.empty();
        sheet.button(QRectF(x, y, w / 2 - 4, 30), QStringLiteral("choice.take"),
                     accepted ? say("Take the best") : say("Take it"), {}, false, take);
        sheet.button(QRectF(x + w / 2 + 4, y, w / 2 - 4, 30), QStringLiteral("why.choice"), say("Why this one"));
        y += 42;
    }
    return y;
}

/// The run that tells most next, why it, and how many more are expected.
double nextSection(Sheet& sheet, const View& view, double y, double x, double w) {
    const auto* next = view.get<results::NextRun>();
    if (next == nullptr || !next->values) return y;
    const std::size_t number = results::countOf<results::CostRuns, results::ReadCosts>(*view.results) + 1;
    sheet.text(x, y, say("Next: test run %1").arg(number), Type::Heading);
    const double each = view.step.minutes;
    const bool walking = view.get<results::Walking>() != nullptr;
    y = sheet.wrapped(x, y + 21, w,
                      walking ? say("%1 each, until no step holds").arg(qs(wording::minutes(view.w, each)))
                              : say("%1 to %2 more are expected, %3 at most")
                                    .arg(next->least)
                                    .arg(next->most)
                                    .arg(qs(wording::minutes(view.w, each * static_cast<double>(next->most)))),
                      Type::Body, Ink::Muted, 2);
    y = walkRow(sheet, view, x, y + 3, w) - 4;
    const double top = y + 4;
    const double end =
        sheet.wrapped(x + 8, top + 8, w - 16, qs(wording::reason(view.w, view.session, *view.results, view.step)),
                      Type::Body, Ink::Ink, 9);
    sheet.rect(QRectF(x - 4, top, w + 8, end - top + 8), Ink::None, Ink::Ink, 1.5);
    y = end + 18;
    if (results::proposalOf(*view.results) != nullptr) {
        sheet.button(QRectF(x, y, w, 28), QStringLiteral("measure.stop"), say("Good enough: take the choice so far"));
        y += 42;
    }
    return y;
}

void cutRow(Sheet& sheet, const View& view, const Scrape& s, run::Lane lane, double x, double y, double w) {
    const QRectF r(x - 4, y, w + 8, 42);
    sheet.rect(r, Ink::Paper, Ink::Line, 1.2);
    sheet.rect(QRectF(x - 4, y, 5, 42), lane == run::Lane::Cpu ? Ink::Cpu : Ink::Gpu);
    const double fw = sheet.text(x + w - 2, y + 4, say("%1 ms").arg(qs(wording::signedPlusMinus(s.ms, s.halfWidth, 2))),
                                 Type::BodyBold, Ink::Ink, Align::Right);
    sheet.text(x + 10, y + 4, qs(s.setting->label), Type::BodyBold, Ink::Ink, Align::Left, w - fw - 20);
    const double lw = sheet.text(x + w - 2, y + 22, loses(view, s.picture), Type::Body, Ink::Muted, Align::Right);
    sheet.text(x + 10, y + 22, qs(s.from) + QStringLiteral(" → ") + qs(s.to), Type::Body, Ink::Muted, Align::Left,
               w - lw - 20);
    Hot h;
    h.id = QStringLiteral("open.") + qs(s.setting->id);
    h.name = say("Open the levels of %1").arg(qs(s.setting->label));
    h.rect = r;
    sheet.hot(h);
}

/// Where the target does not fit: what does, to be taken in its place. Moves `y` below it.
bool insteadSection(Sheet& sheet, const View& view, double x, double& y, double w) {
    if (view.step.action != path::Action::LowerTarget) return false;
    sheet.text(x, y, say("%1 fps does not fit").arg(qs(wording::wishFps(view.target()))), Type::Heading);
    y = sheet.wrapped(x, y + 23, w, qs(wording::reason(view.w, view.session, *view.results, view.step)), Type::Body,
                      Ink::Ink, 5);
    if (const auto* proposed = view.get<results::Proposed>();
        proposed != nullptr && proposed->instead && proposed->reaches == view.step.target)
        y = sheet.wrapped(x, y + 4, w, qs(wording::choice(view.w, view.session, *proposed->instead)), Type::Body,
                          Ink::Muted, 3);
    sheet.button(QRectF(x, y + 6, w, 30), QStringLiteral("instead"),
                 qs(wording::action(view.w, view.session, *view.results, view.step)));
    y += 44;
    const auto* proposed = view.get<results::Proposed>();
    if (proposed != nullptr && proposed->less && proposed->lessReaches) {
        const auto picture = qs(wording::percent(proposed->less->picture));
        const auto rate = qs(wording::wishFps(*proposed->lessReaches));
        sheet.button(QRectF(x, y, w, 30), QStringLiteral("less"),
                     say("Accept %1 of the picture at %2 fps").arg(picture, rate));
        y += 38;
    }
    y += 8;
    return true;
}

} // namespace

Drawing layoutLayersColumn(const View& view, QSizeF size) {
    if (view.state<LayersState>().walksOpen) return layoutWalks(view, size);
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    if (!view.get<results::Costs>() || view.get<results::Costs>()->lanes.empty() || view.session.game() == nullptr) {
        sheet.text(x, 16, say("Cheapest cuts"), Type::Heading);
        sheet.wrapped(x, 40, w, say("Costs come from runs that change several levels at once."), Type::Body,
                      Ink::Muted);
        return sheet.take();
    }
    const auto& lanes = view.get<results::Costs>()->lanes;
    const double budget = budgetOf(view.target()).value();
    const auto& lane = *std::max_element(lanes.begin(), lanes.end(), [&](const auto& a, const auto& b) {
        const auto load = [&](const choose::LaneCosts& l) { return l.levels.estimate[0] / (l.safeShare * budget); };
        return load(a) < load(b);
    });
    double y = 16;
    const bool reaches = insteadSection(sheet, view, x, y, w);
    const bool measuring = view.step.action == path::Action::RecordCosts && !view.preview;
    if (measuring) y = nextSection(sheet, view, y, x, w);
    if (measuring) y = choiceSection(sheet, view, y, x, w);
    // The cuts are of the settings in use, and not of a walk's last set.
    if (measuring && (stepOf(view) != nullptr || y + 100 > size.height())) return sheet.take();
    sheet.text(x, y, say("Cheapest cuts for the %1").arg(qs(wording::lane(view.w, lane.lane))), Type::Heading, Ink::Ink,
               Align::Left, w);
    sheet.text(x, y + 21, say("most milliseconds for the least picture"), Type::Body, Ink::Muted, Align::Left, w);
    y += 46;
    const double bottom = size.height();
    int shown = 0;
    const int most = bottom < 500 || reaches || measuring ? 2 : 4;
    for (const auto& s : scrapes(view, lane)) {
        if (shown++ == most || (measuring && y + 48 > bottom)) break;
        cutRow(sheet, view, s, lane.lane, x, y, w);
        y += 48;
    }
    if (measuring) return sheet.take();
    if (!reaches) y = choiceSection(sheet, view, y + 12, x, w);
    const auto* next = view.get<results::NextRun>();
    if (view.edits().settings.enough && next != nullptr && next->values && y + 60 < bottom) {
        sheet.text(x, y + 6, say("Stopped by hand"), Type::Heading);
        const bool walking = view.get<results::Walking>() != nullptr;
        const QString more = walking ? say("The walk has more steps.")
                                     : say("More test runs would be expected to find %1 more picture.")
                                           .arg(qs(wording::percent(next->gain)));
        y = sheet.wrapped(x, y + 28, w, more, Type::Body, Ink::Muted, 2);
        if (y + 40 < bottom)
            sheet.button(QRectF(x, y + 6, w, 28), QStringLiteral("measure.stop"), say("Make more test runs"));
    } else if (view.get<results::Check>() && y + 80 < bottom) {
        const auto& check = *view.get<results::Check>();
        sheet.text(x, y + 6, say("The choice when run"), Type::Heading);
        y += 28;
        for (const auto& lane2 : check.measured) {
            sheet.row(
                x, y, w,
                say("%1 in %2").arg(qs(wording::lane(view.w, lane2.lane)), qs(wording::part(view.w, lane2.worstPart))),
                say("%1 of %2 ms").arg(qs(wording::ms(lane2.meanMs)), qs(wording::ms(lane2.usableMs))), Type::BodyBold,
                lane2.meanMs > lane2.usableMs ? Ink::Over : Ink::Ink);
            y += 20;
        }
    }
    return sheet.take();
}

} // namespace impasto::app
