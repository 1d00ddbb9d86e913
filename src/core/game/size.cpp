// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/game/size.h>

#include <algorithm>
#include <cmath>
#include <fmt/core.h>
#include <impasto/base/text.h>
#include <impasto/game/levels.h>

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
        if (setting->output) out.output *= level.scale.value_or(1);
        if (level.upscaler) out.upscaler = level.upscaler;
        if (index == fullLevel(*setting)) continue;
        if (out.setting.empty()) out.setting = setting->id;
        out.name += (out.name.empty() ? "" : " + ") + level.name;
    }
    if (out.setting.empty() && !held.empty()) {
        out.setting = held.front().setting->id;
        out.name = held.front().setting->levels[held.front().level].name;
    }
    if (!out.upscaler && out.scale != out.output) out.upscaler = UpscalerKind::Engine;
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

/// 1 less k (ratio - 1)^1.36: what a picture loses that is made from less (common practice, no source).
double pictureAt(double ratio, double lossAtTwo) {
    return std::clamp(1 - lossAtTwo * std::pow(ratio - 1, 1.36), 0.0, 1.0);
}

/// "1920x1080", "1920 × 1080".
std::optional<display::Resolution> resolutionNamed(std::string_view name) {
    std::string plain;
    for (std::size_t i = 0; i < name.size(); ++i) {
        constexpr std::string_view times = "\xC3\x97";
        if (name.substr(i).starts_with(times)) {
            plain += 'x';
            i += times.size() - 1;
        } else if (name[i] != ' ') {
            plain += name[i];
        }
    }
    return display::parseResolution(plain);
}

const Setting* outputSetting(const Game& game) {
    const auto it = std::find_if(game.settings.begin(), game.settings.end(), [](const auto& s) { return s.output; });
    return it == game.settings.end() ? nullptr : &*it;
}

/// All are sizes of a picture that is wider than high.
bool areOutputs(const std::vector<std::string>& names) {
    return names.size() <= mostOutputs && std::all_of(names.begin(), names.end(), [](const std::string& name) {
               const auto size = resolutionNamed(name);
               return size && size->widthPx > size->heightPx;
           });
}

} // namespace

bool asOutputs(Setting& setting, bool pictures) {
    double before = 0;
    std::vector<double> pixels;
    for (const auto& level : setting.levels) {
        const auto size = resolutionNamed(level.name);
        pixels.push_back(size ? display::megapixelsOf(*size).value() : 0);
        if (pixels.back() <= before) return false;
        before = pixels.back();
    }
    for (std::size_t i = 0; i < pixels.size(); ++i) {
        auto& level = setting.levels[i];
        level.scale = std::sqrt(pixels[i] / pixels.back());
        if (pictures) level.picture = pictureAt(1 / *level.scale, 0.55);
    }
    return true;
}

std::optional<display::Resolution> outputOf(const Game& game, const Values& values) {
    const auto* setting = outputSetting(game);
    const auto value = setting == nullptr ? values.end() : values.find(setting->id);
    return value == values.end() ? std::nullopt : resolutionNamed(value->second);
}

std::optional<display::Resolution> fullOutputOf(const Game& game) {
    const auto* setting = outputSetting(game);
    return setting == nullptr ? std::nullopt : resolutionNamed(setting->levels.back().name);
}

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

std::optional<Setting> withLevels(Setting before, std::string_view text) {
    const auto names = levelNames(text);
    if (!names) return std::nullopt;
    Setting out = before;
    out.unordered = saysUnordered(text);
    if (out.unordered) {
        out.output = false;
        out.levels.clear();
        for (std::size_t i = 0; i < names->size(); ++i) {
            const auto known = before.unordered ? before.levelIndex((*names)[i]) : std::nullopt;
            out.levels.push_back(known ? before.levels[*known] : Level{(*names)[i], 1.0, {}});
        }
        return out;
    }
    if (areOutputs(*names)) {
        out.output = true;
        out.levels.clear();
        for (const auto& name : *names) out.levels.push_back({name, 1.0, {}});
        std::stable_sort(out.levels.begin(), out.levels.end(), [](const Level& a, const Level& b) {
            return display::megapixelsOf(*resolutionNamed(a.name)) < display::megapixelsOf(*resolutionNamed(b.name));
        });
        if (!asOutputs(out, true)) return std::nullopt;
        for (auto& level : out.levels)
            if (const auto known = before.output ? before.levelIndex(level.name) : std::nullopt) {
                level.picture = before.levels[*known].picture;
                level.written = before.levels[*known].written;
            }
        return out;
    }
    if (before.unordered || before.output) before.levels.clear(); // what they showed says nothing of an order
    out.output = false;
    out.levels = levelsNamed(before, *names);
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
    return {fmt::format("{} {:.1f}", keyOf(kind), ratio), pictureAt(ratio, lossAtTwo()), 1 / ratio, {}, kind};
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
    const auto eachLevel = [](const std::vector<Held>& from, std::size_t s, const auto& then) {
        for (std::size_t l = 0; l < from[s].setting->levels.size(); ++l) {
            auto held = from;
            held[s].level = l;
            then(held);
        }
    };
    const auto each = [&](const std::vector<Held>& from) {
        for (std::size_t s = 0; s < from.size(); ++s)
            if (!from[s].setting->output) eachLevel(from, s, add);
    };
    const auto output = std::find_if(full.begin(), full.end(), [](const Held& held) { return held.setting->output; });
    if (output == full.end())
        each(full);
    else
        eachLevel(full, static_cast<std::size_t>(output - full.begin()), [&](const std::vector<Held>& at) {
            add(at);
            each(at);
        });
    add(present);
    return out;
}

} // namespace impasto::game
