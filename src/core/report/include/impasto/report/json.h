// SPDX-License-Identifier: GPL-3.0-or-later
// Machine-readable results (docs/formats.md, JSON). Units stand in the keys; undefined is null; "schema": 1.
#pragma once

#include <impasto/session/next_step.h>
#include <impasto/stats/compare.h>

namespace impasto::report {

/// One summary a log; all three schools of lows. `names` and `summaries` run in parallel.
std::string summariesJson(std::span<const std::string> names, std::span<const stats::Summary> summaries,
                          std::optional<Fps> target);
/// Two families of logs side by side, docs/formats.md.
std::string comparisonJson(std::span<const stats::FigureComparison> figures, run::LowSchool school);
/// Brake, costs, choice, cap, before and after.
std::string tuneJson(const session::Session& session, const session::Results& results);

} // namespace impasto::report
