// SPDX-License-Identifier: GPL-3.0-or-later
// What the runs that count told of the costs: recorded ones by part and lane, read ones as a whole.
#pragma once

#include <impasto/results/costs.h>

namespace impasto::results {

struct SeenRuns {
    cost::Layout layout; // with the heaviest parts; of what was read off alone, one without a name
    std::vector<cost::SeenRun> runs;
};
/// Relative, of a recorded run's mean in a part (cost/lane.h).
inline constexpr double recordedVariance = 0.010 * 0.010 + 0.015 * 0.015;
SeenRuns seenRuns(const Inputs& in);

} // namespace impasto::results
