// SPDX-License-Identifier: GPL-3.0-or-later
// How sure a figure of one series is. Its values follow each other and are not independent observations: blocks of them
// are drawn again. What differs between runs is not in it.
#pragma once

#include <cstdint>
#include <impasto/stats/stats.h>

namespace impasto::stats {

/// Autocovariances of lags 0 to `longest` (or as many as there are), by FFT, sums divided by n. Of very long series
/// from pieces of it, spread evenly.
std::vector<double> autocovariances(std::span<const double> values, std::size_t longest);

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
/// Of a figure's resamples, one at least.
Doubt doubtFrom(const std::vector<double>& figures, double confidence);

} // namespace impasto::stats
