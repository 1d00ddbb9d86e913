// SPDX-License-Identifier: GPL-3.0-or-later
// Sets to start a tuning from that a style is known for (data/catalogue.toml; common practice, no source).
#pragma once

#include <impasto/game/game.h>

namespace impasto::game {

struct StyleSet {
    std::string style;             // its key ("competitive")
    bool highest = false;          // all at their highest, else at their lowest
    std::vector<std::string> kept; // kinds of settings (Kind::id) that are at their highest all the same
};
/// Errors name file, line and key.
Result<std::vector<StyleSet>> parseStyleSets(std::string_view text, std::string fileName);
/// Of those that ship with the program; nullptr where the style has none.
const StyleSet* styleSet(std::string_view style);

/// The labels of those settings of the game that it keeps at their highest.
std::vector<std::string> keptIn(const StyleSet& set, const Game& game);
/// The game at its full size and set as the style has it. What is taste, or a way to run, stays as found; what a rule
/// of the game does not let stand is as near as it does.
Values valuesOf(const StyleSet& set, const Game& game, const Values& found);

} // namespace impasto::game
