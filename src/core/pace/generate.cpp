// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/pace/generate.h>

#include <algorithm>
#include <cmath>

namespace impasto::pace {
namespace {

// Common practice, no source: a middling GPU invents one frame of a megapixel so fast.
constexpr double fixedMs = 0.5, builtInPerMpixMs = 0.45, outsidePerMpixMs = 1.4;
constexpr double secondGpuFactor = 2;  // how much slower a second GPU is
constexpr double usualLinkGibPerS = 4; // of a second GPU's narrow link
constexpr double bytesPerPixel = 4, copyFixedMs = 0.4;
constexpr double rangeMargin = 4; // fps under the top of a variable range
constexpr double usualDoubt = 2;  // factor, either way

double topOf(const display::Panel& panel) {
    return panel.variable ? panel.variable->highest.value() : modesOf(panel).back().value();
}

/// Where what is only usual is off by a factor.
GenerationCosts doubted(GenerationCosts costs, double by) {
    if (!costs.measured) {
        costs.builtInMs *= by;
        costs.outsideMs *= by;
    }
    costs.secondGpuMs *= by;
    return costs;
}

struct Predicted {
    Figures figures;
    double busy = 0;
};

/// The first run's replay with costs as they are.
std::optional<Predicted> predicted(const Replay& replay, const CapPlan& plan) {
    const auto f = replayed(replay, replay.runs.front(), plan, replay.deferred);
    if (!f) return std::nullopt;
    const double base = f->of(Figure::Average);
    const auto work = inventedWork(replay.generation, *plan.generation, f->shown / base);
    return Predicted{*f, plan.generation->onSecondGpu ? std::min(1.0, work.secondGpuMs * base / 1000)
                                                      : f->gpuBusy.value_or(0)};
}

/// What is left of the GPU is known.
bool mayInvent(const Replay& replay) {
    return replay.lanes && !(replay.panel && replay.panel->headset);
}

/// The replay with what inventing takes as it is, and where it is in doubt, half and twice of it.
struct Costed {
    const Replay& usual;
    Replay cheap, dear;
};

Costed costedOf(const Replay& replay) {
    Costed out{replay, replay, replay};
    out.cheap.generation = doubted(replay.generation, 1 / usualDoubt);
    out.dear.generation = doubted(replay.generation, usualDoubt);
    return out;
}

std::optional<GenerationMiss> missOf(const run::Brief& brief, const GenerationOffer& offer) {
    if (offer.slowestPart < frames::heldAverage * brief.target.value()) return GenerationMiss::Base;
    if (brief.shown && offer.shown.middle < frames::heldAverage * brief.shown->value()) return GenerationMiss::Shown;
    const auto& most = brief.bounds[run::Bound::Latency];
    if (most && offer.latencyMs && run::missOf(run::Bound::Latency, *most, *offer.latencyMs) > 0)
        return GenerationMiss::Latency;
    return std::nullopt;
}

std::optional<GenerationOffer> offerOf(const Costed& costed, const CapPlan& plan) {
    constexpr double reached = 0.97;
    const auto now = predicted(costed.usual, plan), low = predicted(costed.dear, plan),
               high = predicted(costed.cheap, plan);
    if (!now || !low || !high) return std::nullopt;
    GenerationOffer offer;
    offer.plan = plan;
    offer.base = {low->figures.of(Figure::Average), now->figures.of(Figure::Average),
                  high->figures.of(Figure::Average)};
    offer.shown = {low->figures.shown, now->figures.shown, high->figures.shown};
    offer.slowestPart = now->figures.of(Figure::LeastPart);
    offer.latencyMs = now->figures.latencyMs;
    offer.busy = now->busy;
    const auto& target = plan.generation->target;
    offer.keepsUp = (!plan.cap || offer.base.middle >= reached * plan.cap->value()) &&
                    (!target || offer.shown.middle >= reached * target->value());
    offer.misses = missOf(costed.usual.brief, offer);
    return offer;
}

/// The latency at the cap that holds the target without generation.
std::optional<double> latencyWithout(const Replay& replay, const CapRules& rules) {
    const auto plan = planFor(replay.brief.target, replay.panel, replay.brief.style, rules.limiterErrorMs);
    const auto without = replayed(replay, replay.runs.front(), plan, replay.deferred);
    return without ? without->latencyMs : std::nullopt;
}

} // namespace

GenerationCosts usualCosts(display::Resolution output, const machine::Machine* machine) {
    const double mpix = std::max(0.5, display::megapixelsOf(output).value());
    GenerationCosts costs;
    costs.builtInMs = fixedMs + builtInPerMpixMs * mpix;
    costs.outsideMs = fixedMs + outsidePerMpixMs * mpix;
    costs.secondGpuMs = secondGpuFactor * costs.outsideMs;
    double gibPerS = usualLinkGibPerS;
    if (machine != nullptr) {
        const auto gts = machine::numberIn(machine->facts, "second.link_gts"),
                   lanes = machine::numberIn(machine->facts, "second.link_lanes");
        if (gts && lanes && *gts > 0 && *lanes > 0) gibPerS = *gts * *lanes * (128.0 / 130) / 8 * 1e9 / 1073741824.0;
    }
    costs.linkMs = copyFixedMs + mpix * 1e6 * bytesPerPixel / (gibPerS * 1073741824.0) * 1000;
    return costs;
}

GenerationCosts measuredCosts(GenerationCosts usual, const run::Generation& g, double gpuMs, double gpuMsWithout) {
    if (g.onSecondGpu || g.target || g.multiplier < 2) return usual;
    const double expected = inventedWork(usual, g).gpuMs, is = gpuMs - gpuMsWithout;
    if (!(is > 0.05) || !(expected > 0)) return usual;
    usual.builtInMs *= is / expected;
    usual.outsideMs *= is / expected;
    usual.measured = true;
    return usual;
}

Fps leastBase(const run::Brief& brief) {
    if (!brief.steering) return Fps(48);
    return *brief.steering == run::Steering::Mouse ? Fps(60) : Fps(40);
}

std::optional<Fps> inventedBase(const run::Brief& brief) {
    constexpr double hardlyUnder = 0.9;
    if (brief.shown || brief.style == run::Style::Competitive) return std::nullopt;
    const double base = std::ceil(std::max(brief.target.value() / 2, leastBase(brief).value()));
    return base < hardlyUnder * brief.target.value() ? std::optional(Fps(base)) : std::nullopt;
}

std::optional<Inventing> usualInventing(const machine::Machine* machine, bool builtIn, display::Resolution output,
                                        Fps base, Fps shown) {
    if (machine != nullptr && machine->panel.headset) return std::nullopt;
    if (output.widthPx <= 0) output = machine == nullptr ? display::Resolution{1920, 1080} : machine->panel.native;
    run::Generation g;
    g.onSecondGpu = machine != nullptr && !machine->secondGpu.empty();
    g.kind = g.onSecondGpu ? run::GenerationKind::External
             : builtIn     ? run::GenerationKind::BuiltIn
                           : run::GenerationKind::Driver;
    g.multiplier = std::clamp(static_cast<int>(std::ceil(shown / base - 0.01)), 2, plannedMultipliers.back());
    return Inventing{g, base, inventedWork(usualCosts(output, machine), g).gpuMs};
}

CapPlan basePlan(const std::optional<display::Panel>& panel, const run::Generation& generation) {
    CapPlan plan;
    plan.generation = generation;
    if (modesOf(panel).empty()) return plan;
    const double top = topOf(*panel);
    if (panel->variable)
        plan.sync = run::Sync::Variable;
    else {
        plan.sync = run::Sync::Fixed;
        plan.refresh = Hertz(top);
    }
    if (generation.target) return plan;
    plan.cap = panel->variable ? Fps(std::floor((top - rangeMargin) / generation.multiplier))
                               : Fps(std::round(1e6 * top / generation.multiplier) / 1e6);
    return plan;
}

std::optional<Fps> fillingCap(const std::optional<display::Panel>& panel, int multiplier) {
    if (modesOf(panel).empty()) return std::nullopt;
    return Fps(topOf(*panel) / multiplier);
}

Fps adaptiveTarget(const run::Brief& brief, const std::optional<display::Panel>& panel) {
    if (modesOf(panel).empty()) return brief.shown.value_or(Fps(2 * brief.target.value()));
    const Fps most(panel->variable ? std::floor(topOf(*panel) - rangeMargin) : topOf(*panel));
    return brief.shown ? std::min(*brief.shown, most) : most;
}

GenerationPlan planGeneration(const Replay& replay, const CapRules& rules, bool builtIn, bool secondGpu,
                              const Context& context) {
    GenerationPlan out;
    out.costs = replay.generation;
    if (!mayInvent(replay)) return out;
    std::vector<std::pair<run::GenerationKind, bool>> kinds;
    if (builtIn) kinds.emplace_back(run::GenerationKind::BuiltIn, false);
    kinds.emplace_back(run::GenerationKind::Driver, false);
    kinds.emplace_back(run::GenerationKind::External, false);
    if (secondGpu) kinds.emplace_back(run::GenerationKind::External, true);
    const auto costed = costedOf(replay);
    const auto add = [&](const run::Generation& generation) {
        if (context.cancelled()) return;
        if (const auto offer = offerOf(costed, basePlan(replay.panel, generation))) out.offers.push_back(*offer);
    };
    for (const auto& [kind, second] : kinds) {
        for (const int multiplier : plannedMultipliers) add({kind, multiplier, {}, second});
        add({kind, 2, adaptiveTarget(replay.brief, replay.panel), second});
    }
    out.latencyWithout = latencyWithout(replay, rules);
    if (!replay.brief.shown) return out;
    for (std::size_t i = 0; i < out.offers.size(); ++i) {
        const auto& offer = out.offers[i];
        const bool better = !out.best || offer.latencyMs.value_or(1e9) < out.offers[*out.best].latencyMs.value_or(1e9);
        if (!offer.misses && !offer.generation().target && better) out.best = i;
    }
    return out;
}

std::optional<GenerationOffer> ownGeneration(const Replay& replay, const CapPlan& plan) {
    return plan.generation && mayInvent(replay) ? offerOf(costedOf(replay), plan) : std::nullopt;
}

} // namespace impasto::pace
