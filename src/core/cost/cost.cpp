// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/cost/cost.h>

#include <cmath>
#include <impasto/stats/stats.h>

namespace impasto::cost {

std::vector<LevelKey> changedLevels(const game::Values& baseline, const game::Values& values) {
    std::vector<LevelKey> out;
    for (const auto& [setting, level] : baseline)
        if (const auto it = values.find(setting); it == values.end() || it->second != level)
            out.push_back({setting, it == values.end() ? std::string() : it->second});
    return out;
}

double LevelCosts::standardError(std::size_t i) const {
    return std::sqrt(std::max(0.0, covariance[i * estimate.size() + i]));
}

std::optional<std::size_t> LevelCosts::indexOf(const LevelKey& key) const {
    for (std::size_t i = 0; i < columns.size(); ++i)
        if (columns[i] == key) return i + 1;
    return std::nullopt;
}

double LevelCosts::halfWidth(std::size_t i, double confidence) const {
    return stats::normalQuantile(0.5 + confidence / 2) * standardError(i);
}

std::size_t LevelCosts::runsThatMoved(std::string_view setting) const {
    std::size_t out = 0;
    for (std::size_t i = 0; i < columns.size(); ++i) out += columns[i].setting == setting ? runs[i + 1] : 0;
    return out;
}

LevelCosts levelCosts(const Belief& belief, Resource resource, std::size_t part, const Set& baseline,
                      std::span<const Set> ran) {
    const auto& layout = belief.layout();
    LevelCosts out;
    std::vector<Set> sets{baseline};
    out.runs.push_back(static_cast<std::size_t>(std::count(ran.begin(), ran.end(), baseline)));
    const auto add = [&](const std::string& setting, const std::vector<std::string>& levels, auto placeIn) {
        for (std::size_t l = 0; l < levels.size(); ++l) {
            Set set = baseline;
            if (placeIn(set) == l) continue;
            placeIn(set) = l;
            out.columns.push_back({setting, levels[l]});
            out.runs.push_back(static_cast<std::size_t>(
                std::count_if(ran.begin(), ran.end(), [&](Set run) { return placeIn(run) == l; })));
            sets.push_back(std::move(set));
        }
    };
    for (std::size_t s = 0; s < layout.dials.size(); ++s)
        add(layout.dials[s].setting, layout.dials[s].levels, [s](Set& set) -> std::size_t& { return set.levels[s]; });
    if (!layout.scaleSetting.empty())
        add(layout.scaleSetting, layout.scaleLevels, [](Set& set) -> std::size_t& { return set.scale; });
    const auto told = belief.tell(resource, part, sets);
    const std::size_t n = sets.size();
    const auto cov = [&](std::size_t i, std::size_t j) { return told.covariance[i * n + j]; };
    out.estimate.assign(n, told.mean[0]);
    out.covariance.assign(n * n, 0.0);
    for (std::size_t i = 1; i < n; ++i) out.estimate[i] = told.mean[i] - told.mean[0];
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = 0; j < n; ++j)
            out.covariance[i * n + j] =
                cov(i, j) - (i > 0 ? cov(0, j) : 0) - (j > 0 ? cov(i, 0) : 0) + (i > 0 && j > 0 ? cov(0, 0) : 0);
    out.runSd = belief.runSd(resource);
    out.shown = belief.shown(resource, part);
    return out;
}

} // namespace impasto::cost
