// SPDX-License-Identifier: GPL-3.0-or-later
// What is tuned: machine, game and route, and who records.
#pragma once

#include <impasto/base/error.h>
#include <impasto/run/conditions.h>
#include <optional>

namespace impasto::document {

struct Edit;

enum class RigKind { Simulated, Hand };

/// The state that every run of the session is played in, besides the levels of the settings.
struct PlayState {
    display::Resolution resolution;   // of the output; 0x0: the panel's own
    run::Sync sync = run::Sync::None; // while measuring; a cap brings its own
    run::LimiterPlace limiter = run::LimiterPlace::Engine;
    bool direct = false;
    run::Conditions conditions;
    friend bool operator==(const PlayState&, const PlayState&) = default;
    /// An order that asks for nothing else, so that the table of conditions can be read and written.
    [[nodiscard]] run::Order asOrder() const;
};

struct Subject {
    std::string name;                         // of the session, given by hand; empty: the game's
    std::string title;                        // of a session without a game
    std::optional<std::size_t> machine, game; // indices into the facts
    RigKind rig = RigKind::Simulated;
    std::string route;
    std::optional<game::SceneKind> scene = {}; // of the route, said by hand; none: as it is described
    PlayState state;
    friend bool operator==(const Subject&, const Subject&) = default;
};

Edit useMachine(std::size_t index);
/// Another game: takes its first preset as the baseline and its first route; locks are gone.
Edit useGame(std::size_t index, const game::Game& game);
/// The same game, described anew: baseline levels, locks and route stay where the game still has them; what it has
/// now besides gets the level of its first preset.
Edit reviseGame(std::size_t index, const game::Game& game);
Edit useRig(RigKind kind);
/// Of a condition that has a label. Errors: UnknownName for another one, BadValue.
Edit setState(std::string condition, std::string text);
/// Errors: UnknownName.
Edit setRoute(const game::Game& game, std::string route);
Edit setScene(game::SceneKind kind);
Edit setTitle(std::string title);
inline constexpr std::size_t mostNameBytes = 1000;
Edit setName(std::string name); // errors: OutOfRange beyond mostNameBytes

} // namespace impasto::document
