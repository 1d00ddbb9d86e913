// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <impasto/pace/cap.h>

namespace impasto::pace {

struct SchoolPlan {
    CapSchool school;
    std::optional<CapPlan> plan; // none: it has nothing to say of this panel or this run
};
/// What every school says, in the order of the style. `tried`: caps whose predictions are there.
std::vector<SchoolPlan> schoolPlans(const Replay& replay, const CapRules& rules, const std::vector<CapOffer>& tried);

} // namespace impasto::pace
