// SPDX-License-Identifier: GPL-3.0-or-later
// What a game's settings ask of each other.
#pragma once

#include <impasto/game/game.h>
#include <span>

namespace impasto::game {

/// Of a game; each may double what a choice looks through.
inline constexpr std::size_t mostRules = 8;

/// The rules of a setting as they are written: "on needs upscaling: learned 2.0, learned 1.5; on without textures:
/// ultra". Other settings by id, or by label as well where they are read. An empty text is no rule. Errors: BadValue
/// (what is no rule), UnknownName (a setting, a level), with the setting as key.
Result<std::vector<Rule>> rulesFrom(const Game& game, const Setting& setting, std::string_view text);
/// As it is written, the shorter of the two ways; `other`: what the other setting is called there.
std::string textOf(const Game& game, const Rule& rule, std::string_view other);
/// Those that the setting makes, as they are written, by labels.
std::string rulesOf(const Game& game, const Setting& setting);

/// The rules that these values break; settings without a value break none.
std::vector<Rule> brokenBy(std::span<const Rule> rules, const Values& values);

/// Rules that name no setting or level of the game any more are dropped, levels that are gone with them.
void dropOldRules(Game& game);
/// A setting's levels have other names.
void renameInRules(Game& game, std::string_view setting, const std::map<std::string, std::string>& renamed);

} // namespace impasto::game
