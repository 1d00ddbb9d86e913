// SPDX-License-Identifier: GPL-3.0-or-later
// What is tuned: machine, game and route, and who records.
#pragma once

#include <impasto/base/error.h>
#include <impasto/game/game.h>
#include <optional>

namespace impasto::document {

struct Edit;

enum class RigKind { Simulated, Hand };

struct Subject {
    std::string name;                         // of the session, given by hand; empty: the game's
    std::string title;                        // of a session without a game
    std::optional<std::size_t> machine, game; // indices into the facts
    RigKind rig = RigKind::Simulated;
    std::string route;
    friend bool operator==(const Subject&, const Subject&) = default;
};

Edit useMachine(std::size_t index);
/// Another game: takes its first preset as the baseline and its first route; locks are gone.
Edit useGame(std::size_t index, const game::Game& game);
/// The same game, described anew: baseline levels, locks and route stay where the game still has them; what it has
/// now besides gets the level of its first preset.
Edit reviseGame(std::size_t index, const game::Game& game);
Edit useRig(RigKind kind);
/// Errors: UnknownName.
Edit setRoute(const game::Game& game, std::string route);
Edit setTitle(std::string title);
Edit setName(std::string name);

} // namespace impasto::document
