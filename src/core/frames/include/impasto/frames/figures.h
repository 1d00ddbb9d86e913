// SPDX-License-Identifier: GPL-3.0-or-later
// The figures of a run, each an entry of one table: its key, its unit, how it is taken from a run, how sure it is, and
// what a difference of it is worth. Runs, the command line, JSON and comparisons read the table; a new figure is one
// entry.
#pragma once

#include <impasto/frames/doubt.h>
#include <impasto/frames/summary.h>
#include <impasto/stats/compare.h>
#include <map>

namespace impasto::frames {

enum class Unit { Fps, Ms, Share, PerMinute };

struct Figure {
    std::string_view key; // in files, with its unit: "average_fps"; a dot leads into a group: "pacing.spread_ms"
    const char* name;     // in words: "1% low"
    Unit unit = Unit::Fps;
    bool compared = false; // between two variants, and over the runs of one
    double margin = 0;     // the largest difference that does not matter; common practice, no source
    bool marginIsShare = true;
    /// Nothing where a run has none (on-time frames without a target).
    std::optional<double> (*of)(const Summary& summary, stats::LowRule rule) = nullptr;
    /// From the run alone; nullptr: not known.
    const stats::Doubt* (*doubt)(const RunDoubt& doubt, stats::LowRule rule) = nullptr;
    bool isCount = false; // of events in the run's minutes
    bool byRule = false;  // it differs with how lows are counted
};
std::span<const Figure> figures();
/// One that is known to be there.
const Figure& figure(std::string_view key);

inline constexpr std::string_view averageFps = "average_fps", onePercentLowFps = "one_percent_low_fps",
                                  tenthPercentLowFps = "tenth_percent_low_fps", hitchesPerMinute = "hitches_per_minute";

/// Every compared figure that all runs have, by its key. `doubt` is each run's own, in the order of the summaries, or
/// empty.
std::map<std::string_view, stats::Family> familiesOf(std::span<const Summary> runs, stats::LowRule rule,
                                                     std::span<const RunDoubt> doubt = {});

struct FigureComparison {
    const Figure* figure = nullptr;
    stats::Family before, after;
    stats::Comparison comparison;
    std::optional<double> equivalenceP; // of the two one-sided tests at the margin
    std::optional<double> rankP;        // of the rank test; says nothing below 0.03 under four runs a side
};
/// Every compared figure that all runs of both sides have, in the table's order. `averageMargin`: a share, in place of
/// the table's. Counts are compared as counts: their interval is never narrower than that of two Poisson rates.
std::vector<FigureComparison> compareFigures(std::span<const Summary> before, std::span<const Summary> after,
                                             stats::LowRule rule, std::optional<double> averageMargin = {},
                                             std::span<const RunDoubt> doubtBefore = {},
                                             std::span<const RunDoubt> doubtAfter = {});

} // namespace impasto::frames
