// SPDX-License-Identifier: GPL-3.0-or-later
// Which sets may be chosen: locks, what cannot be set, and what the game's settings ask of each other.
#include <impasto/choose/chooser.h>

#include <algorithm>

namespace impasto::choose {
namespace {

bool any(const std::vector<bool>& list) {
    return std::find(list.begin(), list.end(), true) != list.end();
}

std::vector<bool> both(std::vector<bool> a, const std::vector<bool>& b, bool wanted = true) {
    for (std::size_t i = 0; i < a.size(); ++i) a[i] = a[i] && b[i] == wanted;
    return a;
}

/// The levels, or the sizes with them; nothing where the setting is not varied.
std::optional<Allowed::Half> halfOf(const cost::Layout& layout, const std::string& setting,
                                    const std::vector<std::string>& levels) {
    const auto named = [&](const std::string& level) {
        return std::find(levels.begin(), levels.end(), level) != levels.end();
    };
    Allowed::Half out;
    if (const auto dial = layout.dialOf(setting)) {
        out.dial = dial;
        for (const auto& level : layout.dials[*dial].levels) out.at.push_back(named(level));
        return out;
    }
    for (const auto& size : layout.sizes) {
        const auto held = size.levels.find(setting);
        if (held == size.levels.end()) return std::nullopt;
        out.at.push_back(named(held->second));
    }
    return out;
}

std::vector<bool>& listOf(Allowed& allowed, const Allowed::Half& half) {
    return half.dial ? allowed.levels[*half.dial] : allowed.sizes;
}

void addRule(Allowed& allowed, const cost::Layout& layout, const game::Rule& rule) {
    const auto when = halfOf(layout, rule.setting, rule.levels), then = halfOf(layout, rule.other, rule.needed);
    const auto stands = [&](const std::string& setting, const std::vector<std::string>& levels) {
        const auto it = layout.fixed.find(setting);
        return it != layout.fixed.end() && std::find(levels.begin(), levels.end(), it->second) != levels.end();
    };
    if (when && then) {
        allowed.rules.push_back({*when, *then});
    } else if (then && stands(rule.setting, rule.levels)) {
        auto& list = listOf(allowed, *then);
        if (auto less = both(list, then->at); any(less)) list = std::move(less);
    } else if (when && layout.fixed.contains(rule.other) && !stands(rule.other, rule.needed)) {
        auto& list = listOf(allowed, *when);
        if (auto less = both(list, when->at, false); any(less)) list = std::move(less);
    }
}

} // namespace

Allowed Allowed::of(const cost::Layout& layout, const game::Values& locked,
                    const std::vector<std::pair<std::string, std::string>>& cannot, std::span<const game::Rule> asked) {
    const auto is = [&](const std::string& setting, const std::string& level) {
        const auto held = locked.find(setting);
        if (held != locked.end()) return held->second == level;
        return std::find(cannot.begin(), cannot.end(), std::pair(setting, level)) == cannot.end();
    };
    Allowed out;
    for (const auto& dial : layout.dials) {
        auto& list = out.levels.emplace_back();
        for (const auto& level : dial.levels) list.push_back(is(dial.setting, level));
        if (!any(list)) list.assign(list.size(), true);
    }
    // Those that break the fewest: render scale and upscaler may both be locked where no size holds both.
    std::vector<std::ptrdiff_t> broken;
    for (const auto& size : layout.sizes)
        broken.push_back(std::count_if(size.levels.begin(), size.levels.end(),
                                       [&](const auto& held) { return !is(held.first, held.second); }));
    const auto fewest = *std::min_element(broken.begin(), broken.end());
    for (const auto each : broken) out.sizes.push_back(each == fewest);
    for (const auto& rule : asked) addRule(out, layout, rule);
    out.rulesKept = !out.apart().empty();
    if (!out.rulesKept) out.rules.clear();
    return out;
}

bool Allowed::obeyed(const cost::Set& set) const {
    return std::all_of(rules.begin(), rules.end(), [&](const Rule& rule) { return rule.obeyed(set); });
}

bool Allowed::has(const cost::Set& set) const {
    for (std::size_t s = 0; s < levels.size(); ++s)
        if (!levels[s][set.levels[s]]) return false;
    return sizes[set.size] && obeyed(set);
}

/// A rule splits the sets in two: those it does not concern, and those that do what it asks.
std::vector<Allowed> Allowed::apart() const {
    std::vector<Allowed> out{*this};
    out.front().rules.clear();
    for (const auto& rule : rules) {
        std::vector<Allowed> next;
        for (auto& each : out) {
            const auto& now = listOf(each, rule.when);
            const auto concerned = both(now, rule.when.at), rest = both(now, rule.when.at, false);
            if (any(concerned)) {
                Allowed doing = each;
                listOf(doing, rule.when) = concerned;
                auto& asked = listOf(doing, rule.then);
                asked = both(asked, rule.then.at);
                if (any(asked)) next.push_back(std::move(doing));
            }
            if (any(rest)) {
                listOf(each, rule.when) = rest;
                next.push_back(std::move(each));
            }
        }
        out = std::move(next);
    }
    return out;
}

cost::Set Allowed::obeying(cost::Set set) const {
    for (std::size_t look = 0; look <= rules.size(); ++look)
        for (const auto& rule : rules) {
            if (rule.obeyed(set)) continue;
            auto& level = rule.then.dial ? set.levels[*rule.then.dial] : set.size;
            const auto& open = rule.then.dial ? levels[*rule.then.dial] : sizes;
            for (std::size_t l = open.size(); l > 0; --l)
                if (open[l - 1] && rule.then.at[l - 1]) {
                    level = l - 1;
                    break;
                }
        }
    return set;
}

} // namespace impasto::choose
