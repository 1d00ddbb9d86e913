// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>

namespace impasto::frames {

/// What every frame takes beside the GPU's work, where neither CPU nor GPU fills it: a share of the CPU's work, where
/// they take turns (one frame in flight), or so many ms that no reading tells and no setting changes, as of a copy, the
/// driver or the desktop.
struct BesideGpu {
    double cpuShare = 0, ms = 0;
    double explained = 0; // of what frames differ by, by both lanes' work
};

/// Of a limit, what is left beside what takes of it: some, so that more than that is over it and not under nothing.
constexpr double lessBeside(double limitMs, double takenMs) {
    return std::max(0.05 * limitMs, limitMs - takenMs);
}

} // namespace impasto::frames
