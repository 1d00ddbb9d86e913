// SPDX-License-Identifier: GPL-3.0-or-later
// The game is described: its route, its settings with their levels, and what each has now.
#include "shell/studio.h"
#include "stations/bench/bench.h"
#include "stations/hands.h"

#include <QtCore/QStringList>
#include <utility>

namespace impasto::app {
namespace {

using Q = const QString&;
using game::Game;
using game::Setting;

/// "Draw distance: near, middle, far", or "Draw distance: 1 to 10"; nothing is known of it, so that both CPU and GPU
/// are asked.
std::optional<Setting> settingFrom(const Game& game, Q text) {
    const auto colon = text.indexOf(QLatin1Char(':'));
    if (colon <= 0) return std::nullopt;
    Setting setting;
    setting.label = text.left(colon).trimmed().toStdString();
    setting.id = "own_" + std::to_string(game.settings.size() + 1);
    while (game.setting(setting.id) != nullptr) setting.id += "x";
    setting.paysCpu = setting.paysGpu = true;
    return game::withLevels(std::move(setting), text.mid(colon + 1).toStdString());
}

/// "gate 15, crane yard 30, pier 20", or "Market square, 60" as one part.
std::optional<game::Route> routeFrom(const game::Route& before, Q text) {
    game::Route route{before.name, {}};
    const auto words = text.split(QLatin1Char(','), Qt::SkipEmptyParts);
    if (words.size() == 2)
        if (const auto seconds = typedNumber(words[1]); seconds && !typedNumber(words[0]))
            return game::Route{words[0].trimmed().toStdString(), {{"whole route", *seconds}}};
    for (const auto& word : words) {
        const auto plain = word.trimmed();
        const auto space = plain.lastIndexOf(QLatin1Char(' '));
        const auto seconds = typedNumber(plain.mid(space + 1));
        if (space <= 0 || !seconds) return std::nullopt;
        route.parts.push_back({plain.left(space).trimmed().toStdString(), *seconds});
    }
    return route.parts.empty() ? std::nullopt : std::optional(std::move(route));
}

void editGame(Studio& s, Q field, Q text) {
    if (s.view().session.game() == nullptr) return;
    Game game = *s.view().session.game();
    if (field == QStringLiteral("name")) {
        if (!text.trimmed().isEmpty()) game.name = text.trimmed().toStdString();
    } else if (field == QStringLiteral("route")) {
        auto route = routeFrom(game.routes.front(), text);
        if (!route)
            return s.tell(badValue("parts with seconds, as \"gate 15, yard 30\", or a name and seconds", field));
        game.routes = {std::move(*route)};
    } else if (field == QStringLiteral("add")) {
        auto setting = settingFrom(game, text);
        if (!setting) return s.tell(badValue("a name and its levels, as \"Draw distance: near, middle, far\"", field));
        const auto& now = setting->unordered ? setting->levels.front() : setting->levels.back();
        for (auto& preset : game.presets) preset.values[setting->id] = now.name;
        game.settings.push_back(std::move(*setting));
    }
    s.reviseGame(game);
}

void removeSetting(Studio& s, Game game, const std::string& id) {
    if (game.settings.size() == 1)
        return s.tell({ErrorCode::OutOfRange, "1 to 200", {{}, {}, {}, "settings"}, Kept::AllAsBefore});
    std::erase_if(game.settings, [&](const Setting& setting) { return setting.id == id; });
    for (auto& preset : game.presets) preset.values.erase(id);
    game::dropOldRules(game);
    s.state<BenchState>().setting.clear();
    s.reviseGame(game);
}

void toggleUsual(Studio& s, Q rest) {
    const auto* now = s.view().session.game();
    if (now == nullptr) return;
    const std::string id = rest.toStdString();
    if (now->setting(id) != nullptr) return removeSetting(s, *now, id);
    Game game = *now;
    for (const auto& usual : s.state<BenchState>().usualSettings) {
        if (usual.id != id) continue;
        game.settings.push_back(usual);
        for (auto& preset : game.presets) preset.values[id] = usual.levels.back().name;
    }
    s.reviseGame(game);
}

/// The setting that is edited, in a copy of the game.
Setting* editedIn(Studio& s, Game& game) {
    const auto it = std::find_if(game.settings.begin(), game.settings.end(),
                                 [&](const Setting& setting) { return setting.id == s.state<BenchState>().setting; });
    return it == game.settings.end() ? nullptr : &*it;
}

void typeLevels(Studio& s, Game& game, Setting& setting, Q text) {
    auto typed = game::withLevels(setting, text.toStdString());
    if (!typed)
        return s.tell(badValue("two levels or more, as \"low, medium, high\", \"25% to 100% by 5%\" or \"one of "
                               "native, translated\"",
                               QStringLiteral("levels")));
    const Setting before = std::exchange(setting, std::move(*typed));
    const auto& levels = setting.levels;
    // As many as before: those that are new are the old ones by other names.
    std::map<std::string, std::string> renamed;
    if (levels.size() == before.levels.size())
        for (std::size_t i = 0; i < levels.size(); ++i)
            if (!setting.levelIndex(before.levels[i].name)) renamed[before.levels[i].name] = levels[i].name;
    for (auto& preset : game.presets) {
        auto& value = preset.values[setting.id];
        if (const auto it = renamed.find(value); it != renamed.end()) value = it->second;
        if (!setting.levelIndex(value)) value = levels.back().name;
    }
    game::renameInRules(game, setting.id, renamed);
    game::dropOldRules(game);
    auto values = s.view().edits().settings.baseline;
    if (const auto it = renamed.find(values[setting.id]); it != renamed.end()) values[setting.id] = it->second;
    if (!setting.levelIndex(values[setting.id])) values[setting.id] = levels.back().name; // it is gone
    s.reviseGame(game, values);
}

void typeRules(Studio& s, Game& game, const Setting& setting, Q text) {
    const auto rules = game::rulesFrom(game, setting, text.toStdString());
    if (!rules) return s.tell(rules.error());
    std::erase_if(game.rules, [&](const game::Rule& rule) { return rule.setting == setting.id; });
    game.rules.insert(game.rules.end(), rules->begin(), rules->end());
    if (game.rules.size() > game::mostRules)
        return s.tell({ErrorCode::OutOfRange, "0 to 8 rules", {{}, {}, {}, setting.label}, Kept::AllAsBefore});
    s.reviseGame(game);
}

/// Values as found may be what the game itself would not take.
void tellBroken(Studio& s, const game::Values& values) {
    if (const auto rule = brokenRule(s.view(), values); !rule.isEmpty()) s.say(rule);
}

void typeSetting(Studio& s, Q field, Q text) {
    const auto* now = s.view().session.game();
    if (now == nullptr) return;
    Game game = *now;
    auto* setting = editedIn(s, game);
    if (setting == nullptr) return;
    if (field == QStringLiteral("levels")) return typeLevels(s, game, *setting, text);
    if (field == QStringLiteral("rules")) return typeRules(s, game, Setting(*setting), text);
    if (field == QStringLiteral("label") && !text.trimmed().isEmpty()) {
        setting->label = text.trimmed().toStdString();
        s.reviseGame(game);
    }
}

void moveSetting(Game& game, Setting* setting, int by) {
    const auto at = setting - game.settings.data();
    const auto to = at + by;
    if (to < 0 || to >= static_cast<std::ptrdiff_t>(game.settings.size())) return;
    std::swap(game.settings[static_cast<std::size_t>(at)], game.settings[static_cast<std::size_t>(to)]);
}

void pressSetting(Studio& s, Q what) {
    const auto* now = s.view().session.game();
    if (now == nullptr) return;
    Game game = *now;
    auto* setting = editedIn(s, game);
    if (setting == nullptr || what == QStringLiteral("leave")) {
        s.state<BenchState>().setting.clear();
        return s.notify();
    }
    if (what == QStringLiteral("remove")) return removeSetting(s, *now, setting->id);
    if (what == QStringLiteral("lock")) {
        const auto& settings = s.view().edits().settings;
        const auto level = settings.baseline.find(setting->id);
        const bool locked = settings.locked.contains(setting->id) || level == settings.baseline.end();
        return s.apply(document::lockSetting(setting->id, locked ? std::nullopt : std::optional(level->second)));
    }
    if (what.startsWith(QStringLiteral("weight."))) setting->weight = std::clamp(what.mid(7).toInt(), 0, 2);
    if (what == QStringLiteral("cpu")) setting->paysCpu = !setting->paysCpu;
    if (what == QStringLiteral("gpu")) setting->paysGpu = !setting->paysGpu;
    if (what == QStringLiteral("memory")) setting->paysMemory = !setting->paysMemory;
    if (what == QStringLiteral("up")) moveSetting(game, setting, -1);
    if (what == QStringLiteral("down")) moveSetting(game, setting, 1);
    s.reviseGame(game);
}

void stepLevel(Studio& s, Q rest, int steps) {
    const std::string id = rest.toStdString();
    const auto* game = s.view().session.game();
    const auto* setting = game == nullptr ? nullptr : game->setting(id);
    game::Values values = s.view().edits().settings.baseline;
    if (setting == nullptr || !values.contains(id)) return;
    if (const auto level = levelAway(*setting, values[id], steps)) {
        values[id] = *level;
        s.apply(document::setBaseline(*game, values));
        tellBroken(s, values);
    }
}

void usePreset(Studio& s, Q name) {
    const auto* game = s.view().session.game();
    const auto* preset = game == nullptr ? nullptr : game->preset(name.toStdString());
    if (preset == nullptr) return;
    s.apply(document::setBaseline(*game, preset->values));
    tellBroken(s, preset->values);
}

void useStyleStart(Studio& s, Q) {
    const auto* game = s.view().session.game();
    const auto* set = usualStart(s.view());
    if (game == nullptr || set == nullptr) return;
    const auto values = game::valuesOf(*set, *game, s.view().edits().settings.baseline);
    s.apply(document::setBaseline(*game, values));
    const auto kept = game::keptIn(*set, *game);
    s.say(set->highest   ? say("Everything is at its highest and at full size. What is taste stays as it was.")
          : kept.empty() ? say("Everything is at its lowest, at full size. What is taste stays as it was.")
                         : say("Everything is at its lowest but %1, at full size. What is taste stays as it was.")
                               .arg(qs(wording::listed(s.view().w, kept))));
    tellBroken(s, values);
}

void openSetting(Studio& s, Q id) {
    auto& open = s.state<BenchState>().setting;
    open = open == id.toStdString() ? std::string() : id.toStdString();
    s.notify();
}

} // namespace

const game::StyleSet* usualStart(const View& view) {
    const auto& brief = view.edits().goal.brief;
    return brief && view.session.game() != nullptr ? game::styleSet(run::keyOf(brief->style)) : nullptr;
}

std::vector<Hand> gameHands() {
    return {{"game.", nullptr, editGame},
            {"usual.", toggleUsual},
            {"preset.", usePreset},
            {"startset", useStyleStart},
            {"setting.", pressSetting, typeSetting},
            {"level.", openSetting, nullptr, stepLevel}};
}

} // namespace impasto::app
