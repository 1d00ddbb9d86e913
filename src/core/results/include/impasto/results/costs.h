// SPDX-License-Identifier: GPL-3.0-or-later
// What every measured level costs, the choice that follows from it, and what runs of it say.
#pragma once

#include <impasto/choose/propose.h>
#include <impasto/results/runs.h>

namespace impasto::results {

struct Costs {
    std::vector<choose::LaneCosts> lanes; // empty until the baseline repeats
    std::optional<cost::Fit> gpuMemory, systemMemory;
    std::vector<cost::LevelKey> planned;
    std::vector<cost::LevelKey> toMeasure; // planned and not yet measured
    cost::Need need;
    [[nodiscard]] const choose::LaneCosts* of(run::Lane lane) const;
};

/// The exact choice, or why there is none.
struct Proposed {
    std::optional<choose::Proposal> proposal;
    std::optional<Error> error;
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

/// nullptr where there is none.
const choose::Proposal* proposalOf(const Results& results);

std::vector<Stage> costStages();

} // namespace impasto::results
