// SPDX-License-Identifier: GPL-3.0-or-later
// What limits each part of the route.
#pragma once

#include <impasto/limits/limits.h>
#include <impasto/results/runs.h>

namespace impasto::results {

struct Limits {
    std::vector<limits::PartVerdict> parts; // in route order; safe limits said by hand in place of measured ones
};

/// Empty without runs.
const std::vector<limits::PartVerdict>& verdictsOf(const Results& results);

std::vector<Stage> limitStages();

} // namespace impasto::results
