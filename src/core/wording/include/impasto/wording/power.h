// SPDX-License-Identifier: GPL-3.0-or-later
// What a cap draws, and what that is in heat, noise, hours and money.
#pragma once

#include <impasto/pace/power.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

/// "of the whole machine", "of CPU and GPU", "of the GPU alone".
std::string powerOf(const Words& w, pace::PowerOf of);
/// "150 to 172 W"; one figure where both ends read the same.
std::string watts(const Words& w, const pace::Band& band);
std::string watts(const Words& w, double value);
std::string celsius(const Words& w, const pace::Band& band);
/// "22 to 35%, up to 10 dB quieter".
std::string fan(const Words& w, const pace::Band& band);
std::string hours(const Words& w, const pace::Band& band);
/// "112 kWh", and "33.60" where the price is said.
std::string energy(const Words& w, double kwh);
std::string money(double amount);
/// What to keep in mind of heat and batteries.
std::string powerCaution(const Words& w);
Why whyPower(const Words& w, const pace::Power& power, const pace::PowerRules& rules);

} // namespace impasto::wording
