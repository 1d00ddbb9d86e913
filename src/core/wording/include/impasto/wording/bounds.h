// SPDX-License-Identifier: GPL-3.0-or-later
// What a brief may ask besides rates.
#pragma once

#include <impasto/run/run.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

/// "power", "GPU temperature".
std::string boundName(const Words& w, run::Bound bound);
/// "143 W", "2.4 h", "84%".
std::string boundFigure(const Words& w, run::Bound bound, double value);
/// The unit after a bare number: " W", "%".
std::string boundUnit(const Words& w, run::Bound bound);
/// What is typed for it: shares as percentages.
double typedFrom(run::Bound bound, double typed);
/// "power at most 143 W", "battery at least 2.5 h".
std::string boundAsked(const Words& w, run::Bound bound, double asked);
/// "168 W, at most 143 W asked".
std::string boundMissed(const Words& w, run::Bound bound, double asked, double is);
/// What a log has to tell, so that it can be judged.
std::string boundTold(const Words& w, run::Bound bound);

/// Whether something is asked besides the rate that settings have a part in: all but latency.
bool asksOfSettings(const run::Brief& brief);
/// What is asked of power, heat, fan and battery, and what settings have to do for it; empty where they have to do
/// nothing. `fill`: as results::fillOf gives it.
std::string fillAsked(const Words& w, const run::Brief& brief, const std::optional<double>& fill);

} // namespace impasto::wording
