// SPDX-License-Identifier: GPL-3.0-or-later
// Where a game keeps its settings, as far as its description says.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace impasto::game {

/// How the values are written. Environment and Command are no files: text that a person hands to whatever starts the
/// game.
enum class ConfigFormat { Ini, Json, Toml, Xml, Keys, Environment, Command };
std::string_view keyOf(ConfigFormat format);
std::optional<ConfigFormat> configFormatOf(std::string_view key);
constexpr bool isFile(ConfigFormat format) {
    return format != ConfigFormat::Environment && format != ConfigFormat::Command;
}

struct ConfigFile {
    std::string id; // [a-z0-9_]
    ConfigFormat format = ConfigFormat::Ini;
    std::string path; // absolute, or from the home folder with ~/; empty where it is no file
    friend bool operator==(const ConfigFile&, const ConfigFile&) = default;
};

/// A value's place: the config's id, and its key there (docs/formats.md, Config).
struct ConfigPlace {
    std::string config, key;
    friend bool operator==(const ConfigPlace&, const ConfigPlace&) = default;
};

} // namespace impasto::game
