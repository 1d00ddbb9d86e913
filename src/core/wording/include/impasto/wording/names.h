// SPDX-License-Identifier: GPL-3.0-or-later
// Names of things that several features tell.
#pragma once

#include <impasto/run/run.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

/// "Fixed route", "Free play".
std::string sceneKind(const Words& w, game::SceneKind kind);
/// How far its runs usually differ, and what it does not show.
std::string sceneMeaning(const Words& w, game::SceneKind kind);
std::string style(const Words& w, run::Style style);
/// "a mouse", "a pad", "anything" where it was not said.
std::string steering(const Words& w, std::optional<run::Steering> steering);
std::string styleWants(const Words& w, run::Style style);
std::string styleGivesUp(const Words& w, run::Style style);
std::string lane(const Words& w, run::Lane lane);
std::string part(const Words& w, const std::string& part); // "whole run" for ""
/// How lows are counted, in a few words and in full.
std::string lowRule(const Words& w, stats::LowRule rule);
/// Where there is room for a word or two.
std::string lowRuleShort(const Words& w, stats::LowRule rule);
std::string lowRuleMeaning(const Words& w, stats::LowRule rule);

/// "6 min", "1 min", "1 h 20 min"; at least a minute.
std::string minutes(const Words& w, double value);

} // namespace impasto::wording
