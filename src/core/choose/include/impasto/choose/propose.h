// SPDX-License-Identifier: GPL-3.0-or-later
// From what is believed of the costs and a rate to the exact choice of levels: the most picture that fits in every
// part, on CPU and GPU.
#pragma once

#include <impasto/choose/chooser.h>
#include <impasto/cost/cost.h>
#include <impasto/run/run.h>

namespace impasto::choose {

/// What the levels cost one lane, in the part that is nearest to its safe limit.
struct LaneCosts {
    run::Lane lane = run::Lane::Cpu;
    cost::LevelCosts levels;
    std::string worstPart;
    double safeShare = 1; // of the budget, that the mean may fill there
};

/// All that a choice rests on; shared, so that another rate under the hand is cheap.
struct Ground {
    std::shared_ptr<const Chooser> chooser;
    game::Values baseline;
    std::vector<std::vector<double>> shares; // of the budget, by resource (as in the belief's) and part; of memory MiB
    std::vector<game::Rule> rules;           // of the game
    double inventedMs = 0;                   // of the GPU, that frames invented beside a rendered one take
    [[nodiscard]] const cost::Belief& belief() const { return chooser->belief(); }
    [[nodiscard]] Room room(Fps target) const;
    /// With the baseline's own level of a setting that is not varied.
    [[nodiscard]] game::Values valuesOf(const cost::Set& set) const;
};

struct LaneOutcome {
    run::Lane lane = run::Lane::Frame;
    std::string worstPart;
    double meanMs = 0; // predicted, in the worst part
    double standardErrorMs = 0;
    double marginMs = 0; // for doubt: usualSafety times what one run of it differs by
    double usableMs = 0; // of the GPU less what lies beside its work
    [[nodiscard]] double leftMs() const { return usableMs - meanMs - marginMs; }
};

struct Proposal {
    game::Values values;
    double picture = 0; // 0 to 1
    double chance = 0;  // at least, that one run of it stays within its limits everywhere
    std::vector<LaneOutcome> lanes;
    bool proven = false;
    double pictureGap = 0; // how much more picture could exist, at most; 0 when proven
    std::uint64_t nodes = 0;
};

/// What a found set comes to.
Proposal proposalOf(const Ground& ground, const Best& best, Fps target);
/// The best choice at a target. Errors: NothingFits, LacksRuns (nothing is believed yet), Cancelled.
Result<Proposal> propose(const Ground& ground, Fps target, const Context& context = {});
/// What a given set of values comes to, of CPU and GPU. Errors: UnknownName for a level that the game does not have.
Result<std::vector<LaneOutcome>> outcomeOf(const Ground& ground, const game::Values& values, Fps target);
/// A set taken apart: everything at its lowest, run the cheapest way, then the rendered size, then setting by setting
/// in the game's order, each as it lies on what is there already, so that they add up.
struct Slab {
    std::string setting; // empty: everything at its lowest
    double ms = 0, standardErrorMs = 0;
};
struct Slabs {
    std::vector<Slab> slabs;
    double totalMs = 0, standardErrorMs = 0;
};
/// Errors: UnknownName for a level that the game does not have.
Result<Slabs> slabsOf(const Ground& ground, run::Lane lane, const std::string& part, const game::Values& values);
/// Whether every lane has something left.
bool fits(const std::vector<LaneOutcome>& lanes);

} // namespace impasto::choose
