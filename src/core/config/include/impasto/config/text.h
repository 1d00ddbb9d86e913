// SPDX-License-Identifier: GPL-3.0-or-later
// Values inside the text of a config: found by key and replaced where they stand, so that no other byte changes.
// docs/formats.md, Config, says how keys are written.
#pragma once

#include <impasto/base/error.h>
#include <impasto/game/config_file.h>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace impasto::config {

struct Assignment {
    std::string key, value;
};
/// A value that is another now.
struct Change {
    std::string key, from, to; // as a person reads them
    std::size_t line = 0;      // from 1
};
struct Patched {
    std::string text;
    std::vector<Change> changes; // in the order of the text; empty: all values stand there already
};

/// UTF-8, with or without a mark, UTF-16 with one, or any text that keeps ASCII. Errors: NotInFile, DuplicateName (a
/// key that stands there twice), BadSyntax (with line and column), BadValue (a value that the format cannot hold
/// there), NotText.
Result<Patched> patched(std::string_view bytes, game::ConfigFormat format, std::span<const Assignment> values);
/// Errors: as above.
Result<std::string> valueIn(std::string_view bytes, game::ConfigFormat format, const std::string& key);

/// What a person hands to whatever starts the game: NAME=value for the environment; for the command the key with {} in
/// place of the value, or the key and the value.
std::string handedOver(game::ConfigFormat format, std::span<const Assignment> values);

} // namespace impasto::config
