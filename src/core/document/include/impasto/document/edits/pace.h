// SPDX-License-Identifier: GPL-3.0-or-later
// The chosen cap.
#pragma once

#include <impasto/document/basis.h>
#include <impasto/pace/cap.h>

namespace impasto::document {

struct Edit;

struct ChosenCap {
    pace::CapSchool school = pace::CapSchool::None;
    pace::CapPlan plan;
    Basis basis;
    friend bool operator==(const ChosenCap&, const ChosenCap&) = default;
};

/// What a year of play takes, as its player says it; 0: not said.
struct Upkeep {
    double hoursAWeek = 0; // of play, at most 168
    double pricePerKwh = 0;
    double restShare = 0; // of the play, in which nothing moves
    friend bool operator==(const Upkeep&, const Upkeep&) = default;
};

struct Pacing {
    std::optional<ChosenCap> cap;
    Upkeep upkeep;
    friend bool operator==(const Pacing&, const Pacing&) = default;
};

Edit chooseCap(ChosenCap cap);
/// OutOfRange outside 0 to 168 h, of a price outside 0 to 1000, and of a share outside 0 to 1.
Edit setUpkeep(Upkeep upkeep);

} // namespace impasto::document
