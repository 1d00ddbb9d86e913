// SPDX-License-Identifier: GPL-3.0-or-later
// Runs of one variant as a family, two variants side by side, and how many runs a wished precision takes. The runs are
// the observations.
#pragma once

#include <impasto/stats/resample.h>

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
/// The fewest runs, two at the least and `most` at the most, whose half width is no more than wished.
std::optional<std::size_t> runsFor(double sd, double wishedHalfWidth, std::size_t most = 1000,
                                   double confidence = 0.95);
/// The same with a deviation that is known for certain: (z sd / half width)^2, rounded up (Cochran 1977).
std::size_t sampleSize(double sd, double halfWidth, double confidence = 0.95);

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
/// `margin`: the largest difference that does not matter, in the figure's own unit. Nothing without a run a side.
std::optional<Comparison> compare(std::span<const double> before, std::span<const double> after, double margin);

/// Figures of a run that are compared.
enum class Figure { Average, OnePercentLow, TenthPercentLow, P99, HitchesPerMinute, WithinBudget };
std::string_view keyOf(Figure figure); // with its unit: "average_fps"
/// Of one run; nothing where it has none (within the budget, without a target).
std::optional<double> figureOf(const Summary& summary, Figure figure, run::LowSchool school);

/// The largest differences that do not matter; common practice, no source. Shares of the figure before, but a minute's
/// hitches and the share within the budget as they are.
struct Margins {
    double average = 0.02, lows = 0.05, p99 = 0.05, hitches = 1, withinBudget = 0.02;
    [[nodiscard]] double of(Figure figure, double before) const;
};

/// Every figure that all runs have. `doubt` is each run's own, in the order of the summaries, or empty.
std::map<Figure, Family> familiesOf(std::span<const Summary> runs, run::LowSchool school,
                                    std::span<const RunDoubt> doubt = {});

struct FigureComparison {
    Figure figure = Figure::Average;
    Family before, after;
    Comparison comparison;
    std::optional<double> equivalenceP; // of the two one-sided tests at the margin
    std::optional<double> rankP;        // of the rank test; says nothing below 0.03 under four runs a side
};
/// Every figure that all runs of both sides have.
std::vector<FigureComparison> compareFigures(std::span<const Summary> before, std::span<const Summary> after,
                                             run::LowSchool school, const Margins& margins,
                                             std::span<const RunDoubt> doubtBefore = {},
                                             std::span<const RunDoubt> doubtAfter = {});

} // namespace impasto::stats
