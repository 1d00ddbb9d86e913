// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/game/game.h>

#include <impasto/base/keys.h>
#include <impasto/base/text.h>
#include <impasto/description/description.h>
#include <impasto/description/originals.h>
#include <impasto/game/rules.h>
#include <impasto/game/size.h>
#include <set>

namespace impasto::game {

std::optional<std::size_t> Setting::levelIndex(std::string_view name) const {
    for (std::size_t i = 0; i < levels.size(); ++i)
        if (levels[i].name == name) return i;
    return std::nullopt;
}

double Setting::pictureWeight() const {
    const bool same = std::all_of(levels.begin(), levels.end(),
                                  [&](const Level& level) { return level.picture == levels.front().picture; });
    return same ? 0 : weight;
}

double Route::seconds() const {
    double sum = 0;
    for (const auto& part : parts) sum += part.seconds;
    return sum;
}

namespace {

constexpr Keys<UpscalerKind, 4> upscalerKinds{{{UpscalerKind::Spatial, "spatial"},
                                               {UpscalerKind::Temporal, "temporal"},
                                               {UpscalerKind::Learned, "learned"},
                                               {UpscalerKind::Engine, "engine"}}};

constexpr Keys<ConfigFormat, 7> configFormats{{{ConfigFormat::Ini, "ini"},
                                               {ConfigFormat::Json, "json"},
                                               {ConfigFormat::Toml, "toml"},
                                               {ConfigFormat::Xml, "xml"},
                                               {ConfigFormat::Keys, "keys"},
                                               {ConfigFormat::Environment, "environment"},
                                               {ConfigFormat::Command, "command"}}};

template <class Things, class Key>
auto* named(Things& things, std::string_view name, Key key) {
    for (auto& thing : things)
        if (thing.*key == name) return &thing;
    return static_cast<decltype(&things[0])>(nullptr);
}

bool isId(std::string_view text) {
    return !text.empty() && std::all_of(text.begin(), text.end(), [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '_';
    });
}

constexpr std::string_view restsOn = "rests_on", noUpscaler = "none";

ConfigFile readConfig(const description::Section& section) {
    ConfigFile config;
    config.id = section.text("id", "config");
    if (!isId(config.id)) section.fault("id", ErrorCode::BadValue, "small letters, digits and _");
    const auto format = configFormatOf(section.text("format"));
    if (!format) section.fault("format", ErrorCode::BadValue, "ini, json, toml, xml, keys, environment or command");
    config.format = format.value_or(ConfigFormat::Ini);
    if (!isFile(config.format)) return config;
    config.path = section.text("path");
    if (!config.path.starts_with('/') && !config.path.starts_with("~/"))
        section.fault("path", ErrorCode::BadValue, "a path from / or from ~/");
    return config;
}

/// Where the value lives: in the one config there is, where none is named.
void readPlace(const description::Section& section, const std::vector<ConfigFile>& configs, Setting& setting) {
    if (!section.has("key")) return;
    setting.place = ConfigPlace{section.text("config", configs.size() == 1 ? configs.front().id : std::string_view()),
                                section.text("key")};
    if (std::none_of(configs.begin(), configs.end(), [&](const auto& c) { return c.id == setting.place->config; }))
        section.fault("config", ErrorCode::UnknownName, setting.place->config);
    const auto written = section.texts("written");
    if (!written.empty() && written.size() != setting.levels.size())
        section.fault("written", ErrorCode::BadValue, "one text a level");
    for (std::size_t i = 0; i < std::min(written.size(), setting.levels.size()); ++i)
        setting.levels[i].written = written[i];
}

/// A kind a level, or "none"; it needs what is rendered.
std::vector<std::optional<UpscalerKind>> readUpscalers(const description::Section& section, std::size_t scales) {
    std::vector<std::optional<UpscalerKind>> out;
    for (const auto& word : section.texts("upscaler")) {
        out.push_back(upscalerKindOf(word));
        if (!out.back() && word != noUpscaler) section.fault("upscaler", ErrorCode::UnknownName, word);
    }
    if (!out.empty() && out.size() != scales)
        section.fault("upscaler", ErrorCode::BadValue, "one kind a level, beside its scale");
    return out;
}

Setting readSetting(const description::Section& section, const std::vector<ConfigFile>& configs) {
    Setting s;
    s.id = section.text("id");
    if (!isId(s.id) || s.id == restsOn)
        section.fault("id", ErrorCode::BadValue, "small letters, digits and _, and not rests_on");
    s.label = section.text("label", s.id);
    s.weight = section.number("weight", 0, greatestWeight, 1);
    for (const auto& lane : section.texts("pays")) {
        if (lane == "cpu")
            s.paysCpu = true;
        else if (lane == "gpu")
            s.paysGpu = true;
        else if (lane == "memory")
            s.paysMemory = true;
        else
            section.fault("pays", ErrorCode::BadValue, "cpu, gpu or memory");
    }
    s.unordered = section.flag("unordered", false);
    const auto levels = section.texts("levels");
    const auto picture = section.numbers("picture", 0, 1);
    const auto scale = section.numbers("scale", 0.1, 2);
    if (levels.size() < 2 || levels.size() > 64) section.fault("levels", ErrorCode::BadValue, "2 to 64 levels");
    if (!picture.empty() && picture.size() != levels.size())
        section.fault("picture", ErrorCode::BadValue, "one number a level");
    if (!scale.empty() && scale.size() != levels.size())
        section.fault("scale", ErrorCode::BadValue, "one number a level");
    s.output = section.flag("output", false);
    if (s.output && !scale.empty()) section.fault("scale", ErrorCode::BadValue, "none: the sizes of the output say it");
    if (s.output && (s.unordered || levels.size() > mostOutputs))
        section.fault("output", ErrorCode::BadValue, "2 to 8 sizes, which have an order");
    if (s.unordered && !scale.empty())
        section.fault("unordered", ErrorCode::BadValue, "no rendered size: sizes have an order");
    const auto upscalers = readUpscalers(section, scale.size());
    for (std::size_t i = 0; i < levels.size(); ++i) {
        if (s.levelIndex(levels[i])) section.fault("levels", ErrorCode::DuplicateName, levels[i]);
        Level level;
        level.name = levels[i];
        if (levels.size() > 1 && !s.unordered)
            level.picture = static_cast<double>(i) / static_cast<double>(levels.size() - 1);
        if (i < picture.size()) level.picture = picture[i];
        if (i < scale.size()) level.scale = scale[i];
        if (i < upscalers.size()) level.upscaler = upscalers[i];
        s.levels.push_back(level);
    }
    if (s.output && !asOutputs(s, picture.empty()))
        section.fault("levels", ErrorCode::BadValue, "sizes of the output, as 1920x1080, each larger than the last");
    readPlace(section, configs, s);
    return s;
}

/// What a setting asks of others, once all of them are known.
void readRules(const description::Section& section, Game& game) {
    const auto* setting = game.setting(section.text("id"));
    for (const auto& text : section.texts("rules")) {
        const auto rules = setting == nullptr ? Result<std::vector<Rule>>() : rulesFrom(game, *setting, text);
        if (!rules) section.fault("rules", rules.error().code, rules.error().what);
        if (rules) game.rules.insert(game.rules.end(), rules->begin(), rules->end());
    }
    if (game.rules.size() > mostRules) section.fault("rules", ErrorCode::OutOfRange, "0 to 8 rules");
}

/// A preset with what it rests on; `above` are the presets that rest on it, to find a circle.
Preset readPreset(const description::Section& presets, const std::string& name, const Game& game,
                  std::vector<std::string> above = {}) {
    const auto section = presets.table(name);
    Preset preset{name, {}};
    if (section.has(restsOn)) {
        const std::string base = section.text(restsOn);
        above.push_back(name);
        if (!presets.has(base)) {
            section.fault(restsOn, ErrorCode::UnknownName, base);
        } else if (std::find(above.begin(), above.end(), base) != above.end()) {
            section.fault(restsOn, ErrorCode::BadValue, "a preset that does not rest on this one");
        } else {
            preset.values = readPreset(presets, base, game, std::move(above)).values;
        }
    }
    for (const auto& key : section.keys()) {
        if (key == restsOn) continue;
        const Setting* setting = game.setting(key);
        const std::string level = section.text(key);
        if (setting == nullptr)
            section.fault(key, ErrorCode::UnknownName, key);
        else if (!setting->levelIndex(level))
            section.fault(key, ErrorCode::UnknownName, level);
        preset.values[key] = level;
    }
    for (const auto& setting : game.settings)
        if (!preset.values.contains(setting.id)) section.fault(setting.id, ErrorCode::MissingKey, setting.id);
    return preset;
}

Route readRoute(const description::Section& section) {
    Route route;
    route.name = section.text("name");
    for (const auto& part : section.tables("part"))
        route.parts.push_back({part.text("name"), part.number("seconds", 1, 3600)});
    if (route.parts.empty()) section.fault("part", ErrorCode::MissingKey, "part");
    const std::string key = section.text("kind", std::string(keyOf(route.kind)));
    const auto kind = sceneKindOf(key);
    if (!kind) section.fault("kind", ErrorCode::BadValue, "a kind of scene");
    route.kind = kind.value_or(route.kind);
    return route;
}

} // namespace

std::string_view keyOf(UpscalerKind kind) {
    return keyIn(upscalerKinds, kind);
}
std::optional<UpscalerKind> upscalerKindOf(std::string_view key) {
    return valueIn(upscalerKinds, key);
}

std::string_view keyOf(ConfigFormat format) {
    return keyIn(configFormats, format);
}
std::optional<ConfigFormat> configFormatOf(std::string_view key) {
    return valueIn(configFormats, key);
}

const Setting* Game::setting(std::string_view id) const {
    return named(settings, id, &Setting::id);
}
const Preset* Game::preset(std::string_view wanted) const {
    return named(presets, wanted, &Preset::name);
}
const Route* Game::route(std::string_view wanted) const {
    return named(routes, wanted, &Route::name);
}
const ConfigFile* Game::config(std::string_view id) const {
    return named(configs, id, &ConfigFile::id);
}

Result<Game> parseGame(std::string_view text, std::string fileName) {
    const auto document = description::Document::parse(text, std::move(fileName));
    if (!document) return tl::unexpected(document.error());
    const auto root = document->root();
    root.leave("rig");
    Game game;
    game.mark = description::markOf(text);
    game.name = root.text("name");
    game.version = root.text("version", "not said");
    for (const auto& key : root.texts("upscalers")) {
        const auto kind = upscalerKindOf(key);
        if (!kind) root.fault("upscalers", ErrorCode::BadValue, "spatial, temporal, learned or engine");
        game.upscalers.push_back(kind.value_or(UpscalerKind::Spatial));
    }
    game.generatesFrames = root.flag("generates_frames", false);
    for (const auto& section : root.tables("config")) {
        ConfigFile config = readConfig(section);
        if (named(game.configs, config.id, &ConfigFile::id) != nullptr)
            section.fault("id", ErrorCode::DuplicateName, config.id);
        game.configs.push_back(std::move(config));
    }
    if (game.configs.size() > 20) root.fault("config", ErrorCode::OutOfRange, "0 to 20");
    for (const auto& section : root.tables("setting")) {
        Setting setting = readSetting(section, game.configs);
        if (game.setting(setting.id) != nullptr) section.fault("id", ErrorCode::DuplicateName, setting.id);
        game.settings.push_back(std::move(setting));
    }
    if (std::count_if(game.settings.begin(), game.settings.end(), [](const auto& s) { return s.output; }) > 1)
        root.fault("setting", ErrorCode::BadValue, "one setting with output = true");
    if (game.settings.empty()) root.fault("setting", ErrorCode::MissingKey, "setting");
    if (game.settings.size() > 200) root.fault("setting", ErrorCode::OutOfRange, "1 to 200");
    for (const auto& section : root.tables("setting")) readRules(section, game);
    const auto presets = root.table("preset");
    for (const auto& name : root.texts("presets")) game.presets.push_back(readPreset(presets, name, game));
    if (game.presets.empty()) {
        Preset highest{"as now", {}};
        for (const auto& s : game.settings)
            if (!s.levels.empty()) highest.values[s.id] = s.levels.back().name;
        game.presets.push_back(std::move(highest));
    }
    for (const auto& section : root.tables("route")) game.routes.push_back(readRoute(section));
    if (game.routes.empty()) game.routes.push_back({"the same minute", {{"whole route", 60}}});
    if (const auto sound = document->check(); !sound) return tl::unexpected(sound.error());
    return game;
}

std::string toToml(const Game& game) {
    using description::quoted;
    const auto list = [](const auto& items, const auto& text) {
        std::string out;
        for (const auto& item : items) out += (out.empty() ? "" : ", ") + text(item);
        return "[" + out + "]";
    };
    std::string out = fmt::format("name = {}\nversion = {}\n", quoted(game.name), quoted(game.version));
    out += "presets = " + list(game.presets, [](const Preset& p) { return quoted(p.name); }) + "\n";
    if (!game.upscalers.empty())
        out += "upscalers = " + list(game.upscalers, [](UpscalerKind kind) { return quoted(keyOf(kind)); }) + "\n";
    if (game.generatesFrames) out += "generates_frames = true\n";
    for (const auto& c : game.configs) {
        out += fmt::format("\n[[config]]\nid = {}\nformat = {}\n", quoted(c.id), quoted(keyOf(c.format)));
        if (isFile(c.format)) out += fmt::format("path = {}\n", quoted(c.path));
    }
    for (const auto& s : game.settings) {
        std::vector<std::string> pays;
        if (s.paysCpu) pays.emplace_back("cpu");
        if (s.paysGpu) pays.emplace_back("gpu");
        if (s.paysMemory) pays.emplace_back("memory");
        out += fmt::format("\n[[setting]]\nid = {}\nlabel = {}\nweight = {}\n", quoted(s.id), quoted(s.label),
                           shortestText(s.weight));
        out += "pays = " + list(pays, [](const std::string& p) { return quoted(p); }) + "\n";
        if (s.unordered) out += "unordered = true\n";
        out += "levels = " + list(s.levels, [](const Level& l) { return quoted(l.name); }) + "\n";
        out += "picture = " + list(s.levels, [](const Level& l) { return shortestText(l.picture); }) + "\n";
        if (s.output)
            out += "output = true\n";
        else if (s.changesSize())
            out += "scale = " + list(s.levels, [](const Level& l) { return shortestText(l.scale.value_or(1)); }) + "\n";
        if (std::any_of(s.levels.begin(), s.levels.end(), [](const Level& l) { return l.upscaler.has_value(); }))
            out += "upscaler = " +
                   list(s.levels, [](const Level& l) { return quoted(l.upscaler ? keyOf(*l.upscaler) : noUpscaler); }) +
                   "\n";
        std::vector<const Rule*> rules;
        for (const auto& rule : game.rules)
            if (rule.setting == s.id) rules.push_back(&rule);
        if (!rules.empty())
            out +=
                "rules = " + list(rules, [&](const Rule* rule) { return quoted(textOf(game, *rule, rule->other)); }) +
                "\n";
        if (!s.place) continue;
        out += fmt::format("config = {}\nkey = {}\n", quoted(s.place->config), quoted(s.place->key));
        if (std::any_of(s.levels.begin(), s.levels.end(), [](const Level& l) { return !l.written.empty(); }))
            out += "written = " +
                   list(s.levels, [](const Level& l) { return quoted(l.written.empty() ? l.name : l.written); }) + "\n";
    }
    for (const auto& p : game.presets) {
        out += fmt::format("\n[preset.{}]\n", quoted(p.name));
        for (const auto& [id, level] : p.values) out += fmt::format("{} = {}\n", id, quoted(level));
    }
    for (const auto& r : game.routes) {
        out += fmt::format("\n[[route]]\nname = {}\n", quoted(r.name));
        if (r.kind != SceneKind::FixedRoute) out += fmt::format("kind = \"{}\"\n", keyOf(r.kind));
        for (const auto& part : r.parts)
            out +=
                fmt::format("[[route.part]]\nname = {}\nseconds = {}\n", quoted(part.name), shortestText(part.seconds));
    }
    return out;
}

Result<void> checkValues(const Game& game, const Values& values) {
    for (const auto& [id, level] : values) {
        const Setting* setting = game.setting(id);
        if (setting == nullptr) return fail(ErrorCode::UnknownName, id, {{}, {}, {}, id});
        if (!setting->levelIndex(level)) return fail(ErrorCode::UnknownName, level, {{}, {}, {}, id});
    }
    return {};
}

double pictureValue(const Game& game, const Values& values) {
    double sum = 0, weights = 0;
    for (const auto& s : game.settings) {
        const auto it = values.find(s.id);
        const auto level = it == values.end() ? std::nullopt : s.levelIndex(it->second);
        if (!level) continue;
        const double weight = s.pictureWeight();
        sum += weight * s.levels[*level].picture;
        weights += weight;
    }
    return weights > 0 ? sum / weights : 1.0;
}

} // namespace impasto::game
