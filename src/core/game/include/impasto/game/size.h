// SPDX-License-Identifier: GPL-3.0-or-later
// Sizes at which a game can render, by its own scale or by an upscaler.
#pragma once

#include <impasto/display/display.h>
#include <impasto/game/game.h>

namespace impasto::game {

/// A rendered size, and how the output is made of it.
struct Size {
    Values levels;                             // of the settings that change the size; empty where there are none
    double scale = 1;                          // rendered size per axis
    double output = 1;                         // size of the output per axis, against the largest
    std::optional<UpscalerKind> upscaler = {}; // Engine where nothing else makes the output; none at full size
    std::string setting = {};                  // that departs from full size; the first one where none does
    std::string name = {};                     // its level; of all that depart
    friend bool operator==(const Size&, const Size&) = default;
};

/// Of what is played with these values.
Size sizeOf(const Game& game, const Values& values);

/// The output that these values ask for; nothing where the game has no setting for it.
std::optional<display::Resolution> outputOf(const Game& game, const Values& values);
/// The largest of them.
std::optional<display::Resolution> fullOutputOf(const Game& game);

/// What may be chosen among: at every size of the output at most one setting departs from full size, since the output
/// is made once; and the size of `now`, whatever it is. Settings without a value in `now` are left out. At least one;
/// level by level where one setting changes the size.
std::vector<Size> sizesOf(const Game& game, const Values& now);

/// Scales of the levels against the largest, by their names, and where `pictures` the picture that is proposed: 1 less
/// 0.55 (ratio - 1)^1.36, since the panel stretches what lies on it as well (our choice). False where a name is no
/// resolution, or one is not larger than the one before.
bool asOutputs(Setting& setting, bool pictures);

/// A level that renders 1 / ratio per axis and lets an upscaler make the output. Its picture is a proposal: 1 less
/// k (ratio - 1)^1.36, with k 0.16 where it was learned, 0.22 from motion, 0.36 from one frame, 0.5 by the engine's own
/// scaling (common practice, no source).
Level upscaledLevel(UpscalerKind kind, double ratio);
/// As it is typed: "temporal 1.5". Nothing where it is another name, or the ratio is not 1 to 4.
std::optional<Level> upscaledLevel(std::string_view text);

} // namespace impasto::game
