// SPDX-License-Identifier: GPL-3.0-or-later
// From costs and a budget to the exact choice of levels: the most picture that fits in every part and lane.
#pragma once

#include <impasto/choose/chooser.h>
#include <impasto/choose/knapsack.h>
#include <impasto/cost/cost.h>

namespace impasto::choose {

/// The costs of one lane, and against the route the part that is nearest to its safe limit: partMean = worstFactor *
/// routeMean.
struct LaneCosts {
    run::Lane lane = run::Lane::Frame;
    cost::Fit fit;
    std::string worstPart;
    double worstFactor = 1;
    double safeShare = 1; // of the budget, that the mean may fill there
    /// How far sets of several changes, when run, lay above the sum of their costs, at most so far; in the worst part.
    /// Taken from what is usable.
    double missMs = 0;
};

struct Ground {
    const game::Game& game;
    game::Values baseline;
    std::vector<LaneCosts> lanes;       // CPU and GPU, or the frame alone
    std::optional<cost::Fit> gpuMemory; // MiB
    std::optional<Mebibytes> gpuMemorySize;
    game::Values locked; // settings that must keep the level
};

struct LaneOutcome {
    run::Lane lane = run::Lane::Frame;
    std::string worstPart;
    double meanMs = 0; // predicted, in the worst part
    double standardErrorMs = 0;
    double marginMs = 0; // t(0.90) times the standard error
    double usableMs = 0;
    [[nodiscard]] double leftMs() const { return usableMs - meanMs - marginMs; }
};

struct Proposal {
    game::Values values;
    double picture = 0; // 0 to 1
    std::vector<LaneOutcome> lanes;
    std::optional<double> gpuMemoryMib, gpuMemoryLeftMib;
    bool proven = false;
    double pictureGap = 0; // how much more picture could exist, at most; 0 when proven
    std::uint64_t nodes = 0;
};

/// The best choice among the measured levels and the baseline's, at a target. Errors: NothingFits, LacksRuns (no lane
/// has a fit), Cancelled.
Result<Proposal> propose(const Ground& ground, Fps target, const Context& context = {});
/// What a given set of values comes to. Errors: UnknownName for a level that is not measured (key: its setting).
Result<std::vector<LaneOutcome>> outcomeOf(const Ground& ground, const game::Values& values, Fps target);
/// Whether every lane has something left.
bool fits(const std::vector<LaneOutcome>& lanes);

} // namespace impasto::choose
