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

/// What runs of an earlier session of the same game taught of its costs: this one begins with it, in doubt.
struct EarlierCosts {
    std::string from;     // that session, as it was called
    std::size_t runs = 0; // that taught it
    std::string chips;    // chipsOf its machine
    std::string version;  // of the game
    std::vector<cost::LearntCost> costs;
    friend bool operator==(const EarlierCosts&, const EarlierCosts&) = default;
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
    std::optional<EarlierCosts> earlier = {};
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
/// Costs begin with what an earlier session learnt, or with what is usual. Errors: BadValue where shares or doubts are
/// none.
Edit beginWith(std::optional<EarlierCosts> earlier);
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
