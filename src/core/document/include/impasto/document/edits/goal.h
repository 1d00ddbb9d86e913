// SPDX-License-Identifier: GPL-3.0-or-later
// What is wanted, and how much of the budget is safe to fill.
#pragma once

#include <impasto/choose/propose.h>
#include <impasto/run/run.h>

namespace impasto::document {

struct Edit;

struct Goal {
    std::optional<run::Brief> brief;
    choose::UsableShares shares;
    friend bool operator==(const Goal&, const Goal&) = default;
};

/// Errors: OutOfRange for a target outside 10 to 1000 fps, a lowest low above the target, a picture share outside 0 to
/// 1.
Edit setBrief(run::Brief brief);
/// Of a lower target than the lowest low the low is kept, and asked for again once the target is above it.
Edit setTarget(Fps target);
/// Errors: OutOfRange outside 0.3 to 1.
Edit setShares(choose::UsableShares shares);

} // namespace impasto::document
