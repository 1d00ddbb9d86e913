// SPDX-License-Identifier: GPL-3.0-or-later
// The rules for caps, and what a cap is predicted to do.
#pragma once

#include <impasto/pace/cap.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

std::string capRule(const Words& w, pace::CapSchool school);
std::string syncName(const Words& w, run::Sync sync);
std::string capRuleMeaning(const Words& w, pace::CapSchool school, const pace::CapRules& rules);
/// "cap 40 fps, variable refresh", "60 Hz by sync, no cap".
std::string capPlan(const Words& w, const pace::CapPlan& plan, const std::optional<display::Panel>& panel);
/// The same beside the cap's figure, which it leaves out where it says where the cap is applied.
std::string capPlanBeside(const Words& w, const pace::CapPlan& plan, const std::optional<display::Panel>& panel);
/// Why the panel speaks against a plan.
std::string capConflict(const Words& w, pace::CapConflict conflict);
std::string capPrediction(const Words& w, const pace::CapPrediction& prediction);
/// "45 to 64 fps"; a share as "97 to 99%"; one figure where both ends read the same.
std::string capBand(const Words& w, pace::Figure figure, const pace::Band& band);
std::string capFigure(const Words& w, pace::Figure figure, double value);
/// Why another cap is worth more for these goals: the goal that this one is likely to miss, or what it gives less of.
/// Empty of the best itself.
std::string capLoses(const Words& w, const run::Brief& brief, const pace::CapOffer& offer, const pace::CapOffer& best);
/// "engine", "present", "driver", "compositor".
std::string limiterPlace(const Words& w, run::LimiterPlace place);
/// "mean latency about 31 ms, neighbours differ by 0.40 ms".
std::string limiterFigures(const Words& w, const pace::HeldAt& held);
/// `latenessMs`: of the limiter, where it was measured.
Why whyCap(const Words& w, const pace::CapOffer& offer, const pace::CapRules& rules,
           std::optional<double> latenessMs = {});

} // namespace impasto::wording
