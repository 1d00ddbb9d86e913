// SPDX-License-Identifier: GPL-3.0-or-later
// Figures of frame times and of repeated runs. Inputs are never changed; empty input gives nothing, never 0.
#pragma once

#include <impasto/run/run.h>
#include <span>

namespace impasto::stats {

/// The nine sample quantiles of Hyndman and Fan (1996); 7 is the default of this program. Type 1 to 9, p in [0, 1], by
/// selection, O(n). Values need no order; none may be NaN.
std::optional<double> quantile(std::span<const double> values, double p, int type = 7);

std::optional<double> mean(std::span<const double> values);
/// Sample standard deviation (n - 1), two passes with the correction of Chan, Golub, LeVeque (1983). Needs two values.
std::optional<double> standardDeviation(std::span<const double> values);
/// Lag-1 autocorrelation, sum (x_i - m)(x_{i+1} - m) / sum (x_i - m)^2. Needs two unlike values.
std::optional<double> autocorrelation(std::span<const double> values);
/// Quantile of Student's t with df > 0 degrees of freedom.
double studentQuantile(double p, double df);

/// estimate +- halfWidth, from `count` independent runs.
struct Interval {
    double estimate = 0;
    std::optional<double> halfWidth; // nothing where one run cannot tell
    std::size_t count = 0;
    [[nodiscard]] bool excludesZero() const { return halfWidth && std::abs(estimate) > *halfWidth; }
};
/// Mean of one figure over runs with its t interval; the runs are the observations, never the frames.
std::optional<Interval> meanInterval(std::span<const double> perRun, double confidence = 0.95);
/// after - before, Welch (1947) with Satterthwaite's degrees of freedom. Each side needs two runs for an interval.
std::optional<Interval> differenceInterval(std::span<const double> before, std::span<const double> after,
                                           double confidence = 0.95);

/// A low and what it rests on.
struct Low {
    Fps rate;
    double standsOn = 0; // frames
};
/// The low at `share` (0.01 or 0.001) of the frames, by one school (docs/method.md). Nothing for no frames.
std::optional<Low> low(std::span<const double> frameMs, double share, run::LowSchool school);

/// What a hitch is: a frame of more than `ratio` times the median of the frames around it, and `excessMs` above it.
struct HitchRule {
    double ratio = 1.75;         // 1 to 10
    double excessMs = 4;         // 0 to 1000
    std::size_t neighbours = 31; // odd, 3 to 301; the frame among them
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
/// The worst stretch under a target: rates of half seconds that stay under it.
struct Dip {
    Fps lowest;          // of half a second
    double atMs = 0;     // where the lowest ends, from the first frame's start
    double lengthMs = 0; // of the stretch around it
};

std::optional<Dip> worstDip(std::span<const double> frameMs, Fps target);

struct Lows {
    std::optional<Low> onePercent, tenthPercent;
};

struct Summary {
    std::size_t frames = 0;
    double durationMs = 0;
    Fps average;              // frames / time, never a mean of rates
    std::array<Lows, 3> lows; // by run::LowSchool
    double medianMs = 0, p95Ms = 0, p99Ms = 0, p999Ms = 0, worstMs = 0;
    double stepMs = 0;                  // pacing: mean absolute difference of frames that follow one another
    double spreadMs = 0;                // pacing: root mean square distance from the median of the frames around
    std::optional<double> withinBudget; // share of the frames; needs a target
    std::optional<Dip> worstDip;        // nothing where no half second falls under the target
    std::vector<Hitch> hitches;         // in time order
    double lostMs = 0;                  // in hitches, over their neighbours
    [[nodiscard]] const Lows& of(run::LowSchool school) const { return lows[static_cast<std::size_t>(school)]; }
    [[nodiscard]] double hitchesPerMinute() const {
        return durationMs > 0 ? 60000.0 * static_cast<double>(hitches.size()) / durationMs : 0;
    }
};
/// Of the frames [first, last) of a capture; nothing when the span is empty.
std::optional<Summary> summarize(std::span<const double> frameMs, std::optional<Fps> target = {},
                                 const HitchRule& rule = {});

/// Counts of equal bins from low to high; values outside are counted in the first and last bin.
struct Histogram {
    double low = 0, high = 0;
    std::vector<std::size_t> counts;
};
Histogram histogram(std::span<const double> values, double low, double high, std::size_t bins);

/// Whether a work column never moves (relative deviation under 0.5%): it is a wait then, not work.
bool standsStill(std::span<const double> work);

/// Mean work and period of one part of one run. A lane that the log does not tell is missing.
struct PartMeans {
    std::string part;
    std::size_t frames = 0;
    double periodMs = 0; // mean frame time
    std::optional<double> cpuMs, gpuMs;
    [[nodiscard]] std::optional<double> of(run::Lane lane) const;
};
/// Per part, in route order. A work column that stands still is treated as missing.
std::vector<PartMeans> partMeans(const capture::Capture& capture);
/// The parts' means weighted by the parts' seconds of the route; parts the route does not know weigh by their own time.
std::optional<double> routeMean(std::span<const PartMeans> parts, const game::Route* route, run::Lane lane);

} // namespace impasto::stats
