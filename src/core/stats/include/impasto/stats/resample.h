// SPDX-License-Identifier: GPL-3.0-or-later
// How sure one run's own figures are. Frames follow each other and are no independent observations: blocks of them are
// drawn again (stationary bootstrap, Politis and Romano 1994). What differs between runs is not in it.
#pragma once

#include <impasto/stats/stats.h>

namespace impasto::stats {

/// The number of independent values whose mean would be as sure: n / (1 + 2 sum of autocorrelations), summed while
/// pairs of lags stay positive (Geyer 1992). At most n; nothing without two unlike values.
std::optional<double> effectiveSize(std::span<const double> values);

/// Mean length of the blocks, from the values' own correlation (Politis and White 2004, as corrected by Patton, Politis
/// and White 2009). 1 to min(3 sqrt n, n / 3).
double blockLength(std::span<const double> values);

struct Resampling {
    std::size_t resamples = 1000;
    std::optional<double> blockLength = {}; // mean; none: the values' own
    std::uint64_t seed = 1;
    double confidence = 0.95;
};

/// Of one figure: the spread of its resamples, and the percentile interval.
struct Doubt {
    double standardError = 0, low = 0, high = 0;
};
std::optional<Doubt> doubtOfMean(std::span<const double> values, const Resampling& how);

struct RunDoubt {
    Doubt average;                                           // fps
    std::array<Doubt, 3> onePercentLow{}, tenthPercentLow{}; // fps, by run::LowSchool
    Doubt median, p95, p99, p999;                            // ms; the first two after Woodruff (1952)
    double blockLength = 1;
};
/// Stretches of a run that lie at fixed places of the route: blocks are drawn again inside their own stretch only,
/// since where the route is heavy is no chance (local block bootstrap, Paparoditis and Politis 2002). Its parts, cut
/// into pieces of ten seconds or a little less; the first frame of each, ascending, 0 first.
std::vector<std::size_t> stretchesOf(const capture::Capture& capture);

/// Of one run's rates; nothing for fewer than 10 frames. Takes the slow frames alone from each resample, so that its
/// time goes with the number of blocks and not of frames.
std::optional<RunDoubt> doubtOf(std::span<const double> frameMs, const Resampling& how = {},
                                std::span<const std::size_t> stretches = {});
std::optional<RunDoubt> doubtOf(const capture::Capture& capture, const Resampling& how = {});

} // namespace impasto::stats
