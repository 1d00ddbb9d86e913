// SPDX-License-Identifier: GPL-3.0-or-later
// What usual settings are known to cost, before a game was run (data/catalogue.toml; common practice, no source).
#pragma once

#include <impasto/game/game.h>

namespace impasto::game {

/// A kind of setting. Shares are of a frame's time at the setting's highest level.
struct Kind {
    std::string id;
    std::vector<std::string> words; // small letters; one of them in a setting's id or label names the kind
    double cpuShare = 0, gpuShare = 0, memoryShare = 0; // the last of the GPU's memory
    double pixelShare = 0;                              // of its GPU time that goes with the rendered size
};

/// Errors name file, line and key.
Result<std::vector<Kind>> parseCatalogue(std::string_view text, std::string fileName);
/// The one that ships with the program.
const std::vector<Kind>& catalogue();
/// By the longest word that stands in the setting's label or id; nothing where none does.
const Kind* kindOf(const Setting& setting, const std::vector<Kind>& kinds = catalogue());

/// The setting's usual share of a frame at its highest level: of its kind; else of what it is said to load.
Kind usualOf(const Setting& setting);

} // namespace impasto::game
