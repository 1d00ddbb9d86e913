// SPDX-License-Identifier: GPL-3.0-or-later
// Before, chosen and chosen with a cap, in figures and in what they draw.
#pragma once

#include <impasto/pace/power.h>
#include <impasto/results/pace.h>

namespace impasto::results {

struct PowerView {
    struct Side {
        pace::Figures figures; // means over the runs
        std::optional<pace::Drawn> drawn;
        std::size_t runs = 0;
    };
    Side before, chosen; // the values in use, of no run where none has frames; the choice without a cap
    Fps resting;         // what paces a picture in which nothing moves
};
/// What is predicted with a plan: of an offer with it, else of the nearest cap on the curve.
const pace::CapPrediction* predictionOf(const Results& results, const pace::CapPlan& plan);

/// What a set is expected to draw, capped at a rate: as the settings in use would where they fill as much of the time.
/// Nothing where their runs tell no power, or no costs are known yet.
std::optional<pace::Draws> drawsOf(const Results& results, const game::Values& values, Fps cap,
                                   const pace::PowerRules& rules);

std::vector<Stage> powerStages();

} // namespace impasto::results
