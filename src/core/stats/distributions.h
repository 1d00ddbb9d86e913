// SPDX-License-Identifier: GPL-3.0-or-later
// Distributions and the Welch statistic, for this room alone.
#pragma once

#include <optional>
#include <span>

namespace impasto::stats {

double studentCdf(double t, double df);
double normalQuantile(double p);

/// after - before with its standard error and Satterthwaite's degrees of freedom (1 where nothing varies). Nothing
/// under two runs a side.
struct Welch {
    double difference = 0, standardError = 0, degreesOfFreedom = 1;
};
std::optional<Welch> welch(std::span<const double> before, std::span<const double> after);

} // namespace impasto::stats
