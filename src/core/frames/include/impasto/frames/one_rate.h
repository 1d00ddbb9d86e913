// SPDX-License-Identifier: GPL-3.0-or-later
// A rate that something keeps, seen in frames that differ.
#pragma once

#include <span>

namespace impasto::frames {

/// Whether a clock starts the frames: what one takes longer the next takes less, so that seconds last alike though
/// frames do not. Frames that follow each other freely spread the sum of n of them by sqrt(n) times their own spread or
/// more, those that a limiter starts hardly more than one frame (a moving average of order one with -0.5 beside the
/// first lag; the thresholds were set on made logs, docs/method.md). Not told of fewer than eight seconds, of times
/// that a coarse clock rounded, or where short and long frames come in turn. `framesMs`: in order, > 0.
bool keepsOneRate(std::span<const double> framesMs);

} // namespace impasto::frames
