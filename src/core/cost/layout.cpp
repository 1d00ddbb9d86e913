// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/cost/layout.h>

#include <cmath>
#include <impasto/game/catalogue.h>

namespace impasto::cost {
namespace {

constexpr double bend = 1.4; // the upper levels cost more than the lower ones (common practice, no source)

Dial asDial(const game::Setting& setting, std::string_view now) {
    const auto usual = game::usualOf(setting);
    Dial dial{setting.id,
              {},
              {usual.cpuShare, usual.gpuShare, usual.memoryShare},
              usual.pixelShare,
              {},
              !setting.unordered,
              setting.levelIndex(now).value_or(0)};
    for (std::size_t l = 0; l < setting.levels.size(); ++l) {
        dial.levels.push_back(setting.levels[l].name);
        dial.rise.push_back(
            dial.ordered ? std::pow(static_cast<double>(l) / static_cast<double>(setting.levels.size() - 1), bend) : 1);
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
        if (setting.changesSize()) continue;
        if (setting.weight > 0) {
            out.dials.push_back(asDial(setting, now->second));
        } else {
            out.fixed.insert(*now);
        }
    }
    out.sizes = game::sizesOf(game, baseline);
    return out;
}

std::optional<Set> Layout::setOf(const game::Values& values) const {
    Set set;
    for (const auto& dial : dials) {
        const auto level = placeOf(dial.levels, values, dial.setting);
        if (!level) return std::nullopt;
        set.levels.push_back(*level);
    }
    const auto size = std::find_if(sizes.begin(), sizes.end(), [&](const game::Size& each) {
        return std::all_of(each.levels.begin(), each.levels.end(), [&](const auto& held) {
            const auto value = values.find(held.first);
            return value != values.end() && value->second == held.second;
        });
    });
    if (size == sizes.end()) return std::nullopt;
    set.size = static_cast<std::size_t>(size - sizes.begin());
    return set;
}

game::Values Layout::valuesOf(const Set& set) const {
    game::Values out = fixed;
    for (std::size_t s = 0; s < dials.size(); ++s) out[dials[s].setting] = dials[s].levels[set.levels[s]];
    for (const auto& [setting, level] : sizes[set.size].levels) out[setting] = level;
    return out;
}

std::optional<std::size_t> Layout::dialOf(std::string_view setting) const {
    for (std::size_t s = 0; s < dials.size(); ++s)
        if (dials[s].setting == setting) return s;
    return std::nullopt;
}

std::optional<std::size_t> Layout::sizeWith(std::size_t size, const std::string& setting,
                                            const std::string& level) const {
    std::optional<std::size_t> best;
    std::size_t most = 0;
    for (std::size_t g = 0; g < sizes.size(); ++g) {
        const auto held = sizes[g].levels.find(setting);
        if (held == sizes[g].levels.end() || held->second != level) continue;
        const auto shared =
            1 + static_cast<std::size_t>(
                    std::count_if(sizes[g].levels.begin(), sizes[g].levels.end(),
                                  [&](const auto& each) { return sizes[size].levels.at(each.first) == each.second; }));
        // Of those that are as near, the one that departs least from full size.
        const bool nearer = shared > most, fuller = shared == most && sizes[g].scale > sizes[*best].scale;
        if (!nearer && !fuller) continue;
        most = shared;
        best = g;
    }
    return best;
}

std::size_t Layout::leastSize() const {
    const auto least =
        std::min_element(sizes.begin(), sizes.end(), [](const auto& a, const auto& b) { return a.scale < b.scale; });
    return static_cast<std::size_t>(least - sizes.begin());
}

} // namespace impasto::cost
