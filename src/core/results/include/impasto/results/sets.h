// SPDX-License-Identifier: GPL-3.0-or-later
// The runs by what they were played with: a set of them for each variant.
#pragma once

#include <impasto/frames/figures.h>
#include <impasto/results/runs.h>

namespace impasto::results {

/// Runs of one variant (settings, upscaling, cap and all else that can be ordered), whatever they were recorded for.
struct RunSet {
    run::Variant variant;
    std::string name;           // of a variant that is known by its name alone
    std::string route, machine; // where it was played
    run::Conditions conditions; // and in which state
    std::vector<RunId> counted; // in the order of the recordings
    std::vector<RunId> leftOut;
    /// Over the runs that count, by their keys: means, and how the runs differ. Empty where none has figures yet.
    std::map<std::string_view, stats::Family> figures;
    [[nodiscard]] bool holds(const RunId& run) const;
};
/// Of all runs that are shown, in the order of each set's first run. Runs of another route, machine or state, and those
/// whose frame times are of unlike kinds, are never of one set.
std::vector<RunSet> setsOf(const document::Session& session, const Results& results);

/// The averages of two sets; nothing where one of them has no figures or their frame times are of unlike kinds.
std::optional<frames::FigureComparison> compareSets(const document::Session& session, const Results& results,
                                                    const RunSet& before, const RunSet& after);

} // namespace impasto::results
