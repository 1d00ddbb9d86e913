// SPDX-License-Identifier: GPL-3.0-or-later
#include "stations/layers/stack.h"

#include <algorithm>

namespace impasto::app {

std::optional<Difference> differenceOf(const View& view, const choose::LaneCosts& lane, const std::string& setting,
                                       const std::string& level) {
    const auto it = view.edits().settings.baseline.find(setting);
    if (it != view.edits().settings.baseline.end() && it->second == level) return Difference{};
    const auto index = lane.fit.indexOf({setting, level});
    if (!index) return std::nullopt;
    return Difference{lane.worstFactor * lane.fit.estimate[*index], lane.worstFactor * lane.fit.halfWidth(*index)};
}

std::vector<Stack> stacksOf(const View& view, const std::optional<game::Values>& values) {
    std::vector<Stack> out;
    const auto* game = view.session.game();
    if (!view.get<results::Costs>() || game == nullptr) return out;
    const game::Values& shown = values ? *values : view.edits().settings.baseline;
    for (const auto& lane : view.get<results::Costs>()->lanes) {
        Stack stack{lane.lane, {}, lane.worstFactor * lane.fit.estimate[0]};
        for (const auto& setting : game->settings) {
            const auto now = shown.find(setting.id);
            if (now == shown.end()) continue;
            std::optional<Difference> least;
            for (const auto& level : setting.levels)
                if (const auto d = differenceOf(view, lane, setting.id, level.name); d && (!least || d->ms < least->ms))
                    least = d;
            const auto here = differenceOf(view, lane, setting.id, now->second);
            if (!here || !least) continue;
            if (values) stack.totalMs += here->ms;
            const double ms = here->ms - least->ms;
            // What the runs cannot tell from nothing stays in the fixed rest.
            if (ms > std::max(0.02, least->halfWidth.value_or(0)))
                stack.layers.push_back({setting.id, qs(setting.label), qs(now->second), ms, least->halfWidth});
        }
        std::stable_sort(stack.layers.begin(), stack.layers.end(),
                         [](const Layer& a, const Layer& b) { return a.ms > b.ms; });
        double fixed = stack.totalMs;
        for (const auto& layer : stack.layers) fixed -= layer.ms;
        stack.layers.insert(stack.layers.begin(), Layer{{}, say("Game and scene"), {}, std::max(0.0, fixed), {}});
        out.push_back(std::move(stack));
    }
    return out;
}

std::optional<ShownChoice> choiceOf(const View& view) {
    if (view.preview) {
        if (!view.preview->proposal) return std::nullopt;
        return ShownChoice{view.preview->proposal->values, view.preview->proposal->lanes, false};
    }
    const auto ground = results::groundOf(view.session, *view.results);
    if (view.edits().settings.choice && ground) {
        const auto lanes = choose::outcomeOf(*ground, view.edits().settings.choice->values, view.target());
        if (lanes) return ShownChoice{view.edits().settings.choice->values, *lanes, true};
        return std::nullopt;
    }
    if (!results::proposalOf(*view.results)) return std::nullopt;
    return ShownChoice{results::proposalOf(*view.results)->values, results::proposalOf(*view.results)->lanes, false};
}

} // namespace impasto::app
