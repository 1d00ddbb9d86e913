// SPDX-License-Identifier: GPL-3.0-or-later
// Machine-readable results (docs/formats.md, JSON). Units stand in the keys; undefined is null; "schema": 1.
#pragma once

#include <impasto/session/next_step.h>
#include <impasto/stats/compare.h>
#include <impasto/stats/examine.h>

namespace impasto::report {

/// One log: its figures, the run's own doubt of them (none where it is too short), and what was looked for in it.
struct SummarizedLog {
    std::string name, dialect, packing; // as in the capture's notes
    stats::Summary summary;
    std::optional<stats::RunDoubt> doubt;
    std::vector<stats::Examined> examined;
    std::vector<capture::Span> proposedTrims;
};
std::string summariesJson(std::span<const SummarizedLog> logs, std::optional<Fps> target);
/// Two families of logs side by side, docs/formats.md.
std::string comparisonJson(std::span<const stats::FigureComparison> figures, run::LowSchool school);
/// Brake, costs, choice, cap, before and after.
std::string tuneJson(const session::Session& session, const session::Results& results);

} // namespace impasto::report
