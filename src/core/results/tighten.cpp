// SPDX-License-Identifier: GPL-3.0-or-later
#include "tighten.h"

#include <impasto/choose/front.h>
#include <impasto/results/learnt.h>
#include <impasto/results/limits.h>

namespace impasto::results {
namespace {

/// The budget's shares divided.
choose::Ground tightened(choose::Ground ground, double cpu, double gpu) {
    for (std::size_t k = 0; k < ground.shares.size(); ++k) {
        const auto resource = ground.belief().resources()[k];
        if (resource == cost::Resource::GpuMemory) continue;
        for (double& share : ground.shares[k]) share /= resource == cost::Resource::Gpu ? gpu : cpu;
    }
    return ground;
}

} // namespace

void keepAsked(const Inputs& in, Costs& costs) {
    const auto target = in.target();
    const auto* limits = in.get<Limits>();
    if (!target || limits == nullptr || limits->askedShares.empty()) return;
    auto ground = costs.ground;
    const auto& parts = ground.belief().layout().parts;
    for (std::size_t k = 0; k < ground.shares.size(); ++k)
        if (ground.belief().resources()[k] != cost::Resource::GpuMemory)
            for (std::size_t p = 0; p < ground.shares[k].size(); ++p)
                if (const auto most = limits->askedShares.find(parts[p]); most != limits->askedShares.end())
                    ground.shares[k][p] = std::min(ground.shares[k][p], most->second);
    costs.askedFits = choose::fastestOf(ground) >= target->rate;
    if (costs.askedFits) costs.ground = std::move(ground);
}

void tighten(const Inputs& in, Costs& costs) {
    const auto target = in.target();
    if (!target) return;
    for (const auto& [values, missed] : in.get<Learnt>()->missed) {
        const auto lanes = choose::outcomeOf(costs.ground, values, target->rate);
        if (!lanes || !choose::fits(*lanes)) continue;
        ++costs.missedSets;
        costs.tighter = std::max(costs.tighter, missed);
    }
    for (const auto& [values, asked] : in.get<Learnt>()->asked) {
        ++costs.missedSets;
        costs.askedMissed = true;
        const auto lanes = choose::outcomeOf(costs.ground, values, target->rate);
        if (!lanes || !choose::fits(*lanes)) continue; // the limits are so tight already
        // Shorter than it is, not than it might be.
        for (const auto& lane : *lanes)
            if (lane.lane != run::Lane::Cpu && lane.meanMs > 0)
                costs.tighterGpu = std::max(costs.tighterGpu, asked * lane.usableMs / lane.meanMs);
    }
    costs.ground = tightened(std::move(costs.ground), costs.tighter, costs.tighter);
    if (costs.tighterGpu <= 1) return;
    // What is asked besides the rate is no reason to find nothing: as tight as leaves some set.
    const auto fits = [&](double gpu) { return choose::fastestOf(tightened(costs.ground, 1, gpu)) >= target->rate; };
    double low = 1, high = costs.tighterGpu;
    if (fits(high)) low = high;
    while (high - low > 1e-3) (fits((low + high) / 2) ? low : high) = (low + high) / 2;
    costs.tighterGpu = low;
    costs.ground = tightened(std::move(costs.ground), 1, low);
}

} // namespace impasto::results
