// SPDX-License-Identifier: GPL-3.0-or-later
#include "stations/layers/stack.h"

#include "stations/layers/walks.h"

#include <algorithm>

namespace impasto::app {

std::optional<Difference> differenceOf(const View& view, const choose::LaneCosts& lane, const std::string& setting,
                                       const std::string& level) {
    const auto it = view.edits().settings.baseline.find(setting);
    if (it != view.edits().settings.baseline.end() && it->second == level) return Difference{};
    const auto index = lane.levels.indexOf({setting, level});
    if (!index) return std::nullopt;
    return Difference{lane.levels.estimate[*index], lane.levels.halfWidth(*index)};
}

namespace {

/// Where the walk's next step goes, by setting.
int stepAt(const View& view, const game::Setting& setting, const game::Values& from) {
    const auto* next = view.get<results::NextRun>();
    if (next == nullptr || !next->values) return 0;
    const auto before = setting.levelIndex(from.at(setting.id)),
               after = setting.levelIndex(next->values->at(setting.id));
    return !before || !after || *before == *after ? 0 : *after < *before ? -1 : 1;
}

} // namespace

std::vector<Stack> stacksOf(const View& view, const std::optional<game::Values>& values) {
    constexpr double thin = 0.02, sure = 1.96, seenOften = 2; // ms, deviations, runs
    std::vector<Stack> out;
    const auto* game = view.session.game();
    const auto* costs = view.get<results::Costs>();
    if (costs == nullptr || game == nullptr || !costs->ground.chooser) return out;
    const auto* walking = values ? nullptr : stepOf(view);
    const game::Values shown = values    ? *values
                               : walking ? costs->ground.valuesOf(*walking->stride.from)
                                         : view.edits().settings.baseline;
    for (const auto& lane : costs->lanes) {
        const auto slabs = choose::slabsOf(costs->ground, lane.lane, lane.worstPart, shown);
        if (!slabs) continue;
        Stack stack{lane.lane, {}, slabs->totalMs, sure * slabs->standardErrorMs};
        double fixed = 0;
        for (const auto& slab : slabs->slabs) {
            const auto* setting = game->setting(slab.setting);
            if (setting == nullptr || slab.ms <= thin) {
                fixed += slab.ms;
                continue;
            }
            const double half = sure * slab.standardErrorMs;
            const bool usual = lane.levels.runsThatMoved(slab.setting) == 0 && half > 0.3 * slab.ms;
            const bool unseen = costs->hidden && lane.levels.shown < seenOften;
            const auto atMost = unseen ? std::optional(slab.ms + half) : std::nullopt;
            stack.layers.push_back({slab.setting, qs(setting->label), qs(shown.at(slab.setting)), slab.ms, half,
                                    usual || unseen, atMost, walking ? stepAt(view, *setting, shown) : 0});
        }
        std::stable_sort(stack.layers.begin(), stack.layers.end(),
                         [](const Layer& a, const Layer& b) { return a.ms > b.ms; });
        stack.layers.insert(stack.layers.begin(),
                            Layer{{}, say("Game and scene"), {}, std::max(0.0, fixed), {}, false, {}});
        out.push_back(std::move(stack));
    }
    return out;
}

std::optional<ShownChoice> choiceOf(const View& view) {
    if (view.preview) {
        if (!view.preview->proposal) return std::nullopt;
        return ShownChoice{view.preview->proposal->values, view.preview->proposal->lanes, false};
    }
    const auto ground = results::groundOf(*view.results);
    if (view.edits().settings.choice && ground) {
        const auto lanes = choose::outcomeOf(*ground, view.edits().settings.choice->values, view.target());
        if (lanes) return ShownChoice{view.edits().settings.choice->values, *lanes, true};
        return std::nullopt;
    }
    if (!results::proposalOf(*view.results)) return std::nullopt;
    return ShownChoice{results::proposalOf(*view.results)->values, results::proposalOf(*view.results)->lanes, false};
}

} // namespace impasto::app
