// SPDX-License-Identifier: GPL-3.0-or-later
// The baseline runs as one family: their figures together, and each against the others.
#pragma once

#include <impasto/frames/figures.h>
#include <impasto/frames/hitch_origin.h>
#include <impasto/results/runs.h>

namespace impasto::results {

/// How sure a baseline run's own figures are; nothing for a very short one.
struct RunDoubt {
    frames::RunDoubt doubt;
};

struct BaselineFamily {
    std::map<std::string_view, stats::Family> figures; // by their keys, those that every run has
};

struct HitchOrigins {
    std::map<RunId, frames::HitchOrigin> runs;
    [[nodiscard]] frames::HitchOrigin of(const RunId& run) const {
        const auto it = runs.find(run);
        return it == runs.end() ? frames::HitchOrigin{} : it->second;
    }
};

/// What was found when runs were held against others; cost runs too.
struct Siblings {
    std::map<RunId, std::vector<frames::Examined>> examined;
    frames::Evenness evenness; // of the baseline runs
    std::optional<RunId> odd;  // its odd one
};

/// The averages of all runs with the one run's values against those with the other's; nothing where both are of one
/// variant, a run does not count, or their frame times are of unlike kinds.
std::optional<frames::FigureComparison> compareVariants(const document::Session& session, const Results& results,
                                                        const RunId& before, const RunId& after);

std::vector<Stage> baselineStages();

} // namespace impasto::results
