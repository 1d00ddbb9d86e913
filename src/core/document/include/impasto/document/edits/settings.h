// SPDX-License-Identifier: GPL-3.0-or-later
// The settings' levels: the baseline, those that must stay, and the accepted choice.
#pragma once

#include <impasto/base/error.h>
#include <impasto/base/id.h>
#include <impasto/choose/walk.h>
#include <impasto/document/basis.h>
#include <impasto/game/game.h>
#include <impasto/machine/machine.h>
#include <set>

namespace impasto::document {

struct Edit;

struct AcceptedChoice {
    game::Values values;
    bool byHand = false;
    Basis basis;
    friend bool operator==(const AcceptedChoice&, const AcceptedChoice&) = default;
};

/// A run of an earlier session of the same game: what it took of each resource (cost::Resource), mean of its parts; 0:
/// not told.
struct EarlierRun {
    game::Values values;
    std::array<double, 3> taken{};
    friend bool operator==(const EarlierRun&, const EarlierRun&) = default;
};
inline constexpr std::size_t mostEarlierRuns = 60;
/// With which this one begins: each counts as a part of a run.
struct EarlierRuns {
    std::string from;    // the session, as it was called
    std::string chips;   // chipsOf its machine
    std::string version; // of the game
    std::vector<EarlierRun> runs;
    friend bool operator==(const EarlierRuns&, const EarlierRuns&) = default;
};
/// CPU and GPU, which a machine's costs are of; empty: no machine.
std::string chipsOf(const machine::Machine* machine);

struct Settings {
    game::Values baseline;
    game::Values locked;
    std::set<std::pair<std::string, std::string>> cannot; // setting and level: in this game, or here, it cannot be had
    std::optional<AcceptedChoice> choice;
    bool startOpen = false; // nobody has said yet that the baseline levels are those of the game
    bool enough = false;    // no more levels are measured, whatever is not known yet
    choose::WalkSchool walk = choose::WalkSchool::Measured; // how the next run is found
    std::optional<EarlierRuns> earlier = {};
    std::optional<double> goodEnough = {}; // picture that the choice may miss, a share of its own; none: as usual
    friend bool operator==(const Settings&, const Settings&) = default;
};

/// Errors: UnknownName.
Edit setBaseline(const game::Game& game, game::Values values);
/// Whether the baseline levels are still to be said.
Edit askStart(bool open);
/// No more test runs are asked for, or again all that are missing.
Edit stopMeasuring(bool enough);
/// How much of the picture the choice may be expected to miss before test runs end. Errors: OutOfRange.
Edit setGoodEnough(double share);
/// Runs of an earlier session count beside this one's, or none do. Errors: BadValue where a figure is none.
Edit beginWith(std::optional<EarlierRuns> earlier);
/// How the next run is found; a stop of the test runs is taken back.
Edit takeWalk(choose::WalkSchool walk);
Edit lockSetting(std::string setting, std::optional<std::string> level);
/// A level that cannot be set is in no order and no choice; where an order that has it said so, that is skipped.
Edit cannotSet(std::string setting, std::string level, std::optional<OrderId> order = {});
Edit canSet(std::string setting, std::string level);
Edit acceptChoice(AcceptedChoice choice);
/// One level of the accepted choice, by hand. Errors: UnknownName.
Edit changeChoice(const game::Game& game, game::Values start, std::string setting, std::string level, Basis basis);

} // namespace impasto::document
