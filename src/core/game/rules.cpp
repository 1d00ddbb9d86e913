// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/game/rules.h>

#include <algorithm>
#include <impasto/base/text.h>

namespace impasto::game {
namespace {

constexpr std::string_view needs = " needs ", without = " without ";

std::vector<std::string> namesIn(std::string_view list) {
    std::vector<std::string> out;
    while (!list.empty()) {
        const auto comma = list.find(',');
        if (const auto name = trimmed(list.substr(0, comma)); !name.empty()) out.emplace_back(name);
        list = comma == std::string_view::npos ? std::string_view() : list.substr(comma + 1);
    }
    return out;
}

std::string joined(const std::vector<std::string>& names) {
    std::string out;
    for (const auto& name : names) out += (out.empty() ? "" : ", ") + name;
    return out;
}

bool holds(const std::vector<std::string>& names, const std::string& name) {
    return std::find(names.begin(), names.end(), name) != names.end();
}

/// The levels of a setting that are not among the names.
std::vector<std::string> otherThan(const Setting& setting, const std::vector<std::string>& names) {
    std::vector<std::string> out;
    for (const auto& level : setting.levels)
        if (!holds(names, level.name)) out.push_back(level.name);
    return out;
}

const Setting* settingCalled(const Game& game, std::string_view name) {
    if (const auto* setting = game.setting(name)) return setting;
    for (const auto& setting : game.settings)
        if (lowered(setting.label) == lowered(name)) return &setting;
    return nullptr;
}

Result<Rule> ruleFrom(const Game& game, const Setting& setting, std::string_view text) {
    const auto refused = [&](ErrorCode code, std::string what) {
        return fail(code, std::move(what), {{}, {}, {}, setting.id}, Kept::AllAsBefore);
    };
    const auto no = refused(ErrorCode::BadValue, "\"on needs upscaling: learned 2.0\", \"on without textures: ultra\"");
    const auto need = text.find(needs), bar = text.find(without);
    if (std::min(need, bar) == std::string_view::npos) return no;
    const bool needed = need < bar;
    const auto rest = text.substr(needed ? need + needs.size() : bar + without.size());
    const auto colon = rest.find(':');
    if (colon == std::string_view::npos) return no;
    Rule rule{setting.id, namesIn(text.substr(0, std::min(need, bar))), {}, namesIn(rest.substr(colon + 1))};
    if (rule.levels.empty() || rule.needed.empty()) return no;
    const auto* other = settingCalled(game, trimmed(rest.substr(0, colon)));
    if (other == nullptr || other->id == setting.id)
        return refused(ErrorCode::UnknownName, std::string(trimmed(rest.substr(0, colon))));
    rule.other = other->id;
    for (const auto& [owner, names] : {std::pair(&setting, &rule.levels), {other, &rule.needed}})
        for (const auto& name : *names)
            if (!owner->levelIndex(name)) return refused(ErrorCode::UnknownName, name);
    if (!needed) rule.needed = otherThan(*other, rule.needed);
    if (rule.needed.empty()) return refused(ErrorCode::BadValue, "a level that is left");
    return rule;
}

} // namespace

Result<std::vector<Rule>> rulesFrom(const Game& game, const Setting& setting, std::string_view text) {
    std::vector<Rule> out;
    while (!text.empty()) {
        const auto end = text.find(';');
        if (const auto one = trimmed(text.substr(0, end)); !one.empty()) {
            auto rule = ruleFrom(game, setting, one);
            if (!rule) return tl::unexpected(rule.error());
            out.push_back(std::move(*rule));
        }
        text = end == std::string_view::npos ? std::string_view() : text.substr(end + 1);
    }
    return out;
}

std::string textOf(const Game& game, const Rule& rule, std::string_view name) {
    const auto* other = game.setting(rule.other);
    const auto barred = other == nullptr ? std::vector<std::string>() : otherThan(*other, rule.needed);
    const bool shorter = !barred.empty() && barred.size() < rule.needed.size();
    return joined(rule.levels) + std::string(shorter ? without : needs) + std::string(name) + ": " +
           joined(shorter ? barred : rule.needed);
}

std::string rulesOf(const Game& game, const Setting& setting) {
    std::string out;
    for (const auto& rule : game.rules)
        if (rule.setting == setting.id) {
            const auto* other = game.setting(rule.other);
            const bool plain = other != nullptr && other->label.find_first_of(":;") == std::string::npos;
            out += (out.empty() ? "" : "; ") + textOf(game, rule, plain ? other->label : rule.other);
        }
    return out;
}

std::vector<Rule> brokenBy(std::span<const Rule> rules, const Values& values) {
    std::vector<Rule> out;
    for (const auto& rule : rules) {
        const auto now = values.find(rule.setting), other = values.find(rule.other);
        if (now == values.end() || other == values.end()) continue;
        if (holds(rule.levels, now->second) && !holds(rule.needed, other->second)) out.push_back(rule);
    }
    return out;
}

void dropOldRules(Game& game) {
    const auto keep = [&](const std::string& id, std::vector<std::string>& names) {
        const auto* setting = game.setting(id);
        std::erase_if(names, [&](const auto& name) { return setting == nullptr || !setting->levelIndex(name); });
        return !names.empty();
    };
    std::erase_if(game.rules,
                  [&](Rule& rule) { return !keep(rule.setting, rule.levels) || !keep(rule.other, rule.needed); });
}

void renameInRules(Game& game, std::string_view setting, const std::map<std::string, std::string>& renamed) {
    for (auto& rule : game.rules)
        for (const auto& [id, names] : {std::pair(&rule.setting, &rule.levels), {&rule.other, &rule.needed}})
            for (auto& name : *names)
                if (const auto it = renamed.find(name); *id == setting && it != renamed.end()) name = it->second;
}

} // namespace impasto::game
