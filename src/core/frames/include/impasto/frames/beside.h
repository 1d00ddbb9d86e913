// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace impasto::frames {

/// What every frame takes beside the GPU's work, where neither CPU nor GPU fills it: a share of the CPU's work, where
/// they take turns (one frame in flight), or so many ms that no reading tells and no setting changes, as of a copy, the
/// driver or the desktop.
struct BesideGpu {
    double cpuShare = 0, ms = 0;
};

} // namespace impasto::frames
