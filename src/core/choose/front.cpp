// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/choose/front.h>

#include <cmath>

namespace impasto::choose {
namespace {

/// Nodes that one of many questions may take.
constexpr std::uint64_t fewNodes = 3'000;

Standpoint standpointOf(const Ground& ground, const cost::Set& set) {
    double rate = 60; // shares of a budget are the same at every rate ...
    auto filled = ground.chooser->filled(set, ground.room(Fps(rate)), usualSafety);
    Standpoint out;
    out.values = ground.valuesOf(set);
    out.picture = ground.chooser->picture(set);
    out.holds = Fps(filled.time > 0 ? rate / filled.time : 0);
    if (ground.inventedMs > 0 && filled.time > 0) { // ... but for what takes as long at each
        double low = 1, high = 2000;
        while (high - low > 0.01) {
            rate = (low + high) / 2;
            (ground.chooser->filled(set, ground.room(Fps(rate)), usualSafety).time <= 1 ? low : high) = rate;
        }
        out.holds = Fps(low);
    }
    out.memoryFits = filled.memory <= 1.0005;
    return out;
}

cost::Set cheapest(const Ground& ground) {
    cost::Set best;
    double rate = -1;
    const auto& allowed = ground.chooser->allowed();
    for (std::size_t g = 0; g < allowed.scales.size(); ++g) {
        if (!allowed.scales[g]) continue;
        cost::Set set{{}, g};
        for (const auto& dial : allowed.levels)
            set.levels.push_back(static_cast<std::size_t>(std::find(dial.begin(), dial.end(), true) - dial.begin()));
        if (const double here = standpointOf(ground, set).holds.value(); here > rate) {
            rate = here;
            best = std::move(set);
        }
    }
    return best;
}

/// Only this level of its setting.
std::optional<Allowed> forced(const Ground& ground, const cost::LevelKey& key) {
    const auto& layout = ground.belief().layout();
    Allowed allowed = ground.chooser->allowed();
    const auto only = [&](std::vector<bool>& list, const std::vector<std::string>& names) {
        const auto it = std::find(names.begin(), names.end(), key.level);
        if (it == names.end()) return false;
        list.assign(list.size(), false);
        list[static_cast<std::size_t>(it - names.begin())] = true;
        return true;
    };
    if (!layout.scaleSetting.empty() && key.setting == layout.scaleSetting)
        return only(allowed.scales, layout.scaleLevels) ? std::optional(std::move(allowed)) : std::nullopt;
    const auto dial = layout.dialOf(key.setting);
    if (!dial || !only(allowed.levels[*dial], layout.dials[*dial].levels)) return std::nullopt;
    return allowed;
}

/// Whether the level may be chosen at all.
Barred barredOf(const Ground& ground, const Allowed& only) {
    const auto& allowed = ground.chooser->allowed();
    const auto count = [](const std::vector<bool>& list) { return std::count(list.begin(), list.end(), true); };
    const auto judge = [&](const std::vector<bool>& now, const std::vector<bool>& wanted) {
        for (std::size_t i = 0; i < now.size(); ++i)
            if (wanted[i] && !now[i]) return count(now) == 1 ? Barred::Locked : Barred::CannotBeSet;
        return Barred::No;
    };
    for (std::size_t s = 0; s < allowed.levels.size(); ++s)
        if (only.levels[s] != allowed.levels[s]) return judge(allowed.levels[s], only.levels[s]);
    return only.scales == allowed.scales ? Barred::No : judge(allowed.scales, only.scales);
}

} // namespace

Result<Standpoint> standpointOf(const Ground& ground, const game::Values& values) {
    if (!ground.chooser) return fail(ErrorCode::LacksRuns, "1");
    const auto set = ground.belief().layout().setOf(values);
    if (!set) return fail(ErrorCode::UnknownName, values.empty() ? std::string() : values.begin()->second);
    return standpointOf(ground, *set);
}

Result<std::vector<Standpoint>> frontOf(const Ground& ground, const Context& context, std::size_t most) {
    if (!ground.chooser) return fail(ErrorCode::LacksRuns, "1");
    std::vector<Standpoint> out;
    const double fastest = standpointOf(ground, cheapest(ground)).holds.value();
    double rate = 1, step = 0;
    while (rate <= fastest) {
        const auto best = ground.chooser->best(ground.room(Fps(rate)), usualSafety, context, fewNodes);
        if (!best) return tl::unexpected(best.error());
        if (!best->fits) break;
        auto here = standpointOf(ground, best->set);
        if (out.empty())
            step =
                std::max(0.0, fastest - here.holds.value()) / static_cast<double>(std::max<std::size_t>(most, 2) - 1);
        rate = std::max({here.holds.value(), rate, 1.0}) + std::max(step, 1e-3 * rate);
        // A search that was ended early may find less than a later, harder one: what is beaten is left out.
        while (!out.empty() && out.back().picture <= here.picture) out.pop_back();
        out.push_back(std::move(here));
        if (context.cancelled()) return fail(ErrorCode::Cancelled);
    }
    return out;
}

Result<std::vector<Way>> waysTo(const Ground& ground, Fps target, const Context& context) {
    if (!ground.chooser) return fail(ErrorCode::LacksRuns, "1");
    const auto& layout = ground.belief().layout();
    std::vector<Way> out;
    if (layout.scaleSetting.empty()) return out;
    const auto room = ground.room(target);
    for (std::size_t g = 0; g < layout.scales.size(); ++g) {
        if (!ground.chooser->allowed().scales[g]) continue;
        auto only = forced(ground, {layout.scaleSetting, layout.scaleLevels[g]});
        const auto best = ground.chooser->bestOf(*only, room, usualSafety, context, fewNodes);
        if (!best) return tl::unexpected(best.error());
        if (best->fits) out.push_back({layout.scaleLevels[g], layout.scales[g], proposalOf(ground, *best, target)});
    }
    std::stable_sort(out.begin(), out.end(), [](const Way& a, const Way& b) { return a.scale > b.scale; });
    return out;
}

Result<Way> wayWithInvented(const Ground& ground, Fps base, double inventedMs, const Context& context) {
    if (!ground.chooser) return fail(ErrorCode::LacksRuns, "1");
    Ground with = ground;
    with.inventedMs = inventedMs;
    auto proposal = propose(with, base, context);
    if (!proposal) return tl::unexpected(proposal.error());
    const auto& layout = ground.belief().layout();
    Way way{{}, 1, std::move(*proposal), base, inventedMs};
    if (const auto set = layout.setOf(way.proposal.values); set && !layout.scaleSetting.empty()) {
        way.level = layout.scaleLevels[set->scale];
        way.scale = layout.scales[set->scale];
    }
    return way;
}

Result<WhyNot> whyNot(const Ground& ground, const game::Values& choice, Fps target, const cost::LevelKey& level,
                      const Context& context) {
    if (!ground.chooser) return fail(ErrorCode::LacksRuns, "1");
    const auto only = forced(ground, level);
    const auto now = choice.find(level.setting);
    if (!only || now == choice.end()) return fail(ErrorCode::UnknownName, level.level, {{}, {}, {}, level.setting});
    WhyNot out;
    out.setting = level.setting;
    out.from = now->second;
    out.to = level.level;
    out.barred = barredOf(ground, *only);
    auto values = choice;
    values[level.setting] = level.level;
    for (const auto& [side, set] : {std::pair(&out.chosen, &choice), {&out.swapped, &values}}) {
        auto standpoint = standpointOf(ground, *set);
        if (!standpoint) return tl::unexpected(standpoint.error());
        *side = std::move(*standpoint);
    }
    for (const auto& [lanes, set] : {std::pair(&out.before, &choice), {&out.after, &values}}) {
        auto outcome = outcomeOf(ground, *set, target);
        if (!outcome) return tl::unexpected(outcome.error());
        *lanes = std::move(*outcome);
    }
    for (const auto& lane : out.after)
        if (const double over = -lane.leftMs(); over > 0.001 * lane.usableMs) out.over.push_back({lane, over});
    const auto best = ground.chooser->bestOf(*only, ground.room(target), usualSafety, context);
    if (!best) return tl::unexpected(best.error());
    if (best->fits) out.with = proposalOf(ground, *best, target);
    return out;
}

} // namespace impasto::choose
