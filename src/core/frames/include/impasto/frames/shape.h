// SPDX-License-Identifier: GPL-3.0-or-later
// A run drawn other ways than frame by frame: how often each frame time occurred, and second by second.
#pragma once

#include <impasto/base/quantity.h>
#include <span>
#include <vector>

namespace impasto::frames {

/// How often each frame time occurred, in bins that are 1/200 wide of their own time, from 0.05 ms to a minute; what
/// lies outside is counted in the first and last one.
class Distribution {
  public:
    Distribution() = default;
    explicit Distribution(std::span<const double> frameMs);

    static std::size_t bytes(); // that one takes
    /// Share of the frames up to a time, within a bin.
    [[nodiscard]] double shareUpTo(double ms) const;
    /// The time that a share of the frames lies under, to within 1/200 of it; 0 without frames.
    [[nodiscard]] double quantile(double share) const;

  private:
    std::vector<double> m_upTo; // frames up to the end of each bin
};

/// One second of a run.
struct Second {
    double atMs = 0; // its end, from the first frame's start
    Fps average;     // frames that end in it / its time
    double medianMs = 0, worstMs = 0;
};
/// Seconds in order; a frame of several seconds is one of them, and the rest at the end where it is over half a one.
std::vector<Second> secondsOf(std::span<const double> frameMs);

} // namespace impasto::frames
