// SPDX-License-Identifier: GPL-3.0-or-later
// The schools of caps, each by its own formula (common practice, no source; docs/method.md, Caps).
#include "schools.h"

#include <cmath>

namespace impasto::pace {
namespace {

/// Trailing means of `width` values.
std::vector<double> smoothed(const std::vector<double>& values, int width) {
    std::vector<double> out;
    double sum = 0;
    const auto w = static_cast<std::size_t>(width);
    for (std::size_t i = 0; i < values.size(); ++i) {
        sum += values[i];
        if (i >= w) sum -= values[i - w];
        if (i + 1 >= w) out.push_back(sum / width);
    }
    return out;
}

/// Frames per second of every whole second.
std::vector<double> secondRates(const std::vector<double>& frameMs) {
    std::vector<double> rates;
    double span = 0;
    int frames = 0;
    for (const double v : frameMs) {
        span += v;
        ++frames;
        if (span < 1000) continue;
        rates.push_back(1000.0 * frames / span);
        span = 0;
        frames = 0;
    }
    return rates;
}

std::optional<Fps> headroomCap(const Replay& replay, const CapRules& rules) {
    if (!replay.lanes) return Fps(rules.headroomShare * replay.average().value());
    const auto& run = replay.runs.front();
    double level = 0;
    for (const auto* lane : {&run.cpu, &run.gpu}) {
        const auto of = stats::quantile(smoothed(wholeWork(run, *lane), rules.smoothingFrames), rules.headroomQuantile);
        if (!of) return std::nullopt;
        level = std::max(level, *of);
    }
    return Fps(1000 / (level + rules.switchLossMs));
}

/// The lowest even rate of any mode that reaches the target and that the run reaches; else the highest one under its
/// average.
std::optional<CapPlan> evenPlan(const Replay& replay, const CapRules& rules) {
    if (modesOf(replay.panel).empty() || replay.panel->headset) return std::nullopt;
    const double average = replay.average().value(), target = replay.brief.target.value();
    std::optional<CapPlan> under;
    for (auto plan : evenPlans(*replay.panel, Fps(10))) {
        double rate = plan.pacedTo()->value();
        if (replay.panel->variable) { // it follows the even rate itself
            rate = plan.cap ? rate / aboveEven : rate;
            plan = planFor(Fps(rate), replay.panel, replay.brief.style, rules.limiterErrorMs);
        }
        if (rate <= average && rate >= frames::heldAverage * target) return plan;
        if (rate <= rules.evenShare * average) under = plan;
    }
    return under;
}

/// The lowest cap that reaches the target beyond which the 1% low rises by less than 1.5%, latency weighed against it
/// as the brief has it.
std::optional<CapPlan> steadyPlan(const Replay& replay, const std::vector<CapOffer>& tried) {
    const double weight = replay.brief.latencyWeight();
    std::vector<const CapOffer*> reaching;
    for (const auto& o : tried)
        if (o.plan.cap && o.plan.cap->value() >= frames::heldAverage * replay.brief.target.value())
            reaching.push_back(&o);
    std::sort(reaching.begin(), reaching.end(),
              [](const CapOffer* a, const CapOffer* b) { return *a->plan.cap < *b->plan.cap; });
    std::optional<CapPlan> best;
    double top = 0;
    for (const auto* o : reaching) {
        const double score = std::log(o->prediction.of(Figure::OnePercentLow).middle) -
                             weight * std::log(std::max(1.0, o->prediction.latencyMs.value_or(1)));
        if (best && score < top + 0.015) continue;
        top = score;
        best = o->plan;
    }
    return best;
}

/// The target, or as little above it as makes up for late and slow frames.
CapPlan targetPlan(const Replay& replay, const CapRules& rules, const std::vector<CapOffer>& tried) {
    const auto plan = planFor(replay.brief.target, replay.panel, replay.brief.style, rules.limiterErrorMs);
    const CapOffer* least = nullptr;
    for (const auto& o : tried) {
        const auto rate = o.plan.pacedTo();
        if (!rate || !o.held || rate->value() < 0.999 * replay.brief.target.value() ||
            rate->value() > 1.2 * replay.brief.target.value())
            continue;
        if (least == nullptr || *rate < *least->plan.pacedTo()) least = &o;
    }
    return least == nullptr ? plan : least->plan;
}

std::optional<Fps> whole(std::optional<Fps> cap) {
    return cap ? std::optional(Fps(std::floor(cap->value() + 1e-9))) : cap;
}

std::span<const CapSchool> orderOf(const Replay& replay) {
    static constexpr std::array calm{CapSchool::Even,          CapSchool::Target,   CapSchool::Steady,
                                     CapSchool::BottomOfRange, CapSchool::Headroom, CapSchool::Window,
                                     CapSchool::None};
    static constexpr std::array fast{CapSchool::Steady, CapSchool::None,     CapSchool::Window,
                                     CapSchool::Target, CapSchool::Headroom, CapSchool::BottomOfRange,
                                     CapSchool::Even};
    static constexpr std::array worn{CapSchool::None,     CapSchool::Target,        CapSchool::Steady, CapSchool::Even,
                                     CapSchool::Headroom, CapSchool::BottomOfRange, CapSchool::Window};
    if (replay.panel && replay.panel->headset) return worn;
    return run::ruleOf(replay.brief.style).pacesToTarget ? std::span<const CapSchool>(calm)
                                                         : std::span<const CapSchool>(fast);
}

} // namespace

std::vector<SchoolPlan> schoolPlans(const Replay& replay, const CapRules& rules, const std::vector<CapOffer>& tried) {
    const auto capped = [&](std::optional<Fps> cap) -> std::optional<CapPlan> {
        if (!cap) return std::nullopt;
        return planFor(cap, replay.panel, replay.brief.style, rules.limiterErrorMs);
    };
    const auto bottom = stats::quantile(secondRates(replay.runs.front().frameMs), rules.bottomQuantile);
    const bool variable = replay.panel && replay.panel->variable;
    const auto planOf = [&](CapSchool school) -> std::optional<CapPlan> {
        switch (school) {
        case CapSchool::Target:
            return targetPlan(replay, rules, tried);
        case CapSchool::Even:
            return evenPlan(replay, rules);
        case CapSchool::Steady:
            return steadyPlan(replay, tried);
        case CapSchool::Headroom:
            return capped(whole(headroomCap(replay, rules)));
        case CapSchool::BottomOfRange:
            return capped(bottom ? whole(Fps(*bottom)) : std::nullopt);
        case CapSchool::Window:
            return capped(variable ? whole(fastestCap(replay.panel, rules.limiterErrorMs)) : std::nullopt);
        case CapSchool::None:
            return planFor(std::nullopt, replay.panel, replay.brief.style, rules.limiterErrorMs);
        case CapSchool::Own:
        case CapSchool::Best:
        case CapSchool::Generation:
            break;
        }
        return std::nullopt;
    };
    std::vector<SchoolPlan> out;
    for (const CapSchool school : orderOf(replay)) out.push_back({school, planOf(school)});
    return out;
}

} // namespace impasto::pace
