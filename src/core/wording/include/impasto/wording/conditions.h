// SPDX-License-Identifier: GPL-3.0-or-later
// What a person does so that an order's conditions hold.
#pragma once

#include <impasto/run/run.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

/// One sentence for each condition that is not as usual, and for those that are always told.
std::vector<std::string> conditionSteps(const Words& w, const run::Order& order);

} // namespace impasto::wording
