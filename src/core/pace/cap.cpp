// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/pace/cap.h>

#include <cmath>
#include <impasto/base/keys.h>

#include "schools.h"

namespace impasto::pace {
namespace {

constexpr Keys<CapSchool, 10> schools{{{CapSchool::Target, "target"},
                                       {CapSchool::Generation, "generation"},
                                       {CapSchool::Own, "own"},
                                       {CapSchool::Best, "best"},
                                       {CapSchool::Steady, "steady"},
                                       {CapSchool::Headroom, "headroom"},
                                       {CapSchool::BottomOfRange, "bottom-of-range"},
                                       {CapSchool::Even, "even"},
                                       {CapSchool::Window, "window"},
                                       {CapSchool::None, "none"}}};

/// How much more a goal that is missed weighs than what the style would rather have.
constexpr double missWeight = 4;
constexpr double missStep = 0.1; // for what is asked besides the rate, however little it is missed by

/// What the style asks for; a logarithm. Latency that is not known of any weighs nothing.
double wished(const run::Brief& brief, const Figures& f, std::optional<double> latencyMs) {
    const double late = brief.latencyWeight() * std::log(std::max(1.0, latencyMs.value_or(1)));
    const double average = std::log(f.of(Figure::Average)), low = std::log(f.of(Figure::OnePercentLow));
    const double watts = 0.5 * average;
    switch (brief.style) {
    case run::Style::Competitive:
    case run::Style::Headset:
        return low - late;
    case run::Style::Cinematic:
        return 1.5 * low - 0.5 * average - late;
    case run::Style::Battery:
        return -watts - late;
    case run::Style::Quiet:
        return 0.5 * low - watts - late; // less heat first
    case run::Style::WeakMachine:
        return std::log(std::min(f.of(Figure::SlowestSecond), 1.1 * brief.target.value())) + 0.3 * low - late;
    }
    return low - late;
}

/// By how much what was measured misses what is asked, together.
double missedBy(const run::BoundFigures& asked, const run::BoundFigures& is) {
    double out = 0;
    for (const auto bound : run::allBounds)
        if (asked[bound] && is[bound]) out += run::missOf(bound, *asked[bound], *is[bound]);
    return out;
}

CapOffer offerOf(const Replay& replay, CapSchool school, const CapPlan& plan, const CapRules& rules,
                 const std::optional<Power>& power) {
    CapOffer offer{school, plan};
    offer.conflict = conflictFor(replay, plan, rules);
    offer.prediction = predict(replay, plan, rules);
    offer.held = wouldHold(replay.brief, offer.prediction);
    offer.worth = worthOf(replay.brief, offer.prediction);
    for (const auto& proven : replay.proven) {
        if (proven.plan != plan) continue;
        offer.measured = proven.measured;
        offer.foretold = predict(replay, plan, rules, Taught::Nothing);
        offer.worth = worthOf(replay.brief, proven.measured, offer.prediction.latencyMs);
    }
    offer.bounds = boundFigures(
        offer.prediction, power ? drawsWith(*power, plan, offer.prediction.average(), rules.power) : std::nullopt);
    const double missed =
        offer.measured ? missedBy(replay.brief.bounds, offer.bounds) : run::missOf(replay.brief.bounds, offer.bounds);
    if (missed > 0) offer.worth -= missStep + missWeight * missed;
    return offer;
}

/// Caps that are tried besides what the schools say.
std::vector<CapPlan> between(const Replay& replay, const CapRules& rules) {
    std::vector<CapPlan> out;
    const double target = replay.brief.target.value(), average = replay.average().value();
    const auto add = [&](double cap) {
        out.push_back(
            planFor(Fps(std::max(10.0, std::round(cap))), replay.panel, replay.brief.style, rules.limiterErrorMs));
    };
    for (int i = 0; i < 6; ++i) add(std::pow(1.02, i) * target);
    for (int i = 0; i < 15; ++i) add((0.45 + 0.62 * i / 14) * average);
    if (replay.panel && !replay.panel->headset)
        for (const auto& plan : evenPlans(*replay.panel, Fps(std::max(10.0, 0.45 * average)))) out.push_back(plan);
    for (const auto& proven : replay.proven) out.push_back(proven.plan);
    return out;
}

/// The one of greatest worth that suits the panel; of those that are worth the same to within half a percent a
/// school's, since it has a reason of its own. A cap under the target is none where one above it is expected to hold:
/// what is asked besides the rate does not go before it.
const CapOffer* bestOf(const std::vector<CapOffer>& named, const std::vector<CapOffer>& others, Fps target,
                       bool proven) {
    const auto suits = [](const CapOffer& o) { return o.applies && !o.conflict; };
    const auto holds = [&](const CapOffer& o) { return suits(o) && o.held; };
    const bool any = std::any_of(named.begin(), named.end(), holds) || std::any_of(others.begin(), others.end(), holds);
    const CapOffer* best = nullptr;
    const auto better = [&](const CapOffer& o, double by) {
        const auto rate = o.plan.pacedTo();
        const bool under = any && rate && *rate < target * frames::heldAverage;
        return suits(o) && !under && (!proven || o.measured) && (best == nullptr || o.worth > best->worth + by);
    };
    for (const auto& o : named)
        if (better(o, 0)) best = &o;
    for (const auto& o : others)
        if (better(o, 0.005)) best = &o;
    return best;
}

} // namespace

std::optional<CapConflict> conflictFor(const Replay& replay, const CapPlan& plan, const CapRules& rules) {
    if (const auto conflict = conflictOf(plan, replay.panel, rules.limiterErrorMs)) return conflict;
    // On a fixed panel an uneven cap is no choice for who wants the target evenly.
    const bool fixed = replay.panel && !replay.panel->variable && !replay.panel->headset &&
                       !modesOf(replay.panel).empty() && run::ruleOf(replay.brief.style).pacesToTarget;
    if (fixed && plan.sync == run::Sync::None) return CapConflict::Uneven;
    // Without a cap frames tear, or wait at the top of the range.
    if (replay.panel && replay.panel->variable && !plan.cap && run::ruleOf(replay.brief.style).pacesToTarget)
        return CapConflict::NoCap;
    return std::nullopt;
}

std::string_view keyOf(CapSchool school) {
    return keyIn(schools, school);
}
std::optional<CapSchool> capSchoolOf(std::string_view key) {
    return valueIn(schools, key);
}

double worthOf(const run::Brief& brief, const Figures& f, std::optional<double> latencyMs) {
    const double target = brief.target.value();
    const auto under = [](double least, double is) { return std::max(0.0, std::log(least / std::max(is, 1e-3))); };
    double missed = 2 * std::max(0.0, brief.wishedOnTime() - f.of(Figure::OnTime)) +
                    under(frames::heldSecond * target, f.of(Figure::SlowestSecond)) +
                    under(frames::heldAverage * target, f.of(Figure::LeastPart));
    if (const auto floor = brief.floor())
        missed += under(floor->value(), f.of(brief.floorOf == run::FloorOf::SlowestSecond ? Figure::SlowestSecond
                                                                                          : Figure::OnePercentLow));
    return wished(brief, f, latencyMs) - missWeight * missed;
}

double worthOf(const run::Brief& brief, const CapPrediction& p) {
    const auto at = [&](double share) {
        Figures f;
        for (const auto figure : allFigures) {
            const auto& band = p.of(figure);
            const double end = measureOf(figure, share < 0 ? band.low : band.high),
                         middle = measureOf(figure, band.middle);
            f.of(figure) = valueOf(figure, middle + std::abs(share) * (end - middle));
        }
        return worthOf(brief, f, p.latencyMs);
    };
    return 0.25 * at(-0.55) + 0.5 * at(0) + 0.25 * at(0.55);
}

CapOffer ownOffer(const Replay& replay, const CapPlan& plan, const CapRules& rules, const std::optional<Power>& power) {
    auto offer = offerOf(replay, CapSchool::Own, plan, rules, power);
    offer.places = atEveryPlace(replay, plan);
    return offer;
}

CapOffers offers(const Replay& replay, const CapRules& rules, const Context& context,
                 const std::optional<Power>& power) {
    CapOffers out;
    const bool worn = replay.panel && replay.panel->headset;
    std::vector<CapOffer> others;
    for (const auto& plan : worn ? std::vector<CapPlan>{} : between(replay, rules)) {
        if (context.cancelled()) return out;
        const bool twice = std::any_of(others.begin(), others.end(), [&](const auto& o) { return o.plan == plan; });
        if (!twice && !conflictFor(replay, plan, rules))
            others.push_back(offerOf(replay, CapSchool::Best, plan, rules, power));
    }
    for (const auto& [school, plan] : schoolPlans(replay, rules, others)) {
        if (context.cancelled()) return {};
        const auto tried = std::find_if(others.begin(), others.end(),
                                        [&plan = plan](const CapOffer& o) { return plan && o.plan == *plan; });
        if (!plan)
            out.all.push_back({school, {}, false});
        else
            out.all.push_back(tried != others.end() ? *tried : offerOf(replay, school, *plan, rules, power));
        out.all.back().school = school;
        out.all.back().places = atEveryPlace(replay, out.all.back().plan);
    }
    if (worn) return out;
    const auto* best = bestOf(out.all, others, replay.brief.target, false);
    const auto* proven = bestOf(out.all, others, replay.brief.target, true);
    if (best == nullptr) return out;
    if (proven != nullptr) out.gain = best->worth - proven->worth;
    if (proven != nullptr && *out.gain <= worthAProof) best = proven;
    const CapPlan plan = best->plan;
    const auto school = std::find_if(out.all.begin(), out.all.end(),
                                     [&](const CapOffer& o) { return o.applies && !o.conflict && o.plan == plan; });
    if (school != out.all.end())
        std::rotate(out.all.begin(), school, school + 1);
    else
        out.all.insert(out.all.begin(), CapOffer(*best))->places = atEveryPlace(replay, plan);
    return out;
}

std::vector<CapPrediction> curve(const Replay& replay, Fps from, Fps to, std::size_t points, const CapRules& rules,
                                 const Context& context) {
    std::vector<CapPrediction> out;
    for (std::size_t i = 0; i < points && !context.cancelled(); ++i) {
        const double share = points > 1 ? static_cast<double>(i) / static_cast<double>(points - 1) : 0;
        const Fps cap(from.value() + share * (to.value() - from.value()));
        auto plan = planFor(cap, replay.panel, replay.brief.style, rules.limiterErrorMs);
        if (plan.sync == run::Sync::Fixed) plan = {cap, run::Sync::None, plan.refresh};
        out.push_back(predict(replay, plan, rules));
    }
    return out;
}

Played replayedFrames(const Replay& replay, const CapPlan& plan, std::optional<run::LimiterPlace> limiter) {
    if (!replay.lanes) return {};
    return play(replay, replay.runs.front(), plan, replay.deferred, {1, 1}, limiter);
}

HeldAt heldAt(const Played& played, run::LimiterPlace place) {
    HeldAt out{place, meanLatencyMs(played.frames).value_or(0)};
    const auto shown = shownIntervals(played.frames);
    for (std::size_t i = 1; i < shown.size(); ++i)
        out.swingMs += std::abs(shown[i] - shown[i - 1]) / static_cast<double>(shown.size() - 1);
    return out;
}

std::vector<HeldAt> atEveryPlace(const Replay& replay, const CapPlan& plan) {
    std::vector<HeldAt> out;
    if (!plan.cap || !replay.lanes || (replay.panel && replay.panel->headset)) return out;
    for (const auto place : run::allLimiterPlaces) out.push_back(heldAt(replayedFrames(replay, plan, place), place));
    return out;
}

} // namespace impasto::pace
