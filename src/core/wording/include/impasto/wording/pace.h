// SPDX-License-Identifier: GPL-3.0-or-later
// The rules for caps, and what a cap is predicted to do.
#pragma once

#include <impasto/pace/cap.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

std::string capRule(const Words& w, pace::CapSchool school);
std::string capRuleMeaning(const Words& w, pace::CapSchool school, const pace::CapRules& rules);
/// "cap 40 fps, variable refresh", "60 Hz by sync, no cap".
std::string capPlan(const Words& w, const pace::CapPlan& plan, const std::optional<display::Panel>& panel);
/// Why the panel speaks against a plan.
std::string capConflict(const Words& w, pace::CapConflict conflict);
std::string capPrediction(const Words& w, const pace::CapPrediction& prediction);
Why whyCap(const Words& w, const pace::CapOffer& offer, const pace::CapRules& rules);

} // namespace impasto::wording
