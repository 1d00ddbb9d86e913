// SPDX-License-Identifier: GPL-3.0-or-later
// The simulator's hidden truth, for tests and practice alone: nothing that analyses a run may link this.
#pragma once

#include <impasto/base/error.h>
#include <impasto/run/run.h>

namespace impasto::rig_truth {

struct LaneWork {
    double cpuMs = 0, gpuMs = 0, gpuMemoryMib = 0, systemMemoryMib = 0;
};
/// Noise-free work of a variant on a route at full clocks, without hitches: the parts' work weighted by their seconds.
Result<LaneWork> routeWork(const machine::Machine& machine, const game::Game& game, const run::Variant& variant,
                           const std::string& route);
/// The same in one part.
Result<LaneWork> partWork(const machine::Machine& machine, const game::Game& game, const run::Variant& variant,
                          const std::string& part);

} // namespace impasto::rig_truth
