// SPDX-License-Identifier: GPL-3.0-or-later
// What a player knows of a game: its settings with ordered levels, its presets, its routes. What only a
// simulator reads of the same file is not read here.
#pragma once

#include <impasto/base/error.h>
#include <impasto/game/config_file.h>
#include <impasto/game/scene.h>
#include <map>
#include <string>
#include <vector>

namespace impasto::game {

/// How a smaller rendered picture becomes the output: from one frame, from motion over frames, by a trained network, or
/// by the engine's own scaling.
enum class UpscalerKind { Spatial, Temporal, Learned, Engine };
std::string_view keyOf(UpscalerKind kind);
std::optional<UpscalerKind> upscalerKindOf(std::string_view key);

struct Level {
    std::string name;
    double picture = 1.0;        // 0 to 1 of what the setting's best level shows
    std::optional<double> scale; // rendered size per axis, for levels of a render scale or an upscaler
    std::string written = {};    // as the game's config says it; empty: by its name
    std::optional<UpscalerKind> upscaler =
        {}; // what makes the output of it; none: nothing, or the engine's own scaling
    friend bool operator==(const Level&, const Level&) = default;
};

inline constexpr double greatestWeight = 100;

struct Setting {
    std::string id;                                            // [a-z0-9_]
    std::string label;                                         // as the game's menu says it
    double weight = 1;                                         // 0 taste, 1 some, 2 much: how much of the picture it is
    bool paysCpu = false, paysGpu = false, paysMemory = false; // what it is known to load; a hint, never a result
    std::vector<Level> levels;                                 // from the least to the most
    std::optional<ConfigPlace> place = {};                     // where its value lives
    bool output = false;    // its levels are sizes of the output ("1920x1080"), each with its scale against the largest
    bool unordered = false; // a way to run (renderer, translation, window mode): any of its levels may cost more
    friend bool operator==(const Setting&, const Setting&) = default;
    [[nodiscard]] std::optional<std::size_t> levelIndex(std::string_view name) const;
    [[nodiscard]] bool changesSize() const { return levels.front().scale.has_value(); } // the rendered one
    /// Its weight in the picture: none where all its levels show the same.
    [[nodiscard]] double pictureWeight() const;
};

/// Levels by these names, from the least to the most. As many as before: each is the one in its place. Else what is
/// known of them goes by the name, and their picture is spread evenly. "temporal 1.5" says what it is, and so does
/// "75%" of a setting that changes the rendered size.
std::vector<Level> levelsNamed(const Setting& before, const std::vector<std::string>& names);

/// A setting of the output has so many levels at most: each is tried with every ratio.
inline constexpr std::size_t mostOutputs = 8;

/// The setting with its levels as they are typed (levels.h), sizes of the output where all are such and wider than
/// high; nothing where the text names no levels.
std::optional<Setting> withLevels(Setting before, std::string_view text);

/// Setting id to level name.
using Values = std::map<std::string, std::string>;

struct Preset {
    std::string name;
    Values values; // of every setting
    friend bool operator==(const Preset&, const Preset&) = default;
};

struct Part {
    std::string name;
    double seconds = 0;
    friend bool operator==(const Part&, const Part&) = default;
};

struct Route {
    std::string name;
    std::vector<Part> parts;
    SceneKind kind = SceneKind::FixedRoute;
    friend bool operator==(const Route&, const Route&) = default;
    [[nodiscard]] double seconds() const;
};

/// At one of `levels`, a setting needs another at one of the `needed`: "traced light on needs an upscaler".
struct Rule {
    std::string setting;
    std::vector<std::string> levels;
    std::string other;
    std::vector<std::string> needed;
    friend bool operator==(const Rule&, const Rule&) = default;
};

struct Game {
    std::string name;
    std::string version;
    std::vector<UpscalerKind> upscalers; // that it offers besides its settings
    bool generatesFrames = false;        // it has frame generation built in
    std::vector<ConfigFile> configs;     // where its values live
    std::vector<Setting> settings;
    std::vector<Rule> rules;     // in the order of the settings that make them
    std::vector<Preset> presets; // at least one
    std::vector<Route> routes;   // at least one
    std::uint64_t mark = 0; // of the whole description as read; the text itself is kept apart (description::Originals)

    [[nodiscard]] const Setting* setting(std::string_view id) const;
    [[nodiscard]] const Preset* preset(std::string_view name) const;
    [[nodiscard]] const Route* route(std::string_view name) const;
    [[nodiscard]] const ConfigFile* config(std::string_view id) const;
};

/// docs/formats.md, Game. A preset may rest on another. A game without presets gets one, "as now", from its settings'
/// highest levels; one without a route gets "the same minute", 60 s in one part. Errors name file, line and key.
Result<Game> parseGame(std::string_view text, std::string fileName);
/// A description that parses to an equal game (without what only a simulator reads).
std::string toToml(const Game& game);
/// Whether every value names a setting and a level of the game. Errors: UnknownName with the setting as key.
Result<void> checkValues(const Game& game, const Values& values);
/// Weighted mean of the levels' picture over the settings, 0 to 1; 1 when no setting has a weight.
double pictureValue(const Game& game, const Values& values);

} // namespace impasto::game
