// SPDX-License-Identifier: GPL-3.0-or-later
// The ways that settings are tuned by hand, step by step: each run is followed by the next step from what was seen. The
// steps are common practice (no source); which setting is lowered or raised next is taken from what the runs tell of
// the costs. A walk has no state of its own: the runs that were made say where it stands, so that one walk can follow
// another at any time.
#pragma once

#include <impasto/choose/propose.h>

namespace impasto::choose {

/// Measured is no walk: the run that tells most comes next.
enum class WalkSchool { Measured, TopDown, InLeaps, BottomUp, PresetFirst, BothEnds, UpscaleFirst };
inline constexpr std::array<WalkSchool, 7> allWalkSchools{
    WalkSchool::Measured,    WalkSchool::TopDown,  WalkSchool::InLeaps,     WalkSchool::BottomUp,
    WalkSchool::PresetFirst, WalkSchool::BothEnds, WalkSchool::UpscaleFirst};
std::string_view keyOf(WalkSchool walk); // "top-down"
std::optional<WalkSchool> walkSchoolOf(std::string_view key);

/// What was seen of a set: the highest share of its room that it took of any resource in any part, the mean of its
/// runs.
struct Walked {
    cost::Set set;
    double load = 0;
    [[nodiscard]] bool holds() const { return load <= 1; }
};

/// Where a walk's first sets come from, and what it cannot ask for.
struct WalkGround {
    cost::Set start;                     // the settings in use
    std::vector<cost::Set> presets;      // the most picture first
    std::vector<cost::Set> skipped = {}; // their player cannot set them
};

enum class Move { AllUp, AllDown, Preset, Size, Lower, Raise };
struct Stride {
    Move move = Move::Lower;
    std::optional<cost::Set> from;   // where a step begins
    std::optional<cost::Set> next;   // nothing: the walk is at its end
    std::optional<cost::Set> stands; // of the sets that held, the one that shows most
};

/// After so many steps up from one set that broke the target, a walk ends there (common practice, no source).
inline constexpr std::size_t raisesMost = 3;

/// The next step of a walk. Its first sets come in their order until one holds; where none does, steps down follow from
/// the one that came nearest, each the one that saves most for the picture it costs (in leaps: as many at once as are
/// believed to be needed); from the best set that held, steps up, the most picture for its cost first. What shows no
/// less of everything than a set that broke the target is not tried.
Stride strideOf(WalkSchool walk, const Chooser& chooser, const Room& room, const std::vector<Walked>& runs,
                const WalkGround& ground);

} // namespace impasto::choose
