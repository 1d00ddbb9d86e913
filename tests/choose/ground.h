// SPDX-License-Identifier: GPL-3.0-or-later
// What is believed of the demo once it is walked to its choice, for several tests.
#pragma once

#include "support/support.h"

namespace impasto::choose {

/// The demo walked to its choice, once.
inline support::Walk& atChoice() {
    static support::Walk walk(support::demoStore());
    static const bool there = walk.until(path::Action::AcceptChoice);
    EXPECT_TRUE(there);
    return walk;
}

inline Ground groundOf(support::Walk& walk) {
    return *results::groundOf(walk.results());
}

/// The same beliefs, with some settings held.
inline Ground held(const Ground& ground, const game::Values& locked) {
    Ground out = ground;
    out.chooser = std::make_shared<const Chooser>(ground.belief(), support::saltmarsh(),
                                                  Allowed::of(ground.belief().layout(), locked, {}));
    return out;
}

} // namespace impasto::choose
