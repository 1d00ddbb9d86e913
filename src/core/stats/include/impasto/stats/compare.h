// SPDX-License-Identifier: GPL-3.0-or-later
// Repeated values as a family, two families side by side, and how many more a wished precision takes. The values, one
// a run, are the observations.
#pragma once

#include <impasto/stats/stats.h>

namespace impasto::stats {

/// One figure over the runs of one variant.
struct Family {
    Interval mean;                   // of the runs
    std::optional<double> spreadSd;  // between the runs as recorded
    std::optional<double> betweenSd; // of it, what the runs' own doubt does not explain; 0 where it explains all
    std::optional<double> withinSd;  // root mean square of the runs' own standard errors
};
/// One-way components of variance by moments (Searle, Casella, McCulloch 1992): between^2 = spread^2 - within^2, not
/// under 0. `standardErrors` are the runs' own, one each, or empty where they are not known. Nothing without a run.
std::optional<Family> familyOf(std::span<const double> perRun, std::span<const double> standardErrors = {});

/// Half width of the t interval of the mean of `runs` runs that differ by sd. Nothing under two runs.
std::optional<double> halfWidthAt(double sd, std::size_t runs, double confidence = 0.95);
/// The fewest runs, two at the least and `most` at the most, whose half width is no more than wanted.
std::optional<std::size_t> runsFor(double sd, double wishedHalfWidth, std::size_t most = 1000,
                                   double confidence = 0.95);

/// Two one-sided Welch tests (Schuirmann 1987): the larger p of "the difference is -margin or less" and "margin or
/// more". Nothing unless both sides have two runs that differ.
std::optional<double> equivalenceP(std::span<const double> before, std::span<const double> after, double margin);

/// Mann and Whitney (1947): whether one side's values tend to lie above the other's, whatever their distribution.
struct RankTest {
    double u = 0; // pairs in which the value after is above the one before; equal ones count half
    double p = 1; // two-sided
};
/// Exact without ties and up to 400 pairs, where `exact`; else by the normal approximation with the corrections for
/// ties and continuity. Nothing where a side is empty or all values are equal.
std::optional<RankTest> rankTest(std::span<const double> before, std::span<const double> after, bool exact = true);

enum class Verdict {
    Differs,            // the 95% interval of the difference excludes 0
    NoLargerDifference, // it does not, and the 90% interval lies inside the margin: equivalent at 5%
    NotEnoughRuns
};
struct Comparison {
    Interval before, after; // means over runs
    Interval difference;    // after - before
    double largest = 0;     // the far end of the 90% interval of the difference; without one, 0
    Verdict verdict = Verdict::NotEnoughRuns;
};
/// `margin`: the largest difference that does not matter, in the figure's own unit. The errors are the values' own, one
/// each, or empty: where the values of a side do not vary by chance, those stand for the scatter.
/// Nothing without a run a side.
std::optional<Comparison> compare(std::span<const double> before, std::span<const double> after, double margin,
                                  std::span<const double> errorsBefore = {}, std::span<const double> errorsAfter = {});

/// Events in some time of watching.
struct Count {
    double events = 0, exposure = 0;
};
/// The farther end of the exact 95% interval of the rate (Garwood 1936); nothing without exposure.
std::optional<double> rateHalfWidth(const Count& count, double confidence = 0.95);
/// The comparison of two rates, its interval no narrower than that of their counts (method of variance estimates
/// recovery, Zou and Donner 2008, on Garwood's limits); the verdict follows.
Comparison compareCounts(Comparison comparison, const Count& before, const Count& after, double margin);
/// The larger of those that are there.
std::optional<double> wider(const std::optional<double>& a, const std::optional<double>& b);

} // namespace impasto::stats
