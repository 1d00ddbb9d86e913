// SPDX-License-Identifier: GPL-3.0-or-later
// Figures of values, and intervals of means over repeated runs. Inputs are never changed; empty input gives nothing,
// never 0.
#pragma once

#include <optional>
#include <span>
#include <vector>

namespace impasto::stats {

/// The nine sample quantiles of Hyndman and Fan (1996); 7 is the default of this program. Type 1 to 9, p in [0, 1], by
/// selection, O(n). Values need no order; none may be NaN.
std::optional<double> quantile(std::span<const double> values, double p, int type = 7);

std::optional<double> mean(std::span<const double> values);
/// Of those that are finite.
std::optional<double> finiteMean(std::span<const double> values);
/// Sample standard deviation (n - 1), two passes with the correction of Chan, Golub, LeVeque (1983). Needs two values.
std::optional<double> standardDeviation(std::span<const double> values);
/// Quantile of Student's t with df > 0 degrees of freedom.
double studentQuantile(double p, double df);

/// Quantile of the standard normal distribution.
double normalQuantile(double p);

/// estimate +- halfWidth, from `count` independent runs.
struct Interval {
    double estimate = 0;
    std::optional<double> halfWidth; // nothing where the runs cannot tell: one alone, or none that differ
    std::size_t count = 0;
    [[nodiscard]] bool excludesZero() const { return halfWidth && std::abs(estimate) > *halfWidth; }
};
/// Mean of one figure over runs with its t interval; the runs are the observations, never the frames.
std::optional<Interval> meanInterval(std::span<const double> perRun, double confidence = 0.95);
/// after - before, Welch (1947) with Satterthwaite's degrees of freedom. Each side needs two runs for an interval.
std::optional<Interval> differenceInterval(std::span<const double> before, std::span<const double> after,
                                           double confidence = 0.95);

/// Counts of equal bins from low to high; values outside are counted in the first and last bin.
struct Histogram {
    double low = 0, high = 0;
    std::vector<std::size_t> counts;
};
Histogram histogram(std::span<const double> values, double low, double high, std::size_t bins);

} // namespace impasto::stats
