// SPDX-License-Identifier: GPL-3.0-or-later
// What to do next and why, what an order asks of a person, and what an edit is called.
#pragma once

#include <impasto/path/next_step.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

/// `picked`: of the orders that wait by hand, the one that is played next; none: the oldest.
std::string action(const Words& w, const document::Session& session, const results::Results& results,
                   const path::NextStep& step, const std::optional<OrderId>& picked = {});
std::string reason(const Words& w, const document::Session& session, const results::Results& results,
                   const path::NextStep& step);
std::string stale(const Words& w, const results::Stale& names); // "stale: costs, brief"; empty for none
/// What an edit changes, by its name; the name itself where it is not known.
std::string edit(const Words& w, std::string_view name);

/// By hand: what to set and do, one sentence a step.
std::vector<std::string> orderSteps(const Words& w, const document::Session& session, const run::Order& order);

} // namespace impasto::wording
