// SPDX-License-Identifier: GPL-3.0-or-later
// What every measured level costs, the choice that follows from it, and what runs of it say.
#pragma once

#include <impasto/choose/propose.h>
#include <impasto/results/runs.h>

namespace impasto::results {

/// Everything at its lowest, in the part that is nearest to its limit.
struct Lowest {
    bool wanted = false;                       // so much is to be saved that a run of it comes first
    std::vector<choose::LaneOutcome> measured; // empty until it was run
    bool fits = true;                          // as far as is known
    std::optional<Fps> reaches;                // what it holds
};

/// What failed proofs say of the sets that were run.
struct Learnt {
    std::map<game::Values, double> missed; // how many times too short a set fell of what holds the target
    std::map<game::Values, Fps> refuted;   // the highest cap with which a set missed a goal
};

/// Levels whose test run was skipped by hand.
struct SkippedLevels {
    std::vector<cost::LevelKey> levels;
    bool lowest = false; // and the run of everything at its lowest
};

struct Costs {
    std::vector<choose::LaneCosts> lanes; // empty until the baseline repeats
    std::optional<cost::Fit> gpuMemory, systemMemory;
    std::vector<cost::LevelKey> planned;
    std::vector<cost::LevelKey> toMeasure; // planned and not yet measured
    cost::Need need;
    double tighter = 1;         // the safe limits are divided by it: sets that should have fitted missed the target
    std::size_t missedSets = 0; // how many
    std::vector<cost::LevelKey> lacking; // run, and not known on every lane: they cannot be chosen
    [[nodiscard]] const choose::LaneCosts* of(run::Lane lane) const;
};

/// The exact choice, or why there is none.
struct Proposed {
    std::optional<choose::Proposal> proposal;
    std::optional<Error> error;
    bool keepsPicture = true; // the proposal shows as much of the picture as is asked for
    // Where nothing fits the target, or nothing with so much of the picture:
    std::optional<Fps> reaches; // the highest rate, in whole fps, that some set with that picture holds in every part
    std::optional<choose::Proposal> instead; // the best set for it
    // The same where less of the picture is accepted, if that is more:
    std::optional<Fps> lessReaches;
    std::optional<choose::Proposal> less;
};

/// What runs of the accepted choice without a cap say against it.
struct Check {
    std::size_t runs = 0;
    std::vector<choose::LaneOutcome> measured; // means in the worst part, standard errors between runs
    bool holds = true;                         // every lane stays within its usable share of the frame
    bool reaches = true;                       // every lane stays within the whole frame
};

/// The ground of a choice, for drags that solve again; nothing without costs. The session must outlive it.
std::optional<choose::Ground> groundOf(const document::Session& session, const Results& results);

/// Share of the budget that the mean of a lane may fill, in the part that is nearest to its limit; before any run as
/// said by hand, or the rule of thumb.
double safeShareOf(const document::Session& session, const Results& results, run::Lane lane);
/// Where nothing fits the target: the highest rate that fits, as far as is known.
std::optional<Fps> reachableOf(const Results& results);
/// nullptr where there is none.
const choose::Proposal* proposalOf(const Results& results);

std::vector<Stage> costStages();

} // namespace impasto::results
