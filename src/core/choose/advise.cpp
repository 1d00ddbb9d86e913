// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/choose/chooser.h>

#include <impasto/base/random.h>

namespace impasto::choose {
namespace {

constexpr std::size_t draws = 12, disturbed = 14;

void addTo(std::vector<cost::Set>& sets, const cost::Set& set) {
    if (std::find(sets.begin(), sets.end(), set) == sets.end()) sets.push_back(set);
}

/// A set with some of its dials turned to an end.
cost::Set disturbedOf(const Chooser& chooser, cost::Set set, bool native, RandomStream& random) {
    const auto& allowed = chooser.allowed();
    const auto& sizes = chooser.belief().layout().sizes;
    if (native)
        for (std::size_t g = 0; g < sizes.size(); ++g)
            if (allowed.sizes[g] && sizes[g].scale > sizes[set.size].scale) set.size = g;
    for (std::size_t s = 0; s < set.levels.size(); ++s) {
        const auto& open = allowed.levels[s];
        const double u = random.uniform();
        if (!chooser.belief().layout().dials[s].ordered) { // no way to run is an end
            const std::size_t l = random.below(open.size());
            if (u < 0.6 && open[l]) set.levels[s] = l;
        } else if (u < 0.3)
            set.levels[s] = static_cast<std::size_t>(std::find(open.begin(), open.end(), true) - open.begin());
        else if (u < 0.6)
            set.levels[s] =
                open.size() - 1 - static_cast<std::size_t>(std::find(open.rbegin(), open.rend(), true) - open.rbegin());
    }
    return allowed.obeying(std::move(set));
}

/// From frame times alone a run at the least rendered size tells CPU and GPU apart; nothing where it was made.
std::optional<cost::Set> ladderOf(const Chooser& chooser, const std::vector<cost::Set>& tried) {
    const auto& sizes = chooser.belief().layout().sizes;
    if (!chooser.belief().hidden() || tried.empty()) return std::nullopt;
    cost::Set set = tried.front();
    for (std::size_t g = 0; g < sizes.size(); ++g)
        if (chooser.allowed().sizes[g] && sizes[g].scale < sizes[set.size].scale) set.size = g;
    set = chooser.allowed().obeying(std::move(set));
    const bool made = std::any_of(tried.begin(), tried.end(),
                                  [&](const cost::Set& t) { return sizes[t.size].scale <= sizes[set.size].scale; });
    return made ? std::nullopt : std::optional(set);
}

} // namespace

Result<Advice> advise(const Chooser& chooser, const Room& room, const std::vector<cost::Set>& tried, double enough,
                      std::uint64_t seed, const Context& context) {
    constexpr std::uint64_t nodes = 20'000;
    Advice out;
    // Few frame times leave more open than the model says.
    const bool few = chooser.belief().hidden() && chooser.belief().runs() < 8;
    auto best = chooser.best(room, few ? 1.8 : usualSafety, context);
    if (!best) return tl::unexpected(best.error());
    out.best = std::move(*best);
    out.standing = chooser.standing(out.best.set, room);
    std::vector<cost::Set> about;
    double more = 0;
    Footings drawn;
    for (std::size_t i = 0; i < draws; ++i) {
        if (context.cancelled()) return fail(ErrorCode::Cancelled);
        const auto found = chooser.best(room, chooser.belief().draw(seed + i, out.best.set), &drawn);
        if (!found) continue;
        more += std::max(0.0, found->picture - out.best.picture) / static_cast<double>(draws);
        addTo(about, found->set);
    }
    out.gain = more / std::max(out.best.picture, 0.01);
    for (std::size_t s = 0; s < chooser.allowed().levels.size(); ++s)
        if (std::any_of(about.begin(), about.end(),
                        [&](const cost::Set& set) { return set.levels[s] != about.front().levels[s]; }))
            out.asks.push_back(s);
    out.next = ladderOf(chooser, tried);
    out.ladder = out.next.has_value();
    if (out.next || (out.best.fits && out.gain <= enough)) return out;
    if (!out.best.fits) {
        // Whether anything can fit is asked of the set that is surest; where that leaves no hope, nothing more is.
        if (std::find(tried.begin(), tried.end(), out.best.set) == tried.end()) out.next = out.best.set;
        if (out.next || out.standing.sure < -usualSafety) return out;
    }
    for (const double safety : {0.0, 0.6}) {
        const auto found = chooser.best(room, safety, context, {.nodes = nodes});
        if (!found) return tl::unexpected(found.error());
        addTo(about, found->set);
    }
    addTo(about, out.best.set);
    std::vector<cost::Set> sets = about;
    RandomStream random(seed, "disturbed sets");
    for (std::size_t i = 0; i < disturbed; ++i)
        addTo(sets,
              disturbedOf(chooser, i % 2 == 0 ? out.best.set : about[random.below(about.size())], i % 3 == 0, random));
    std::erase_if(sets, [&](const cost::Set& set) {
        return std::count(tried.begin(), tried.end(), set) > 0 || !chooser.allowed().has(set);
    });
    const auto worth = chooser.belief().worthOf(sets, about, room);
    if (!sets.empty())
        out.next = sets[static_cast<std::size_t>(std::max_element(worth.begin(), worth.end()) - worth.begin())];
    return out;
}

} // namespace impasto::choose
