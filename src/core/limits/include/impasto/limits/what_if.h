// SPDX-License-Identifier: GPL-3.0-or-later
// What another machine, or another state of this one, would do to a part: its frames with longer or shorter work, each
// as long as the longer of CPU and GPU and what it took besides (docs/method.md, What if).
#pragma once

#include <impasto/limits/limits.h>

namespace impasto::limits {

enum class Change { GpuFaster, CpuFaster, BothFaster, FansUp, NoCopyRoute };
std::string_view keyOf(Change change);

struct WhatIf {
    Change change = Change::GpuFaster;
    Fps rate, low, high; // 95% interval, with the doubt of the model
    Brake then = Brake::CannotTell;
};
/// How much faster "faster" is.
inline constexpr double fasterBy = 0.2;

/// What can be said of the part: nothing without CPU and GPU work; fans where heat is suspected with its clocks, the
/// copy route where it is wired so.
std::vector<WhatIf> whatIfsOf(const PartVerdict& verdict,
                              std::span<const std::shared_ptr<const capture::Capture>> runs);

} // namespace impasto::limits
