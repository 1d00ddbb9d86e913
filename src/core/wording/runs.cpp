// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/runs.h>

#include <cmath>
#include <impasto/base/text.h>
#include <impasto/cost/cost.h>
#include <impasto/wording/limits.h>
#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>

namespace impasto::wording {
namespace {

/// Unit and factor of a figure as shown.
std::pair<const char*, double> unitOf(const frames::Figure& figure) {
    switch (figure.unit) {
    case frames::Unit::Fps:
        return {" fps", 1};
    case frames::Unit::Ms:
        return {" ms", 1};
    case frames::Unit::Share:
        return {" %", 100};
    case frames::Unit::PerMinute:
        return {"", 1};
    }
    return {"", 1};
}

std::string howMany(double frames) {
    return count(static_cast<std::size_t>(std::ceil(frames)));
}

} // namespace

std::string figure(const Words& w, const frames::Figure& figure) {
    return w.say(figure.name);
}

std::string figureValue(const frames::Figure& figure, const stats::Interval& value, bool isDifference) {
    const auto [unit, factor] = unitOf(figure);
    const auto half = value.halfWidth ? std::optional(*value.halfWidth * factor) : std::nullopt;
    const auto text = isDifference ? signedPlusMinus : plusMinus;
    return text(value.estimate * factor, half, 1) + unit;
}

std::string averageDifference(const Words& w, const frames::FigureComparison& averages) {
    const double before = averages.before.mean.estimate, after = averages.after.mean.estimate;
    if (!(before > 0) || !(after > 0)) return {};
    const auto& d = averages.comparison.difference;
    const auto scaled = [&d](double factor) {
        return signedPlusMinus(d.estimate * factor,
                               d.halfWidth ? std::optional(*d.halfWidth * std::abs(factor)) : std::nullopt, 2);
    };
    // 1000 / after - 1000 / before = -1000 (after - before) / (before after)
    return w.say("{}, {}%, {} ms", figureValue(frames::figure(frames::averageFps), d, true), scaled(100 / before),
                 scaled(-1000 / (before * after)));
}

std::string verdict(const Words& w, const frames::FigureComparison& compared) {
    switch (compared.comparison.verdict) {
    case stats::Verdict::Differs:
        return w.say("differs");
    case stats::Verdict::NoLargerDifference: {
        const auto [unit, factor] = unitOf(*compared.figure);
        return w.say("no difference larger than {}", plusMinus(compared.comparison.largest * factor, {}, 2) + unit);
    }
    case stats::Verdict::NotEnoughRuns:
        return w.say("not enough runs");
    }
    return {};
}

std::string moreRuns(const Words& w, const frames::Figure& figure, const stats::Family& family) {
    constexpr std::size_t more = 2;
    if (!family.spreadSd || !family.mean.halfWidth || *family.mean.halfWidth <= 0) return {};
    const auto then = stats::halfWidthAt(*family.spreadSd, family.mean.count + more);
    const auto [unit, factor] = unitOf(figure);
    return w.say("{} more runs narrow \u00b1 {} to about \u00b1 {}", more,
                 plusMinus(*family.mean.halfWidth * factor, {}, 1), plusMinus(*then * factor, {}, 1) + unit);
}

std::string hitchOrigin(const Words& w, const frames::HitchOrigin& origin) {
    switch (origin.pattern) {
    case frames::HitchPattern::TooFew:
        return {};
    case frames::HitchPattern::Periodic:
        return w.say("one every {} s", fmt::format("{:.2f}", origin.periodMs / 1000));
    case frames::HitchPattern::SamePlace:
        return w.say("{} at the same places in other runs", percent(origin.strength));
    case frames::HitchPattern::FirstRun:
        return w.say("{} only in the first run", percent(origin.strength));
    case frames::HitchPattern::Growing:
        return w.say("{} in the second half: they increase", percent(origin.strength));
    case frames::HitchPattern::Random:
        return w.say("at random");
    }
    return {};
}

Finding finding(const Words& w, const frames::Examined& e) {
    const std::string change = signedPlusMinus(100 * e.figure, {}, 1) + "%";
    switch (e.finding) {
    case frames::Finding::Flattened:
        if (!e.found) return {w.say("no sign of a cap"), w.say("or of a sync")};
        return e.sure ? Finding{w.say("capped or synced"), w.say("{} of the time", percent(e.figure))}
                      : Finding{w.say("flat"), w.say("{} of the time: a cap, a sync or a limit", percent(e.figure))};
    case frames::Finding::Drifts:
        return {e.found ? w.say("drifting") : w.say("no drift"), w.say("{} within the parts", change)};
    case frames::Finding::Sags:
        return {w.say("sags"), e.where
                                   ? w.say("{} at {} to {} s", change, fmt::format("{:.0f}", e.where->fromMs / 1000),
                                           fmt::format("{:.0f}", e.where->toMs / 1000))
                                   : change};
    case frames::Finding::Stalled:
        return {w.say("stalls"), w.say("frames nearly stop for {} s", fmt::format("{:.1f}", e.figure))};
    case frames::Finding::StandsStill:
        if (!e.found) return {w.say("sensors OK"), w.say("none is stuck")};
        return {w.say("measures waiting, not work"), e.figure == 1   ? w.say("CPU time never changes")
                                                     : e.figure == 2 ? w.say("GPU time never changes")
                                                                     : w.say("CPU and GPU times never change")};
    case frames::Finding::TooShort:
        return {e.found ? w.say("too short") : w.say("long enough"), w.say("1% low from {} frames", howMany(e.figure))};
    case frames::Finding::NotApplied:
        return e.found ? Finding{w.say("nothing changed"), e.sure ? w.say("was it applied? Reload and run it again")
                                                                  : w.say("not applied, or not what limits")}
                       : Finding{w.say("applied"), w.say("cost changed by {}", change)};
    case frames::Finding::Background:
        return {e.found ? w.say("another program was busy") : w.say("nothing else was busy"),
                w.say("{} points of CPU", signedPlusMinus(e.figure, {}, 1))};
    case frames::Finding::Unlike:
        return e.found ? Finding{w.say("outlier"), w.say("{} off the other runs", change)}
                       : Finding{e.sure ? w.say("like the other runs") : w.say("too few runs to compare"),
                                 w.say("{} off", change)};
    }
    return {};
}

std::string leftOut(const Words& w, document::LeftOut reason) {
    switch (reason) {
    case document::LeftOut::WarmUp:
        return w.say("First run: shaders were compiled. It is kept but does not count.");
    case document::LeftOut::Interrupted:
        return w.say("Stopped before its end. Its frames are kept but do not count.");
    case document::LeftOut::Damaged:
        return w.say("Its stored frames are damaged.");
    case document::LeftOut::Crashed:
        return w.say("The program ended while it computed this run. Its frames are kept in the logbook.");
    case document::LeftOut::Mismatch:
        return w.say("It does not fit the order it should answer.");
    case document::LeftOut::Beside:
        return w.say("It answers no order: shown beside, not counted.");
    case document::LeftOut::Odd:
        return w.say("Unlike the other baseline runs.");
    case document::LeftOut::ByHand:
        return w.say("Left out by hand.");
    }
    return {};
}

namespace {

/// Of a test run, the level that it changes.
std::optional<std::string> onlyChange(const Words& w, const document::Session& session, const run::Order& order) {
    const auto changed = cost::changedLevels(session.edits->settings.baseline, order.variant.values);
    const auto* setting =
        changed.size() == 1 && session.game() != nullptr ? session.game()->setting(changed.front().setting) : nullptr;
    if (order.purpose != run::Purpose::Cost || setting == nullptr) return std::nullopt;
    return w.say("{} {}", setting->label, changed.front().level);
}

} // namespace

std::string orderName(const Words& w, const document::Session& session, const run::Order& order) {
    return onlyChange(w, session, order).value_or(purpose(w, session, order));
}

std::string purpose(const Words& w, const document::Session& session, const run::Order& order) {
    switch (order.purpose) {
    case run::Purpose::WarmUp:
        return w.say("warm-up");
    case run::Purpose::Baseline:
        return w.say("baseline");
    case run::Purpose::Cost:
        if (order.variant == session.lowestVariant()) return w.say("everything at its lowest");
        if (const auto changed = onlyChange(w, session, order)) return w.say("test run, {}", *changed);
        return w.say("test run");
    case run::Purpose::Check:
        return w.say("chosen settings, no cap");
    case run::Purpose::ProofBefore:
        return w.say("before");
    case run::Purpose::ProofAfter:
        return order.variant.cap ? w.say("after, cap {} fps", wishFps(*order.variant.cap)) : w.say("after");
    case run::Purpose::Test:
        if (const auto test = results::decidedBy(session, order)) return w.say("deciding run, {}", testName(w, *test));
        return w.say("deciding run");
    }
    return {};
}

SetName setName(const Words& w, const document::Session& session, const results::RunSet& set) {
    const auto baseline = session.baselineVariant();
    const std::string cap = set.variant.cap ? w.say("cap {}", wishFps(*set.variant.cap)) : w.say("no cap");
    if (!set.name.empty()) return {set.name, w.say("named")};
    const auto* first = session.facts->run((set.counted.empty() ? set.leftOut : set.counted).front());
    const auto* order = first == nullptr ? nullptr : session.orderOf(*first);
    if (order != nullptr && order->purpose == run::Purpose::Test) {
        const auto test = results::decidedBy(session, *order);
        return {w.say("Deciding run"), test ? testName(w, *test) : w.say("of an earlier baseline")};
    }
    if (set.variant == baseline) return {w.say("Baseline"), w.say("nothing changed")};
    if (set.variant == session.lowestVariant()) return {w.say("Lowest"), w.say("every setting")};
    if (set.variant == session.chosenVariant(true) && set.variant.cap) return {w.say("Chosen set"), cap};
    if (set.variant == session.chosenVariant(false)) return {w.say("Chosen set"), w.say("no cap")};
    const auto changed = cost::changedLevels(session.edits->settings.baseline, set.variant.values);
    const auto* setting =
        changed.size() == 1 && session.game() != nullptr ? session.game()->setting(changed.front().setting) : nullptr;
    if (setting != nullptr) return {w.say("{} {}", setting->label, changed.front().level), w.say("test")};
    if (changed.empty()) return {w.say("Baseline"), cap};
    if (order != nullptr && order->purpose == run::Purpose::Cost)
        return {w.say("Test set"), w.say("{} levels changed", changed.size())};
    return {w.say("Earlier choice"), w.say("{} levels changed, {}", changed.size(), cap)};
}

std::string runTitle(const Words& w, const document::Session& session, const run::Run& run) {
    const auto* order = session.orderOf(run);
    const std::string kind = order != nullptr   ? purpose(w, session, *order)
                             : run.name.empty() ? w.say("frame log")
                                                : run.name;
    return w.say("Run {} \u00b7 {}", session.numberOf(run.id), kind);
}

Why whyAverage(const Words& w, const frames::Summary& s, std::size_t runs) {
    return {w.say("Average"), w.say("frames / time, never a mean of momentary rates"),
            w.say("{} frames in {} s: {} fps", count(s.frames), fmt::format("{:.1f}", s.durationMs / 1000),
                  fps(s.average.value())),
            runs > 1 ? w.say("The \u00b1 is a 95% t interval over {} runs. Frames are correlated, so they are not "
                             "counted as independent observations.",
                             runs)
                     : w.say("The \u00b1 is from this run alone. Three or more runs show how much runs differ."),
            w.say("More runs narrow it; a longer route makes each run steadier.")};
}

namespace {

/// The run's figures under the three rules, and why they lie apart or do not.
std::string lowsHere(const Words& w, const frames::Summary& s) {
    std::vector<std::string> figures;
    double least = 0, most = 0;
    for (const auto rule : stats::allLowRules) {
        const auto& low = s.of(rule).onePercent;
        if (!low) return {};
        const double v = low->rate.value();
        least = figures.empty() ? v : std::min(least, v);
        most = std::max(most, v);
        figures.push_back(w.say("{} {} fps", lowRule(w, rule), fps(v)));
    }
    return least < 0.85 * most
               ? w.say("Here: {}. A few frames are far slower than the rest: the percentile only counts them, the mean "
                       "weighs how slow they are, the share of the time how long they last. Compare only figures that "
                       "were counted the same way.",
                       listed(w, figures))
               : w.say("Here: {}. The slowest frames are alike, so the three agree.", listed(w, figures));
}

} // namespace

Why whyLow(const Words& w, const frames::Summary& s, stats::LowRule rule, std::size_t runs) {
    const auto& low = s.of(rule).onePercent;
    return {w.say("1% low, {}", lowRule(w, rule)), lowRuleMeaning(w, rule),
            low ? w.say("{} fps, from {} frames", fps(low->rate.value()), howMany(low->frames)) : std::string(),
            runs > 1 ? w.say("The \u00b1 is a 95% t interval over {} runs.", runs)
                     : w.say("The \u00b1 is from this run alone."),
            lowsHere(w, s)};
}

Why whyHitches(const Words& w, const frames::Summary& s, const frames::HitchRule& rule) {
    return {
        w.say("Hitches"),
        w.say("A frame that takes more than {} times the median of the {} frames around it and {} ms more, or {} ms "
              "more whatever the ratio.",
              shortestText(rule.ratio), rule.neighbours, shortestText(rule.excessMs), shortestText(rule.outrightMs)),
        w.say("{} in {} s, {} ms lost in them", s.hitches.size(), fmt::format("{:.1f}", s.durationMs / 1000),
              fmt::format("{:.0f}", s.lostMs)),
        w.say("Counts are small numbers: runs of the same route differ by about the square root of the count."),
        w.say("Another rule, below. Averages, lows and every decision stay the same.")};
}

std::string readOff(const Words& w, const run::ReadOff& r) {
    std::string out = w.say("{} fps", fps(r.average.value()));
    const auto add = [&out](const std::string& more) { out += ", " + more; };
    if (r.least && r.most)
        add(w.say("{} to {}", fps(r.least->value()), fps(r.most->value())));
    else if (r.least)
        add(w.say("{} at least", fps(r.least->value())));
    else if (r.most)
        add(w.say("{} at most", fps(r.most->value())));
    if (r.onePercentLow) add(w.say("1% low {}", fps(r.onePercentLow->value())));
    if (!r.rates.empty())
        add(r.stepMs ? w.say("of {} rates, {} s each", r.rates.size(), fmt::format("{:.3g}", *r.stepMs / 1000))
                     : w.say("of {} rates", r.rates.size()));
    if (r.gpuMemory) add(w.say("{} GiB", gib(r.gpuMemory->value())));
    return out;
}

} // namespace impasto::wording
