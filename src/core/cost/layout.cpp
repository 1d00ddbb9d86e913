// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/cost/layout.h>

#include <cmath>
#include <impasto/game/catalogue.h>

namespace impasto::cost {
namespace {

constexpr double bend = 1.4; // the upper levels cost more than the lower ones (common practice, no source)

Dial asDial(const game::Setting& setting) {
    const auto usual = game::usualOf(setting);
    Dial dial{setting.id, {}, {usual.cpuShare, usual.gpuShare, usual.memoryShare}, usual.pixelShare, {}};
    for (std::size_t l = 0; l < setting.levels.size(); ++l) {
        dial.levels.push_back(setting.levels[l].name);
        dial.rise.push_back(std::pow(static_cast<double>(l) / static_cast<double>(setting.levels.size() - 1), bend));
    }
    return dial;
}

std::optional<std::size_t> placeOf(const std::vector<std::string>& names, const game::Values& values,
                                   const std::string& setting) {
    const auto value = values.find(setting);
    if (value == values.end()) return std::nullopt;
    const auto it = std::find(names.begin(), names.end(), value->second);
    return it == names.end() ? std::nullopt : std::optional(static_cast<std::size_t>(it - names.begin()));
}

} // namespace

Layout Layout::of(const game::Game& game, const game::Values& baseline, std::vector<std::string> parts) {
    Layout out;
    out.parts = std::move(parts);
    for (const auto& setting : game.settings) {
        const auto now = baseline.find(setting.id);
        if (now == baseline.end()) continue;
        if (setting.levels.front().scale && out.scaleSetting.empty()) {
            out.scaleSetting = setting.id;
            for (const auto& level : setting.levels) {
                out.scaleLevels.push_back(level.name);
                out.scales.push_back(level.scale.value_or(1));
            }
        } else if (setting.weight > 0) {
            out.dials.push_back(asDial(setting));
        } else {
            out.fixed.insert(*now);
        }
    }
    if (out.scaleSetting.empty()) {
        out.scaleLevels = {""};
        out.scales = {1};
    }
    return out;
}

std::optional<Set> Layout::setOf(const game::Values& values) const {
    Set set;
    for (const auto& dial : dials) {
        const auto level = placeOf(dial.levels, values, dial.setting);
        if (!level) return std::nullopt;
        set.levels.push_back(*level);
    }
    if (scaleSetting.empty()) return set;
    const auto scale = placeOf(scaleLevels, values, scaleSetting);
    if (!scale) return std::nullopt;
    set.scale = *scale;
    return set;
}

game::Values Layout::valuesOf(const Set& set) const {
    game::Values out = fixed;
    for (std::size_t s = 0; s < dials.size(); ++s) out[dials[s].setting] = dials[s].levels[set.levels[s]];
    if (!scaleSetting.empty()) out[scaleSetting] = scaleLevels[set.scale];
    return out;
}

std::optional<std::size_t> Layout::dialOf(std::string_view setting) const {
    for (std::size_t s = 0; s < dials.size(); ++s)
        if (dials[s].setting == setting) return s;
    return std::nullopt;
}

} // namespace impasto::cost
