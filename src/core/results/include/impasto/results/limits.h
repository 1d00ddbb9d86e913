// SPDX-License-Identifier: GPL-3.0-or-later
// What limits each part of the route.
#pragma once

#include <impasto/limits/ladder.h>
#include <impasto/limits/pairs.h>
#include <impasto/limits/what_if.h>
#include <impasto/pace/power.h>
#include <impasto/results/runs.h>

namespace impasto::results {

struct Limits {
    std::vector<limits::PartVerdict> parts; // in route order; safe limits said by hand in place of measured ones
    std::vector<std::vector<limits::WhatIf>> whatIfs; // of each part
    std::optional<pace::Power> power;                 // what the baseline draws; none: its runs do not tell
    /// Of the time that frames may fill at most for what is asked of power, heat, fan and battery; none: no settings
    /// are expected to keep that.
    std::optional<double> fill = 1.0;
    std::map<std::string, double> askedShares = {}; // of the budget, by part: what that leaves, where it is not all
};

/// Of the runs that differ from the baseline in the rendered size alone, a part each.
struct Ladders {
    std::vector<limits::Ladder> parts;
};

/// Runs of a variant that the user named, all of it held against the baseline's runs: what neither tells alone.
struct NamedStates {
    std::map<RunId, std::vector<limits::PairFinding>> ofRun;
};

/// Empty without runs.
const std::vector<limits::PartVerdict>& verdictsOf(const Results& results);
/// Of the parts as they were played; nullptr without runs.
const limits::PartVerdict* slowestOf(const Results& results);
/// The 1% low at another rate, as far under it in share as the baseline's lies under its slowest part: an estimate
/// until it is run; nothing where the brief has no floor under it.
std::optional<Fps> estimatedLow(const Results& results, const run::Brief& brief, Fps rate);

std::vector<Stage> limitStages();

} // namespace impasto::results
