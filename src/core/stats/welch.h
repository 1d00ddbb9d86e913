// SPDX-License-Identifier: GPL-3.0-or-later
// The Welch statistic and the distribution behind it, for this room alone.
#pragma once

#include <optional>
#include <span>

namespace impasto::stats {

double studentCdf(double t, double df);

/// Of the rate parameter: the p quantile of the gamma distribution with shape `events` (Garwood 1936).
double poissonLimit(double events, double p);

/// after - before with its standard error and Satterthwaite's degrees of freedom (1 where nothing varies). Where the
/// values of a side do not vary, their own errors stand for the scatter. Nothing under two runs a side.
struct Welch {
    double difference = 0, standardError = 0, degreesOfFreedom = 1;
};
std::optional<Welch> welch(std::span<const double> before, std::span<const double> after,
                           std::span<const double> errorsBefore = {}, std::span<const double> errorsAfter = {});

} // namespace impasto::stats
