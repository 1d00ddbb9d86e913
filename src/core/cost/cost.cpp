// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/cost/cost.h>

#include <cmath>
#include <impasto/stats/stats.h>
#include <set>

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
    for (std::size_t s = 0; s < layout.dials.size(); ++s)
        for (std::size_t l = 0; l < layout.dials[s].levels.size(); ++l) {
            Set set = baseline;
            if (set.levels[s] == l) continue;
            set.levels[s] = l;
            out.columns.push_back({layout.dials[s].setting, layout.dials[s].levels[l]});
            out.runs.push_back(static_cast<std::size_t>(
                std::count_if(ran.begin(), ran.end(), [&](const Set& run) { return run.levels[s] == l; })));
            sets.push_back(std::move(set));
        }
    std::set<LevelKey> sized;
    for (const auto& size : layout.sizes)
        for (const auto& [setting, level] : size.levels) {
            const auto heldBy = [&](const Set& set) { return layout.sizes[set.size].levels.at(setting) == level; };
            if (heldBy(baseline) || !sized.insert({setting, level}).second) continue;
            Set set = baseline;
            set.size = *layout.sizeWith(baseline.size, setting, level);
            out.columns.push_back({setting, level});
            out.runs.push_back(static_cast<std::size_t>(std::count_if(ran.begin(), ran.end(), heldBy)));
            sets.push_back(std::move(set));
        }
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
