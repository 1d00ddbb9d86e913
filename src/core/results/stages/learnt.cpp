// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/learnt.h>

#include <cmath>
#include <impasto/pace/power.h>
#include <impasto/proof/proof.h>
#include <impasto/results/pace.h>

namespace impasto::results {
namespace {

/// No set is asked to be so many times shorter for a goal besides the rate: it would cost more than it is worth trying.
constexpr double mostShorter = 2;

/// How many times shorter a frame has to be for what is drawn to fall to a share of what it is: watts go with the busy
/// time as they go with a rate (pace/power.h), heat over the room's and the fan as watts, a load as the time itself.
double shorterFor(const proof::WishOutcome& goal, double exponent, double roomC) {
    const double is = goal.after.estimate, wanted = goal.wanted * (goal.atMost() ? 1 / run::spared : run::spared);
    switch (*goal.bound) {
    case run::Bound::Latency:
        return 1; // a cap's, not the settings'
    case run::Bound::GpuLoad:
        return is / wanted;
    case run::Bound::BatteryHours:
        return std::pow(wanted / is, 1 / exponent);
    case run::Bound::GpuTemperature:
        return wanted > roomC ? std::pow((is - roomC) / (wanted - roomC), 1 / exponent) : mostShorter + 1;
    case run::Bound::Power:
    case run::Bound::Fan:
        return std::pow(is / wanted, 1 / exponent);
    }
    return 1;
}

struct ProvenPlan {
    std::vector<proof::Side> sides;
    bool gpuAlone = false; // all that their logs tell of power
    pace::Clocks clocks = pace::Clocks::Held;
};

/// By how much the runs' target was missed in the figure that decides; 1: it was not.
double targetMissed(const std::vector<proof::Side>& sides, const run::Brief& brief) {
    const auto proof = proof::prove(sides, brief, {});
    const auto* worst = proof ? proof->worst() : nullptr;
    if (worst == nullptr || worst->state != proof::WishState::NotMet) return 1;
    const auto& figure = worst->of(worst->worst());
    return figure.after.estimate > 0 ? std::clamp(figure.least / figure.after.estimate, 1.0, 1.5) : 1;
}

/// By how much a frame would have to be shorter for what else is asked; 1: it is kept, or no settings mend it.
double askedMissed(const ProvenPlan& proven, const run::Brief& brief, const pace::PowerRules& rules) {
    const auto proof = proof::prove(proven.sides, brief, {});
    double shorter = 1;
    if (!proof || proof->after < proof::firstLook) return shorter;
    const double exponent = rules.of(proven.gpuAlone, proven.clocks).exponent;
    for (const auto& goal : proof->wishes)
        if (goal.bound && !goal.untold &&
            (goal.state == proof::WishState::NotMet ||
             (goal.state == proof::WishState::NotEnoughRuns && proof->after >= proof::lastLook)))
            shorter = std::max(shorter, shorterFor(goal, exponent, rules.roomC));
    return shorter <= mostShorter ? shorter : 1;
}

using BySet = std::map<game::Values, std::map<std::string, ProvenPlan>>; // and by how they were paced

BySet provenSets(const Inputs& in, const run::Brief& brief) {
    const auto battery = pace::batteryOf(in.machine());
    BySet out;
    for (const auto& id : in.get<AfterRuns>()->ids) {
        const auto& order = *in.orderOf(id);
        const auto* figures = in.of<RunFigures>(id);
        // Runs that were capped for a lower target say nothing of this one.
        if (figures == nullptr ||
            order.variant.cap.value_or(brief.target).value() < frames::heldAverage * brief.target.value())
            continue;
        const auto& capture = *in.of<RunFrames>(id)->capture;
        auto plan = order.variant;
        plan.values.clear();
        auto& set = out[order.variant.values][run::canonicalText(plan)];
        const auto drawn = pace::drawnIn(capture);
        set.gpuAlone = drawn && drawn->of == pace::PowerOf::Gpu;
        set.clocks = pace::clocksOf(capture, order.conditions, brief.style);
        set.sides.push_back({id, true, &figures->summary, &figures->held, {}, pace::boundFigures(capture, battery)});
    }
    return out;
}

Maybe<Learnt> learntOf(const Inputs& in, const Context&) {
    const auto& brief = in.brief();
    const auto& rules = in.capRules().power;
    const auto* caps = in.get<CapView>();
    Learnt learnt;
    if (!brief) return std::make_shared<const Learnt>(learnt);
    for (const auto& [values, plans] : provenSets(in, *brief)) {
        std::vector<proof::Side> all;
        double asked = mostShorter; // by the plan that keeps it best
        for (const auto& [plan, proven] : plans) {
            all.insert(all.end(), proven.sides.begin(), proven.sides.end());
            asked = std::min(asked, askedMissed(proven, *brief, rules));
        }
        // A cap costs nothing of the picture: it goes first.
        const bool inUse = caps != nullptr && in.orderOf(caps->run)->variant.values == values;
        if (const double missed = targetMissed(all, *brief); missed > 1)
            learnt.missed[values] = missed;
        else if (asked > 1 && !(inUse && otherCap(*caps) != nullptr))
            learnt.asked[values] = asked;
    }
    return std::make_shared<const Learnt>(learnt);
}

} // namespace

std::vector<Stage> learntStages() {
    return {stage("learnt", {Part::Answers, Part::Machine, Part::Target, Part::Wishes, Part::LowRule, Part::CapRules},
                  {use<AfterRuns>(), use<CapView>(), useOf<RunFigures, AfterRuns>(), useOf<RunFrames, AfterRuns>()},
                  learntOf)};
}

} // namespace impasto::results
