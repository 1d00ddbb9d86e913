// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/game/start.h>

#include <algorithm>
#include <impasto/description/description.h>
#include <impasto/game/catalogue.h>
#include <impasto/game/rules.h>

#include "catalogue_text.h"

namespace impasto::game {
namespace {

/// The level that renders most; the one in use where it is as large as that.
std::string fullSize(const Setting& setting, const std::string& now) {
    const auto scaleOf = [](const Level& level) { return level.scale.value_or(1); };
    const auto most = std::max_element(setting.levels.begin(), setting.levels.end(),
                                       [&](const auto& a, const auto& b) { return scaleOf(a) < scaleOf(b); });
    const auto at = setting.levelIndex(now);
    return at && scaleOf(setting.levels[*at]) >= scaleOf(*most) ? now : most->name;
}

bool isKept(const StyleSet& set, const Setting& setting) {
    if (setting.changesSize()) return false;
    const auto* kind = kindOf(setting);
    return kind != nullptr && std::find(set.kept.begin(), set.kept.end(), kind->id) != set.kept.end();
}

} // namespace

Result<std::vector<StyleSet>> parseStyleSets(std::string_view text, std::string fileName) {
    const auto document = description::Document::parse(text, std::move(fileName));
    if (!document) return tl::unexpected(document.error());
    const auto root = document->root();
    root.leave("kind");
    std::vector<StyleSet> out;
    for (const auto& section : root.tables("start"))
        out.push_back({section.text("style"), section.flag("highest", false), section.texts("kept")});
    if (const auto sound = document->check(); !sound) return tl::unexpected(sound.error());
    return out;
}

const StyleSet* styleSet(std::string_view style) {
    static const auto sets = *parseStyleSets(catalogueText, "data/catalogue.toml");
    const auto it = std::find_if(sets.begin(), sets.end(), [style](const auto& set) { return set.style == style; });
    return it == sets.end() ? nullptr : &*it;
}

std::vector<std::string> keptIn(const StyleSet& set, const Game& game) {
    std::vector<std::string> out;
    for (const auto& setting : game.settings)
        if (isKept(set, setting)) out.push_back(setting.label);
    return out;
}

Values valuesOf(const StyleSet& set, const Game& game, const Values& found) {
    Values out = found;
    for (const auto& setting : game.settings) {
        auto& value = out[setting.id];
        if (setting.changesSize())
            value = fullSize(setting, value);
        else if ((setting.weight > 0 && !setting.unordered) || value.empty())
            value = (set.highest || isKept(set, setting) ? setting.levels.back() : setting.levels.front()).name;
    }
    // A rule that asks for another level is obeyed by going down until it does not: as often as there are levels.
    for (auto broken = brokenBy(game.rules, out); !broken.empty(); broken = brokenBy(game.rules, out)) {
        const auto* setting = game.setting(broken.front().setting);
        const auto level = setting == nullptr ? std::nullopt : setting->levelIndex(out[setting->id]);
        if (!level || *level == 0) break; // it stands as it is; the window tells it
        out[setting->id] = setting->levels[*level - 1].name;
    }
    return out;
}

} // namespace impasto::game
