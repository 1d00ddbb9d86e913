// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/choose/front.h>

#include <impasto/game/rules.h>

#include <cmath>

namespace impasto::choose {
namespace {

/// What one of a few questions may take: what it finds may still be proven best.
Pains oneOfFew(Footings& footings) {
    return {.nodes = 3'000, .footings = &footings};
}

/// And one of many: their pictures are read in whole hundredths.
Pains oneOfMany(Footings& footings) {
    return {.nodes = 1'000, .mayMiss = 0.002, .footings = &footings};
}

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
    out.memoryFits = filled.memory <= fitTolerance;
    return out;
}

cost::Set cheapest(const Ground& ground) {
    cost::Set best;
    double rate = -1;
    for (const auto& allowed : ground.chooser->allowed().apart())
        for (std::size_t g = 0; g < allowed.sizes.size(); ++g) {
            if (!allowed.sizes[g]) continue;
            cost::Set set{{}, g};
            for (const auto& dial : allowed.levels)
                set.levels.push_back(
                    static_cast<std::size_t>(std::find(dial.begin(), dial.end(), true) - dial.begin()));
            if (const double here = standpointOf(ground, set).holds.value(); here > rate) {
                rate = here;
                best = std::move(set);
            }
        }
    return best;
}

/// Sizes that hold this level.
std::vector<bool> sizesWith(const cost::Layout& layout, const cost::LevelKey& key) {
    std::vector<bool> out;
    for (const auto& size : layout.sizes) {
        const auto held = size.levels.find(key.setting);
        out.push_back(held != size.levels.end() && held->second == key.level);
    }
    return out;
}

/// Only this level of its setting.
std::optional<Allowed> forced(const Ground& ground, const cost::LevelKey& key) {
    const auto& layout = ground.belief().layout();
    Allowed allowed = ground.chooser->allowed();
    if (auto sized = sizesWith(layout, key); std::find(sized.begin(), sized.end(), true) != sized.end()) {
        auto both = sized;
        for (std::size_t g = 0; g < both.size(); ++g) both[g] = both[g] && allowed.sizes[g];
        const bool any = std::find(both.begin(), both.end(), true) != both.end();
        allowed.sizes = any ? std::move(both) : std::move(sized);
        return allowed;
    }
    const auto dial = layout.dialOf(key.setting);
    if (!dial) return std::nullopt;
    const auto& names = layout.dials[*dial].levels;
    const auto it = std::find(names.begin(), names.end(), key.level);
    if (it == names.end()) return std::nullopt;
    auto& list = allowed.levels[*dial];
    list.assign(list.size(), false);
    list[static_cast<std::size_t>(it - names.begin())] = true;
    return allowed;
}

/// Whether the level may be chosen at all.
Barred barredOf(const Ground& ground, const Allowed& only) {
    const auto& allowed = ground.chooser->allowed();
    const auto judge = [](const std::vector<bool>& now, const std::vector<bool>& wanted) {
        for (std::size_t i = 0; i < now.size(); ++i)
            if (wanted[i] && now[i]) return Barred::No;
        return std::count(now.begin(), now.end(), true) == 1 ? Barred::Locked : Barred::CannotBeSet;
    };
    for (std::size_t s = 0; s < allowed.levels.size(); ++s)
        if (only.levels[s] != allowed.levels[s]) return judge(allowed.levels[s], only.levels[s]);
    return judge(allowed.sizes, only.sizes);
}

} // namespace

Result<Standpoint> standpointOf(const Ground& ground, const game::Values& values) {
    if (!ground.chooser) return fail(ErrorCode::LacksRuns, "1");
    const auto set = ground.belief().layout().setOf(values);
    if (!set) return fail(ErrorCode::UnknownName, values.empty() ? std::string() : values.begin()->second);
    return standpointOf(ground, *set);
}

Fps fastestOf(const Ground& ground) {
    return ground.chooser ? standpointOf(ground, cheapest(ground)).holds : Fps(0);
}

Result<std::vector<Standpoint>> frontOf(const Ground& ground, const Context& context, std::size_t most) {
    if (!ground.chooser) return fail(ErrorCode::LacksRuns, "1");
    std::vector<Standpoint> out;
    const double fastest = fastestOf(ground).value();
    Footings footings;
    double rate = 1, step = 0;
    while (rate <= fastest) {
        const auto best = ground.chooser->best(ground.room(Fps(rate)), usualSafety, context, oneOfMany(footings));
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
    if (layout.sizes.size() < 2) return out;
    const auto room = ground.room(target);
    Footings footings;
    for (std::size_t g = 0; g < layout.sizes.size(); ++g) {
        auto only = ground.chooser->allowed();
        if (!only.sizes[g]) continue;
        only.sizes.assign(layout.sizes.size(), false);
        only.sizes[g] = true;
        const auto best = ground.chooser->bestOf(only, room, usualSafety, context, oneOfFew(footings));
        if (!best) return tl::unexpected(best.error());
        if (best->fits) out.push_back({layout.sizes[g], proposalOf(ground, *best, target)});
    }
    std::stable_sort(out.begin(), out.end(), [](const Way& a, const Way& b) { return a.size.scale > b.size.scale; });
    return out;
}

Result<std::optional<LeastMemory>> leastMemoryFor(const Ground& ground, Fps target, double picture,
                                                  const Context& context) {
    constexpr double fine = 16; // MiB
    if (!ground.chooser) return fail(ErrorCode::LacksRuns, "1");
    const auto& resources = ground.belief().resources();
    const auto memory = std::find(resources.begin(), resources.end(), cost::Resource::GpuMemory);
    std::optional<LeastMemory> out;
    if (memory == resources.end()) return out;
    auto room = ground.room(target);
    auto& most = room[static_cast<std::size_t>(memory - resources.begin())].front();
    // Enough for whatever is chosen; then half of what is left between too little and enough, again and again.
    double enough = 0, little = 0;
    Footings footings;
    const auto& layout = ground.belief().layout();
    for (std::size_t g = 0; g < layout.sizes.size(); ++g) {
        cost::Set highest{{}, g};
        for (const auto& dial : layout.dials) highest.levels.push_back(dial.levels.size() - 1);
        const auto told = ground.belief().tell(cost::Resource::GpuMemory, 0, highest);
        enough = std::max(enough, 2 * (told.mean + 4 * std::sqrt(told.variance)));
    }
    for (bool first = true; first || enough - little > fine; first = false) {
        const double tried = first ? enough : (little + enough) / 2;
        most = tried;
        const auto best = ground.chooser->best(room, usualSafety, context, oneOfFew(footings));
        if (!best) return tl::unexpected(best.error());
        const bool fits = best->fits && best->picture >= picture - 1e-9;
        if (first && !fits) return out;
        (fits ? enough : little) = tried;
        if (fits) out = LeastMemory{Mebibytes(tried / usableMemoryShare), proposalOf(ground, *best, target)};
    }
    return out;
}

Result<Way> wayWithInvented(const Ground& ground, Fps base, double inventedMs, const Context& context) {
    if (!ground.chooser) return fail(ErrorCode::LacksRuns, "1");
    Ground with = ground;
    with.inventedMs = inventedMs;
    auto proposal = propose(with, base, context);
    if (!proposal) return tl::unexpected(proposal.error());
    const auto& layout = ground.belief().layout();
    const auto set = layout.setOf(proposal->values);
    return Way{layout.sizes[set ? set->size : 0], std::move(*proposal), base, inventedMs};
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
    if (out.barred == Barred::No && only->apart().empty()) out.barred = Barred::ByRules;
    const auto& layout = ground.belief().layout();
    auto values = choice;
    values[level.setting] = level.level;
    if (const auto set = layout.setOf(choice))
        if (const auto size = layout.sizeWith(set->size, level.setting, level.level))
            for (const auto& [setting, held] : layout.sizes[*size].levels) values[setting] = held;
    out.broken = game::brokenBy(ground.rules, values);
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
