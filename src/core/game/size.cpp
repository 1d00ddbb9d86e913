// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/game/size.h>

#include <algorithm>
#include <cmath>
#include <fmt/core.h>
#include <impasto/base/text.h>

namespace impasto::game {
namespace {

/// A setting that changes the size, with a level of it.
struct Held {
    const Setting* setting;
    std::size_t level;
};

double awayFromFull(const Level& level) {
    return std::abs(level.scale.value_or(1) - 1);
}

/// The level nearest to full size; of several the one that shows most.
std::size_t fullLevel(const Setting& setting) {
    std::size_t best = 0;
    for (std::size_t l = 1; l < setting.levels.size(); ++l)
        if (awayFromFull(setting.levels[l]) <= awayFromFull(setting.levels[best])) best = l;
    return best;
}

Size asSize(const std::vector<Held>& held) {
    Size out;
    for (const auto& [setting, index] : held) {
        const auto& level = setting->levels[index];
        out.levels[setting->id] = level.name;
        out.scale *= level.scale.value_or(1);
        if (level.upscaler) out.upscaler = level.upscaler;
        if (index == fullLevel(*setting)) continue;
        if (out.setting.empty()) out.setting = setting->id;
        out.name += (out.name.empty() ? "" : " + ") + level.name;
    }
    if (out.setting.empty() && !held.empty()) {
        out.setting = held.front().setting->id;
        out.name = held.front().setting->levels[held.front().level].name;
    }
    if (!out.upscaler && out.scale != 1) out.upscaler = UpscalerKind::Engine;
    return out;
}

std::vector<Held> heldOf(const Game& game, const Values& values) {
    std::vector<Held> out;
    for (const auto& setting : game.settings)
        if (const auto value = values.find(setting.id); setting.changesSize() && value != values.end())
            out.push_back({&setting, setting.levelIndex(value->second).value_or(fullLevel(setting))});
    return out;
}

/// "75%" of the output per axis.
std::optional<Level> scaledLevel(const std::string& text) {
    const auto percent = text.ends_with('%') ? parseDouble(text.substr(0, text.size() - 1)) : std::nullopt;
    if (!percent || !(*percent >= 10 && *percent <= 200)) return std::nullopt;
    const double picture = *percent < 100 ? upscaledLevel(UpscalerKind::Engine, 100 / *percent).picture : 1.0;
    return Level{text, picture, *percent / 100};
}

} // namespace

std::vector<Level> levelsNamed(const Setting& before, const std::vector<std::string>& names) {
    std::vector<Level> out;
    const bool sameCount = names.size() == before.levels.size();
    for (std::size_t i = 0; i < names.size(); ++i) {
        const auto known = before.levelIndex(names[i]);
        Level level{names[i], static_cast<double>(i) / static_cast<double>(names.size() - 1), {}};
        if (sameCount) {
            level = before.levels[i];
        } else if (known) {
            level.scale = before.levels[*known].scale;
            level.upscaler = before.levels[*known].upscaler;
            if (level.scale) level.picture = before.levels[*known].picture;
        }
        if (!known || (sameCount && *known != i)) {
            if (auto said = upscaledLevel(names[i]))
                level = std::move(*said);
            else if (said = scaledLevel(names[i]); said && !before.levels.empty() && before.changesSize())
                level = std::move(*said);
        }
        level.name = names[i];
        out.push_back(std::move(level));
    }
    if (std::any_of(out.begin(), out.end(), [](const Level& level) { return level.scale.has_value(); }))
        for (auto& level : out)
            if (!level.scale) { // as it is played without
                level.scale = 1;
                level.picture = 1;
            }
    return out;
}

Level upscaledLevel(UpscalerKind kind, double ratio) {
    const auto lossAtTwo = [kind] {
        switch (kind) {
        case UpscalerKind::Learned:
            return 0.16;
        case UpscalerKind::Temporal:
            return 0.22;
        case UpscalerKind::Spatial:
            return 0.36;
        case UpscalerKind::Engine:
            break;
        }
        return 0.5;
    };
    const double picture = std::clamp(1 - lossAtTwo() * std::pow(ratio - 1, 1.36), 0.0, 1.0);
    return {fmt::format("{} {:.1f}", keyOf(kind), ratio), picture, 1 / ratio, {}, kind};
}

std::optional<Level> upscaledLevel(std::string_view text) {
    const auto space = text.find(' ');
    const auto kind = space == std::string_view::npos ? std::nullopt : upscalerKindOf(text.substr(0, space));
    const auto ratio = kind ? parseDouble(text.substr(space + 1)) : std::nullopt;
    if (!ratio || !(*ratio >= 1 && *ratio <= 4)) return std::nullopt;
    auto level = upscaledLevel(*kind, *ratio);
    level.name = text;
    return level;
}

Size sizeOf(const Game& game, const Values& values) {
    return asSize(heldOf(game, values));
}

std::vector<Size> sizesOf(const Game& game, const Values& now) {
    const auto present = heldOf(game, now);
    auto full = present;
    for (auto& held : full) held.level = fullLevel(*held.setting);
    std::vector<Size> out;
    const auto add = [&out](const std::vector<Held>& held) {
        auto size = asSize(held);
        if (std::find(out.begin(), out.end(), size) == out.end()) out.push_back(std::move(size));
    };
    for (std::size_t s = 0; s < full.size(); ++s)
        for (std::size_t l = 0; l < full[s].setting->levels.size(); ++l) {
            auto held = full;
            held[s].level = l;
            add(held);
        }
    add(present);
    return out;
}

} // namespace impasto::game
