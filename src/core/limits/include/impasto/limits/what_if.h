// SPDX-License-Identifier: GPL-3.0-or-later
// What another machine, or another state of this one, would do to a part: its frames with longer or shorter work, each
// as long as the longer of CPU and GPU and what it took besides (docs/method.md, What if).
#pragma once

#include <impasto/limits/limits.h>

namespace impasto::limits {

enum class Change { GpuFaster, CpuFaster, BothFaster, FansUp, PowerHigher, NoCopyRoute };
std::string_view keyOf(Change change);

struct WhatIf {
    Change change = Change::GpuFaster;
    double by = 0;                // how much faster or higher, a share; 0: nothing to say
    Fps rate{0}, low{0}, high{0}; // 95% interval, with the doubt of the model
    Brake then = Brake::CannotTell;
};
/// How much faster "faster" is: each is told.
inline constexpr std::array fasterBy{0.1, 0.2, 0.3, 0.5};
/// How much higher a power limit is set: what makers usually allow (common practice, no source).
inline constexpr double powerHigherBy = 0.1;

/// What can be said of the part, for each of `shares`: nothing without CPU and GPU work; fans where heat is suspected
/// with its clocks, the power limit where it is suspected, the copy route where it is wired so.
std::vector<WhatIf> whatIfsOf(const PartVerdict& verdict, std::span<const std::shared_ptr<const capture::Capture>> runs,
                              std::span<const double> shares = fasterBy);

} // namespace impasto::limits
