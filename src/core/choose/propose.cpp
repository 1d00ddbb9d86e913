// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/choose/propose.h>

#include <algorithm>
#include <cmath>

namespace impasto::choose {
namespace {

run::Lane laneOf(cost::Resource resource) {
    return resource == cost::Resource::Gpu ? run::Lane::Gpu : run::Lane::Cpu;
}

std::vector<LaneOutcome> outcomesOf(const Ground& ground, const cost::Set& set, Fps target) {
    const auto& belief = ground.belief();
    const Room room = ground.room(target);
    std::vector<LaneOutcome> out;
    for (std::size_t k = 0; k < belief.resources().size(); ++k) {
        const auto resource = belief.resources()[k];
        if (resource == cost::Resource::GpuMemory) continue;
        LaneOutcome worst;
        double most = -1;
        for (std::size_t p = 0; p < belief.partsOf(resource); ++p) {
            LaneOutcome here{laneOf(resource), belief.layout().parts[p], 0, 0, 0, room[k][p]};
            const auto is = ground.chooser->takes(k, p, set);
            here.meanMs = is.mean - is.beside;
            here.standardErrorMs = std::sqrt(is.variance);
            here.usableMs = frames::lessBeside(room[k][p], is.beside);
            for (std::size_t model = 0; model < belief.weights().size(); ++model) {
                const auto all = ground.chooser->takes(k, p, set, model);
                // The most doubtful of the models that matter counts.
                here.marginMs = std::max(here.marginMs, all.mean + usualSafety * all.deviation() - is.mean);
            }
            const double load = (is.mean + here.marginMs) / room[k][p];
            if (load <= most) continue;
            most = load;
            worst = std::move(here);
        }
        out.push_back(std::move(worst));
    }
    return out;
}

} // namespace

game::Values Ground::valuesOf(const cost::Set& set) const {
    game::Values out = baseline;
    for (const auto& [setting, level] : belief().layout().valuesOf(set)) out[setting] = level;
    return out;
}

Room Ground::room(Fps target) const {
    Room out = shares;
    for (std::size_t k = 0; k < out.size(); ++k) {
        const auto resource = belief().resources()[k];
        if (resource == cost::Resource::GpuMemory) continue;
        for (double& share : out[k]) {
            share *= budgetOf(target).value();
            if (resource == cost::Resource::Gpu) share = frames::lessBeside(share, inventedMs);
        }
    }
    return out;
}

Result<std::vector<LaneOutcome>> outcomeOf(const Ground& ground, const game::Values& values, Fps target) {
    if (!ground.chooser) return fail(ErrorCode::LacksRuns, "1");
    const auto set = ground.belief().layout().setOf(values);
    if (!set) return fail(ErrorCode::UnknownName, values.empty() ? std::string() : values.begin()->second);
    return outcomesOf(ground, *set, target);
}

Result<Slabs> slabsOf(const Ground& ground, run::Lane lane, const std::string& part, const game::Values& values) {
    const auto& layout = ground.belief().layout();
    const auto set = layout.setOf(values);
    const auto place = std::find(layout.parts.begin(), layout.parts.end(), part);
    if (!set || place == layout.parts.end()) return fail(ErrorCode::UnknownName, part);
    const auto resource = lane == run::Lane::Gpu ? cost::Resource::Gpu : cost::Resource::Cpu;
    const auto index = static_cast<std::size_t>(place - layout.parts.begin());
    cost::Set now{std::vector<std::size_t>(layout.dials.size(), 0), layout.leastSize()};
    for (std::size_t s = 0; s < layout.dials.size(); ++s) { // the cheapest way to run lies at the bottom
        if (layout.dials[s].ordered) continue;
        std::vector<cost::Set> ways(layout.dials[s].levels.size(), now);
        for (std::size_t l = 0; l < ways.size(); ++l) ways[l].levels[s] = l;
        const auto told = ground.belief().tell(resource, index, ways).mean;
        now.levels[s] = static_cast<std::size_t>(std::min_element(told.begin(), told.end()) - told.begin());
    }
    std::vector<cost::Set> steps{now};
    Slabs out{{{{}, 0, 0}}, 0, 0};
    const auto then = [&](const std::string& setting) {
        steps.push_back(now);
        out.slabs.push_back({setting, 0, 0});
    };
    now.size = set->size;
    if (layout.sizes.size() > 1) then(layout.sizes[now.size].setting);
    for (std::size_t s = 0; s < layout.dials.size(); ++s) {
        now.levels[s] = set->levels[s];
        then(layout.dials[s].setting);
    }
    const auto told = ground.belief().tell(resource, index, steps);
    const std::size_t n = steps.size();
    const auto sd = [&](double variance) { return std::sqrt(std::max(0.0, variance)); };
    const auto cov = [&](std::size_t i, std::size_t j) { return told.covariance[i * n + j]; };
    out.slabs[0] = {{}, told.mean[0], sd(cov(0, 0))};
    for (std::size_t i = 1; i < n; ++i) {
        out.slabs[i].ms = told.mean[i] - told.mean[i - 1];
        out.slabs[i].standardErrorMs = sd(cov(i, i) + cov(i - 1, i - 1) - 2 * cov(i, i - 1));
    }
    out.totalMs = told.mean.back();
    out.standardErrorMs = sd(cov(n - 1, n - 1));
    return out;
}

bool fits(const std::vector<LaneOutcome>& lanes) {
    return std::all_of(lanes.begin(), lanes.end(),
                       [](const LaneOutcome& l) { return l.leftMs() >= -0.001 * l.usableMs; });
}

Proposal proposalOf(const Ground& ground, const Best& best, Fps target) {
    Proposal p;
    p.values = ground.valuesOf(best.set);
    p.picture = best.picture;
    p.chance = ground.chooser->standing(best.set, ground.room(target)).chance;
    p.proven = best.proven;
    p.pictureGap = best.pictureGap;
    p.nodes = best.nodes;
    p.lanes = outcomesOf(ground, best.set, target);
    return p;
}

Result<Proposal> propose(const Ground& ground, Fps target, const Context& context) {
    if (!ground.chooser) return fail(ErrorCode::LacksRuns, "1");
    const auto best = ground.chooser->best(ground.room(target), usualSafety, context);
    if (!best) return tl::unexpected(best.error());
    if (!best->fits) return fail(ErrorCode::NothingFits);
    return proposalOf(ground, *best, target);
}

} // namespace impasto::choose
