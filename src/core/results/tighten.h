// SPDX-License-Identifier: GPL-3.0-or-later
// The safe limits, drawn tighter by what is asked of watts and by proofs that missed a goal. Private to results.
#pragma once

#include <impasto/results/costs.h>

namespace impasto::results {

/// No more of the budget than what is asked of watts leaves, where some set fits that: it is a prediction, and no
/// reason to find nothing.
void keepAsked(const Inputs& in, Costs& costs);
/// Sets that should have fitted and missed the target draw the limits tighter; those that missed what else is asked,
/// as far as leaves some set.
void tighten(const Inputs& in, Costs& costs);

} // namespace impasto::results
