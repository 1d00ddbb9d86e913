// SPDX-License-Identifier: GPL-3.0-or-later
// The why drawer, what every station says of itself on the path, and which layout a station has.
#include "stations/view.h"

#include <algorithm>
#include <impasto/base/text.h>

namespace impasto::app {

QString stationName(Station station) {
    static const char* names[] = {"Bench", "Brief", "Runs", "Limits", "Layers", "Pace", "Proof", "Logbook"};
    return say(names[static_cast<int>(station)]);
}

bool stationStale(const View& view, Station station) {
    const auto& r = *view.results;
    return (station == Station::Layers && !r.choiceStale.empty()) ||
           (station == Station::Pace && !r.capStale.empty()) || (station == Station::Logbook && !r.keptStale.empty());
}

namespace {

QString limitsState(const View& view) {
    const auto& verdicts = view.results->limits;
    if (verdicts.empty()) return say("not yet");
    std::map<limits::Brake, int> counts;
    for (const auto& v : verdicts) ++counts[v.brake];
    if (counts.contains(limits::Brake::CannotTell)) return say("cannot tell");
    QStringList parts;
    for (const auto& [brake, n] : counts) {
        const QString name = brake == limits::Brake::Gpu   ? say("GPU")
                             : brake == limits::Brake::Cpu ? say("CPU")
                             : brake == limits::Brake::Cap ? say("cap")
                                                           : say("refresh");
        parts << say("%1 in %2").arg(name).arg(n);
    }
    return parts.join(QStringLiteral(", "));
}

QString runsState(const View& view) {
    std::size_t kept = 0, out = 0;
    for (const auto& run : view.session.facts->runs) {
        if (view.edits().hidden.contains(run.id)) continue;
        ++(view.session.counts(run) ? kept : out);
    }
    if (kept + out == 0) return say("not yet");
    return out == 0 ? say("%1 kept").arg(kept) : say("%1 kept, %2 left out").arg(kept).arg(out);
}

} // namespace

QString stationState(const View& view, Station station) {
    const auto& e = view.edits();
    const auto& r = *view.results;
    switch (station) {
    case Station::Bench:
        return view.empty()                        ? say("start here")
               : view.session.machine() == nullptr ? say("no machine yet")
               : view.session.game() == nullptr    ? say("no game yet")
                                                   : qs(view.session.machine()->name);
    case Station::Brief:
        return e.brief ? say("%1 fps %2").arg(qs(report::wishFps(e.brief->target)), qs(view.w.style(e.brief->style)))
                       : say("not yet");
    case Station::Runs:
        return runsState(view);
    case Station::Limits:
        return limitsState(view);
    case Station::Layers:
        if (!r.choiceStale.empty()) return qs(view.w.stale(r.choiceStale));
        if (e.choice) return e.choice->byHand ? say("chosen by hand") : say("chosen");
        if (r.costs && !r.costs->planned.empty() && !r.limits.empty())
            return say("%1 of %2 levels")
                .arg(r.costs->planned.size() - r.costs->toMeasure.size())
                .arg(r.costs->planned.size());
        return say("not yet");
    case Station::Pace:
        if (!r.capStale.empty()) return qs(view.w.stale(r.capStale));
        if (e.cap) return e.cap->cap ? say("cap %1").arg(qs(report::wishFps(*e.cap->cap))) : say("no cap");
        return say("not yet");
    case Station::Proof: {
        if (!r.proof) return say("not yet");
        const auto met = std::count_if(r.proof->wishes.begin(), r.proof->wishes.end(),
                                       [](const auto& w) { return w.state == session::WishState::Met; });
        return say("%1 of %2 wishes met").arg(met).arg(r.proof->wishes.size());
    }
    case Station::Logbook:
        return !r.keptStale.empty() ? qs(view.w.stale(r.keptStale)) : e.kept ? say("kept") : say("not yet");
    }
    return {};
}

Drawing layoutEmpty(const View& view, QSizeF size, const QString& title, const QString& what) {
    Sheet sheet(size);
    sheet.heading(24, 12, title, {});
    double y = sheet.wrapped(24, 52, size.width() - 60, what, Type::Body);
    sheet.rect(QRectF(58, y + 30, size.width() - 74, std::max(40.0, size.height() - y - 130)), Ink::None, Ink::Off, 1.2,
               {5, 4});
    const QString reason = qs(view.w.reason(view.session, *view.results, view.step));
    y = size.height() - 76;
    sheet.text(24, y, say("Next: ") + qs(view.w.action(view.session, *view.results, view.step)), Type::Heading,
               Ink::Ink, Align::Left, size.width() - 48);
    sheet.wrapped(24, y + 22, size.width() - 60, reason, Type::Body, Ink::Muted, 2);
    return sheet.take();
}

Drawing layoutEasel(const View& view, QSizeF size) {
    if (view.empty() && view.station == Station::Bench) return layoutStart(view, size);
    switch (view.station) {
    case Station::Bench:
        return layoutBench(view, size);
    case Station::Brief:
        return layoutBrief(view, size);
    case Station::Runs:
        if (view.reading) return layoutReading(view, size);
        if (view.edits().rig == session::RigKind::Hand && !session::openOrders(view.session).empty())
            return layoutOrder(view, size);
        return layoutRuns(view, size);
    case Station::Limits:
        return layoutLimits(view, size);
    case Station::Layers:
        return layoutLayers(view, size);
    case Station::Pace:
        return layoutPace(view, size);
    case Station::Proof:
        return layoutProof(view, size);
    case Station::Logbook:
        return layoutLogbook(view, size);
    }
    return {};
}

Drawing layoutColumn(const View& view, QSizeF size) {
    if (!view.whyTopic.isEmpty()) return layoutWhy(view, size);
    if (view.empty() && view.station == Station::Bench) return layoutStartColumn(view, size);
    switch (view.station) {
    case Station::Bench:
        return layoutBenchColumn(view, size);
    case Station::Brief:
        return layoutBriefColumn(view, size);
    case Station::Runs:
        if (view.reading) return layoutReadingColumn(view, size);
        return layoutRunsColumn(view, size);
    case Station::Limits:
        return layoutLimitsColumn(view, size);
    case Station::Layers:
        return layoutLayersColumn(view, size);
    case Station::Pace:
        return layoutPaceColumn(view, size);
    case Station::Proof:
        return layoutProofColumn(view, size);
    case Station::Logbook:
        return layoutLogbookColumn(view, size);
    }
    return {};
}

namespace {

std::optional<report::Wording::Why> whyOf(const View& view) {
    const auto topic = view.whyTopic.split(QLatin1Char('.'));
    const auto& w = view.w;
    const auto* run = view.shownRun();
    const auto* figures = run == nullptr ? nullptr : view.results->figures(run->id);
    const std::size_t runs = view.results->baselineRuns.size();
    if (topic[0] == QStringLiteral("average") && figures != nullptr) return w.whyAverage(figures->summary, runs);
    if (topic[0] == QStringLiteral("low") && figures != nullptr)
        return w.whyLow(figures->summary, view.edits().brief ? view.edits().brief->school : run::LowSchool::WorstMean,
                        runs);
    if (topic[0] == QStringLiteral("hitches") && figures != nullptr)
        return w.whyHitches(figures->summary, view.edits().hitchRule);
    if (topic[0] == QStringLiteral("choice") && view.results->proposal) return w.whyChoice(*view.results->proposal);
    if (topic[0] == QStringLiteral("cost") && topic.size() > 1 && view.results->costs &&
        view.session.game() != nullptr) {
        const auto* setting = view.session.game()->setting(topic[1].toStdString());
        if (setting == nullptr || view.results->costs->lanes.empty()) return std::nullopt;
        const auto& lane = view.results->costs->lanes.back();
        for (const auto& level : setting->levels)
            if (lane.fit.indexOf({setting->id, level.name})) return w.whyCost(*setting, level.name, lane);
    }
    if (topic[0] == QStringLiteral("cap") && view.results->cap)
        for (const auto& offer : view.results->cap->offers)
            if (topic.size() > 1 ? qs(std::string(choose::keyOf(offer.school))) == topic[1] : true)
                return w.whyCap(offer, view.rules);
    return std::nullopt;
}

} // namespace

namespace {

/// What a hitch is, each part editable in place; gives the y below.
double hitchRule(Sheet& sheet, const stats::HitchRule& rule, double x, double y, double w) {
    sheet.text(x, y, say("A hitch is"), Type::BodyBold);
    y += 24;
    const auto line = [&](const char* id, const QString& name, const QString& value, const QString& unit) {
        sheet.text(x, y, name, Type::Body, Ink::Muted);
        const double end = sheet.width() - 28 - 100;
        const double t = sheet.text(end, y - 1, value, Type::Value);
        sheet.line({end, y + 17}, {end + std::max(t, 20.0), y + 17}, Ink::Ink, 1);
        sheet.text(end + std::max(t, 20.0) + 6, y, unit, Type::Body, Ink::Muted);
        Hot h;
        h.id = QStringLiteral("hitch.") + QString::fromLatin1(id);
        h.name = say("%1: %2 %3").arg(name, value, unit);
        h.role = Role::Value;
        h.rect = QRectF(end - 4, y - 3, std::max(t, 20.0) + 8, 24);
        h.edit = value;
        sheet.hot(h);
        y += 26;
    };
    line("ratio", say("more than"), qs(shortestText(rule.ratio)), say("times"));
    line("neighbours", say("the median of"), QString::number(rule.neighbours), say("frames"));
    line("excess", say("and above it"), qs(shortestText(rule.excessMs)), say("ms"));
    if (rule != stats::HitchRule()) {
        sheet.button(QRectF(x, y + 2, w, 28), QStringLiteral("hitch.usual"), say("Back to 1.75, 31 and 4 ms"));
        y += 34;
    }
    return y;
}

/// The worst ones, in the order of time; each shows its place in the ribbon.
void hitchList(Sheet& sheet, const View& view, const stats::Summary& summary, double x, double y, double w) {
    const auto fit = static_cast<std::size_t>(std::max(0.0, (sheet.height() - 56 - y - 26) / 20));
    if (fit < 2 || summary.hitches.empty()) return;
    std::vector<stats::Hitch> worst = summary.hitches;
    const std::size_t count = std::min(worst.size(), fit);
    const auto lost = [](const stats::Hitch& h) { return h.frameMs - h.medianMs; };
    std::partial_sort(worst.begin(), worst.begin() + static_cast<std::ptrdiff_t>(count), worst.end(),
                      [&](const stats::Hitch& a, const stats::Hitch& b) { return lost(a) > lost(b); });
    worst.resize(count);
    std::sort(worst.begin(), worst.end(),
              [](const stats::Hitch& a, const stats::Hitch& b) { return a.frame < b.frame; });
    sheet.text(x, y, count < summary.hitches.size() ? say("The %1 worst").arg(count) : say("All of them"),
               Type::BodyBold);
    const auto trims = view.session.trimsOf(*view.run);
    for (const auto& hitch : worst) {
        y += 20;
        const double at = capture::timeInWhole(trims, hitch.atMs);
        const QString place = say("%1 s").arg(QString::number(at / 1000, 'f', 1)),
                      length = say("%1 ms of %2").arg(qs(report::ms(hitch.frameMs)), qs(report::ms(hitch.medianMs)));
        sheet.text(x + 60, y + 2, place, Type::Body, Ink::Ink, Align::Right);
        sheet.text(x + w, y + 2, length, Type::Body, Ink::Muted, Align::Right);
        Hot h;
        h.id = QStringLiteral("jump.%1").arg(at, 0, 'f', 1);
        h.name = say("Hitch at %1, %2").arg(place, length);
        h.rect = QRectF(x - 4, y, w + 8, 20);
        h.hint = say("Selects a second around it");
        sheet.hot(h);
    }
}

} // namespace

Drawing layoutWhy(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    const auto why = whyOf(view);
    if (!why) {
        sheet.text(x, 16, say("Why"), Type::Heading);
        sheet.wrapped(x, 42, w,
                      say("Put the focus on a figure with a reason of its own: an average, a low, a slab, the choice "
                          "or a cap. Then press F1."),
                      Type::Body, Ink::Muted);
    } else {
        sheet.text(x, 16, qs(why->title), Type::Heading, Ink::Ink, Align::Left, w);
        double y = 46;
        const auto block = [&](const char* head, const std::string& text) {
            if (text.empty() || y + 40 > size.height() - 50) return;
            sheet.text(x, y, say(head), Type::Note, Ink::Muted);
            y = sheet.wrapped(x, y + 17, w, qs(text), Type::Body, Ink::Ink,
                              static_cast<int>((size.height() - y - 60) / 18)) +
                10;
        };
        block("How it is computed", why->formula);
        block("From", why->inputs);
        block("How sure", why->sure);
        block("What would change it", why->change);
        const auto* figures = view.run ? view.results->figures(*view.run) : nullptr;
        if (view.whyTopic == QStringLiteral("hitches") && figures != nullptr && y + 170 < size.height())
            hitchList(sheet, view, figures->summary, x, hitchRule(sheet, view.edits().hitchRule, x, y + 6, w) + 8, w);
    }
    sheet.button(QRectF(x, size.height() - 44, w, 30), QStringLiteral("why.close"), say("Back"), QStringLiteral("Esc"));
    return sheet.take();
}

} // namespace impasto::app
