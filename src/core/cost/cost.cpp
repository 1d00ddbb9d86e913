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

namespace {

/// Of one resource, means over the parts at the largest size: all at its first level, then each level above that.
struct Apart {
    std::vector<double> mean, variance;
};
Apart apartOf(const Belief& belief, Resource resource, std::size_t size) {
    Apart out;
    const auto parts = static_cast<double>(belief.partsOf(resource));
    for (std::size_t p = 0; p < belief.partsOf(resource); ++p) {
        const auto told = belief.linear(resource, p, size);
        const std::size_t n = told.mean.size();
        out.mean.resize(n, 0);
        out.variance.resize(n, 0);
        for (std::size_t i = 0; i < n; ++i) {
            out.mean[i] += told.mean[i] / parts;
            out.variance[i] += told.covariance[i * n + i] / parts; // parts are learnt together
        }
    }
    return out;
}

/// Of an order: each step costs a little, since no cost is below zero. Of ways to run: above the cheapest.
void straighten(std::vector<double>& share, bool ordered) {
    if (!ordered) {
        const double least = *std::min_element(share.begin(), share.end());
        for (double& s : share) s -= least;
        return;
    }
    const double step = 0.02 * std::max(0.0, *std::max_element(share.begin(), share.end()));
    for (std::size_t l = 1; l < share.size(); ++l) share[l] = std::max(share[l], share[l - 1] + step);
}

} // namespace

std::vector<LearntCost> learntOf(const Belief& belief, std::span<const Set> ran) {
    const auto& layout = belief.layout();
    const auto largest =
        static_cast<std::size_t>(std::max_element(layout.sizes.begin(), layout.sizes.end(),
                                                  [](const auto& a, const auto& b) { return a.scale < b.scale; }) -
                                 layout.sizes.begin());
    std::vector<LearntCost> out;
    for (const auto& dial : layout.dials) out.push_back({dial.setting, dial.levels, {}, 0});
    for (const auto resource : belief.resources()) {
        const auto apart = apartOf(belief, resource, largest);
        double all = apart.mean[0];
        std::size_t column = 0;
        for (const auto& dial : layout.dials) {
            all += apart.mean[column + dial.levels.size() - 1];
            column += dial.levels.size() - 1;
        }
        column = 0;
        for (std::size_t s = 0; s < layout.dials.size(); ++s) {
            auto& share = out[s].share[indexOf(resource)];
            double most = 0, variance = 0;
            share.push_back(0);
            for (std::size_t l = 1; l < layout.dials[s].levels.size(); ++l) {
                ++column;
                share.push_back(apart.mean[column] / all);
                if (std::abs(apart.mean[column]) < most) continue;
                most = std::abs(apart.mean[column]);
                variance = apart.variance[column];
            }
            straighten(share, layout.dials[s].ordered);
            if (most > 0.01 * all) out[s].doubt = std::max(out[s].doubt, std::sqrt(variance) / most);
        }
    }
    std::vector<LearntCost> moved;
    for (std::size_t s = 0; s < out.size(); ++s)
        if (std::any_of(ran.begin(), ran.end(), [&](const Set& set) { return set.levels[s] != ran[0].levels[s]; }))
            moved.push_back(std::move(out[s]));
    return moved;
}

} // namespace impasto::cost
