// SPDX-License-Identifier: GPL-3.0-or-later
// Frame generation planned on a set's own frames: for every kind, place and multiplier the base cap, the base and the
// shown rate, latency, and whether the GPU that invents keeps up.
#pragma once

#include <impasto/pace/predict.h>

namespace impasto::pace {

/// Where nothing was measured: common practice, no source, for a middling GPU, and off by up to a factor of 2 either
/// way. `machine`: its second GPU's link, where that was read (bytes a second as the PCI Express base specification
/// counts them: transfers x lanes x 128/130 / 8).
GenerationCosts usualCosts(display::Resolution output, const machine::Machine* machine);
/// A run with generation on the rendering GPU, against its uncapped siblings: GPU work a rendered frame, mean. Of a
/// second GPU nothing is learnt, nor of adaptive generation.
GenerationCosts measuredCosts(GenerationCosts usual, const run::Generation& generation, double gpuMs,
                              double gpuMsWithout);

/// How frames would be invented for a base to be shown as so much, and the GPU work that it takes of a rendered frame.
struct Inventing {
    run::Generation generation;
    Fps base{0};
    double gpuMs = 0;
};
/// The least base that invented frames are steered well with: 60 fps with a mouse, 40 with a pad (common practice, no
/// source), 48 where it is not said (our choice between them).
Fps leastBase(const run::Brief& brief);
/// What to render where others are invented to show twice as much instead of the target: half of it, the least base at
/// the least. Nothing for competitive play, where a shown rate is wished already, and hardly under the target.
std::optional<Fps> inventedBase(const run::Brief& brief);
/// On a second GPU where there is one, else built in, else by the driver, at usual costs; nothing for a headset.
/// `output`: 0x0: the panel's own.
std::optional<Inventing> usualInventing(const machine::Machine* machine, bool builtIn, display::Resolution output,
                                        Fps base, Fps shown);

/// Which goal a plan is likely to miss.
enum class GenerationMiss { Base, Shown, Latency };

struct GenerationOffer {
    CapPlan plan;
    Band base, shown;                // fps; ends: costs twice and half as large, where they are usual ones
    double slowestPart = 0;          // base rate there, fps
    std::optional<double> latencyMs; // input to panel
    double busy = 0;                 // share of the time that the GPU which invents works
    bool keepsUp = true;             // the base cap is reached
    std::optional<GenerationMiss> misses = {};
    [[nodiscard]] const run::Generation& generation() const { return *plan.generation; }
};
struct GenerationPlan {
    GenerationCosts costs;
    std::vector<GenerationOffer> offers;  // kind by kind, each for the multipliers, then adaptive
    std::optional<std::size_t> best;      // of least latency that meets both goals; none where no rate is to be shown
    std::optional<double> latencyWithout; // at the cap that holds the target without generation
};
inline constexpr std::array<int, 3> plannedMultipliers{2, 3, 4};
inline constexpr std::size_t plansAKind = plannedMultipliers.size() + 1;

/// The base cap that keeps multiplier x base inside a variable range, 4 fps under its top (common practice, no source:
/// 58, 38, 29 on 120); on a fixed panel the one that fills its refresh exactly. None where no panel is known, and none
/// with adaptive generation, which follows the base.
CapPlan basePlan(const std::optional<display::Panel>& panel, const run::Generation& generation);
/// The base cap that fills the panel's highest mode exactly.
std::optional<Fps> fillingCap(const std::optional<display::Panel>& panel, int multiplier);
/// What adaptive generation aims at: the rate that is to be shown, else what the panel shows at most, 4 fps under the
/// top of a variable range; without a panel twice the target.
Fps adaptiveTarget(const run::Brief& brief, const std::optional<display::Panel>& panel);

/// Without lane times nothing is offered: what is left of the GPU is not known. `builtIn`: the game has it. Adaptive
/// generation is never the best: it steps between whole multiples as the base moves, so that what is shown comes less
/// evenly.
GenerationPlan planGeneration(const Replay& replay, const CapRules& rules, bool builtIn, bool secondGpu,
                              const Context& context = {});
/// A base cap of one's own, as the plan's are; nothing where nothing is offered.
std::optional<GenerationOffer> ownGeneration(const Replay& replay, const CapPlan& plan);

} // namespace impasto::pace
