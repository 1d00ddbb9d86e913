// SPDX-License-Identifier: GPL-3.0-or-later
// What limits each part of the route.
#pragma once

#include <impasto/limits/ladder.h>
#include <impasto/limits/what_if.h>
#include <impasto/results/runs.h>

namespace impasto::results {

struct Limits {
    std::vector<limits::PartVerdict> parts; // in route order; safe limits said by hand in place of measured ones
    std::vector<std::vector<limits::WhatIf>> whatIfs; // of each part
};

/// Of the runs that differ from the baseline in the rendered size alone, a part each.
struct Ladders {
    std::vector<limits::Ladder> parts;
};

/// Empty without runs.
const std::vector<limits::PartVerdict>& verdictsOf(const Results& results);

std::vector<Stage> limitStages();

} // namespace impasto::results
