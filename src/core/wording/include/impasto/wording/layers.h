// SPDX-License-Identifier: GPL-3.0-or-later
// What settings cost, and the choice among them.
#pragma once

#include <impasto/choose/propose.h>
#include <impasto/document/session.h>
#include <impasto/results/costs.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

/// The changed settings, in the game's order.
struct ChangedLine {
    std::string setting, before, after;
};
std::vector<ChangedLine> changes(const game::Game& game, const game::Values& before, const game::Values& after);

std::string choice(const Words& w, const document::Session& session, const choose::Proposal& proposal);
/// What is rendered, what makes the output of it, and what to look out for; empty at full size.
std::string rendered(const Words& w, const document::Session& session, const game::Values& values);
/// Which runs of an earlier session count beside this one's, or why they do not; empty where there are none.
std::string earlierRuns(const Words& w, const document::Session& session, const results::Results& results);
std::string proven(const Words& w, const choose::Proposal& proposal);
Why whyCost(const Words& w, const game::Setting& setting, const std::string& level, const choose::LaneCosts& lane);
Why whyChoice(const Words& w, const choose::Proposal& proposal);

} // namespace impasto::wording
