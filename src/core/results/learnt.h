// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <impasto/results/costs.h>

namespace impasto::results {

/// What proofs that missed a goal say of the sets that were run.
Stage learntStage();

/// Wh; none: the machine has no battery, or it is not known.
inline std::optional<double> batteryOf(const machine::Machine* machine) {
    return machine == nullptr ? std::nullopt : machine::numberIn(machine->facts, "power.battery_wh");
}

} // namespace impasto::results
