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

struct Pacing {
    std::optional<ChosenCap> cap;
    friend bool operator==(const Pacing&, const Pacing&) = default;
};

Edit chooseCap(ChosenCap cap);

} // namespace impasto::document
