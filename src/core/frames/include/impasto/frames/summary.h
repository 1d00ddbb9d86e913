// SPDX-License-Identifier: GPL-3.0-or-later
// The figures of one run, from its frame times. Inputs are never changed; empty input gives nothing, never 0.
#pragma once

#include <array>
#include <impasto/capture/capture.h>
#include <impasto/stats/lows.h>
#include <span>
#include <vector>

namespace impasto::frames {

/// What a hitch is: a frame of more than `ratio` times the median of the frames around it and `excessMs` above it, or
/// of `outrightMs` above it whatever the ratio.
struct HitchRule {
    double ratio = 1.75;         // 1 to 10
    double excessMs = 4;         // 0 to 1000
    std::size_t neighbours = 31; // odd, 3 to 301; the frame among them
    double outrightMs = 8;       // 0.1 to 1000
    friend bool operator==(const HitchRule&, const HitchRule&) = default;
};
/// A frame far over its neighbours.
struct Hitch {
    std::size_t frame = 0;
    double atMs = 0; // end of the frame, from the first frame's start
    double frameMs = 0;
    double medianMs = 0; // of its neighbours
};
std::vector<Hitch> hitches(std::span<const double> frameMs, const HitchRule& rule = {});
/// A stretch in which a second holds fewer than a third of the run's usual frames: each of its frames may be like its
/// neighbours, so that none is a hitch. From the first slow frame's start to the last one's end.
struct Stall {
    double fromMs = 0, toMs = 0; // from the first frame's start
    std::size_t frames = 0;
    double lostMs = 0; // over what as many frames usually take
};
/// In time order; none in a run under four seconds.
std::vector<Stall> stalls(std::span<const double> frameMs);
/// When a frame counts as on time for a target: within the budget and a tolerance; where a panel paces the frames, on
/// the refresh that the frame was meant for.
struct OnTime {
    Fps target{60};
    double tolerance = 0.10;              // of the budget
    std::optional<double> refreshMs = {}; // one refresh, where each frame is meant for one
    /// A longer frame is late, ms.
    [[nodiscard]] double mostMs() const;
    /// Refreshes that each frame is meant to be shown for; 0 where none paces them.
    [[nodiscard]] int refreshes() const;
    /// Stretches under this rate are dips.
    [[nodiscard]] Fps dipUnder() const { return Fps((1 - tolerance) * target.value()); }
};
/// Share of the frames, 0 to 1; 1 without frames.
double onTimeShare(std::span<const double> frameMs, const OnTime& rule);
/// Share of the frames that were shown for twice the refreshes that they were meant for, or longer; nothing where none
/// paces them.
std::optional<double> halfRateShare(std::span<const double> frameMs, const OnTime& rule);

/// The worst stretch under a rate: rates of half seconds that stay under it.
struct Dip {
    Fps lowest;          // of half a second
    double atMs = 0;     // where the lowest ends, from the first frame's start
    double lengthMs = 0; // of the stretch around it
};

/// `parts`: a part that is under the rate as a whole is a heavy part, not a dip.
std::optional<Dip> worstDip(std::span<const double> frameMs, Fps under, std::span<const capture::PartRange> parts = {});

struct Lows {
    std::optional<stats::Low> onePercent, tenthPercent;
};

struct Summary {
    std::size_t frames = 0;
    double durationMs = 0;
    Fps average;              // frames / time, never a mean of rates
    std::array<Lows, 3> lows; // by stats::LowRule
    double medianMs = 0, p95Ms = 0, p99Ms = 0, p999Ms = 0, worstMs = 0;
    double stepMs = 0;                   // pacing: mean absolute difference of frames that follow one another
    double spreadMs = 0;                 // pacing: root mean square distance from the median of the frames around
    Fps slowestSecond, fastestSecond;    // of whole seconds; the average, of a run shorter than one
    std::optional<double> onTimeShare;   // needs a target
    std::optional<double> halfRateShare; // needs a target and a panel that paces the frames
    std::optional<Dip> worstDip; // nothing where no half second falls under the target by more than is tolerated
    std::vector<Hitch> hitches;  // in time order
    double lostMs = 0;           // in hitches, over their neighbours
    std::vector<Stall> stalls;   // in time order
    [[nodiscard]] const Lows& of(stats::LowRule rule) const { return lows[static_cast<std::size_t>(rule)]; }
    [[nodiscard]] double hitchesPerMinute() const {
        return durationMs > 0 ? 60000.0 * static_cast<double>(hitches.size()) / durationMs : 0;
    }
    [[nodiscard]] double stalledMs() const;
};
/// Of the frames [first, last) of a capture; nothing when the span is empty.
std::optional<Summary> summarize(std::span<const double> frameMs, const std::optional<OnTime>& onTime = {},
                                 const HitchRule& rule = {}, std::span<const capture::PartRange> parts = {});

} // namespace impasto::frames
