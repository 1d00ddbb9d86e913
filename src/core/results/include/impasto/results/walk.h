// SPDX-License-Identifier: GPL-3.0-or-later
// Where a walk stands: its next step, and the best set that held.
#pragma once

#include <impasto/choose/walk.h>
#include <impasto/results/stage.h>

namespace impasto::results {

/// Nothing where runs that tell most are made.
struct Walking {
    choose::WalkSchool walk = choose::WalkSchool::TopDown;
    choose::Stride stride;
};
/// After so many sets a walk ends where it stands.
inline constexpr std::size_t mostWalkRuns = 60;

std::vector<Stage> walkStages();

} // namespace impasto::results
