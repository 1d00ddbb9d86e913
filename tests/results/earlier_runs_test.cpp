// SPDX-License-Identifier: GPL-3.0-or-later
// Runs of an earlier session on another machine, with noise, beside one run of this one: how far every level's cost
// lies off the simulator's truth, with them and without, over games drawn at random.
#include "support/support.h"

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/results/earlier.h>
#include <impasto/rig_draw/draw.h>
#include <impasto/rig_truth/truth.h>

using namespace impasto;
using namespace impasto::support;

namespace {

/// A drawn game on two machines.
struct OnTwoMachines {
    game::Game game;
    machine::Machine before, now;
    cost::Layout layout;
    RandomStream random;

    explicit OnTwoMachines(std::uint64_t seed)
        : game(gameFrom(rig_draw::draw(seed).game)), before(machineFrom(rig_draw::draw(seed).machine)),
          now(machineFrom(rig_draw::draw(seed + 5000).machine)), random(seed, "earlier runs") {
        // Memory that does not fit is no cost of a level.
        before.gpuMemory = now.gpuMemory = Mebibytes(1e6);
        std::vector<std::string> parts;
        for (const auto& part : game.routes.front().parts) parts.push_back(part.name);
        layout = cost::Layout::of(game, game.presets.front().values, parts);
    }
    [[nodiscard]] cost::SeenRun played(const machine::Machine& machine, const cost::Set& set, double noise) {
        run::Variant variant;
        variant.values = game.presets.front().values;
        for (const auto& [setting, level] : layout.valuesOf(set)) variant.values[setting] = level;
        variant.resolution = {2560, 1440};
        cost::SeenRun out{set, {}};
        const double whole = 1 + noise * 0.0045 * random.normal();
        for (const auto& part : layout.parts) {
            const auto work = *rig_truth::partWork(originals(), machine, game, variant, part);
            out.taken[0].push_back(work.cpuMs * whole * (1 + noise * 0.007 * random.normal()));
            out.taken[1].push_back(work.gpuMs * whole * (1 + noise * 0.007 * random.normal()));
        }
        return out;
    }
    [[nodiscard]] cost::Set any() {
        cost::Set set{{}, random.below(layout.sizes.size())};
        for (const auto& dial : layout.dials) set.levels.push_back(random.below(dial.levels.size()));
        return set;
    }
    [[nodiscard]] document::EarlierRuns earlier(std::size_t count) {
        document::EarlierRuns out{"x", "other chips", game.version, {}};
        for (std::size_t i = 0; i < count; ++i) {
            const auto run = played(before, i == 0 ? *layout.setOf(game.presets.front().values) : any(), 1);
            auto values = game.presets.front().values;
            for (const auto& [setting, level] : layout.valuesOf(run.set)) values[setting] = level;
            document::EarlierRun told{values, {}};
            for (std::size_t k = 0; k < 2; ++k)
                for (const auto& ms : run.taken[k]) told.taken[k] += *ms / static_cast<double>(layout.parts.size());
            out.runs.push_back(std::move(told));
        }
        return out;
    }
};

struct FarOff {
    double ms = 0;
    int levels = 0, covered = 0;
};
FarOff farOff(OnTwoMachines& d, const cost::Belief& belief) {
    FarOff out;
    const auto first = *d.layout.setOf(d.game.presets.front().values);
    const auto base = d.played(d.now, first, 0);
    for (std::size_t s = 0; s < d.layout.dials.size(); ++s)
        for (std::size_t l = 0; l < d.layout.dials[s].levels.size(); ++l) {
            if (l == first.levels[s]) continue;
            auto set = first;
            set.levels[s] = l;
            const auto truth = d.played(d.now, set, 0);
            for (const auto resource : {cost::Resource::Cpu, cost::Resource::Gpu})
                for (std::size_t p = 0; p < d.layout.parts.size(); ++p) {
                    const std::size_t k = cost::indexOf(resource);
                    const auto told = belief.tell(resource, p, {first, set});
                    const double sd =
                        std::sqrt(std::max(0.0, told.covariance[0] + told.covariance[3] - 2 * told.covariance[1]));
                    const double off = std::abs(told.mean[1] - told.mean[0] - (*truth.taken[k][p] - *base.taken[k][p]));
                    out.ms += off;
                    out.covered += off <= 1.96 * sd + 1e-9 ? 1 : 0;
                    ++out.levels;
                }
        }
    return out;
}

} // namespace

TEST(EarlierRunsTest, LevelCostsComeNearerToTheTruth) {
    int nearer = 0, games = 0;
    std::array<FarOff, 2> all;
    for (std::uint64_t seed = 301; seed < 321; ++seed) {
        OnTwoMachines d(seed);
        const auto first = *d.layout.setOf(d.game.presets.front().values);
        const std::vector<cost::SeenRun> runs{d.played(d.now, first, 1)};
        const auto earlier =
            results::earlierRuns(d.earlier(8), {d.game, &d.now, d.game.presets.front().values}, d.layout, runs);
        ASSERT_EQ(earlier.size(), 8U);
        auto both = runs;
        both.insert(both.end(), earlier.begin(), earlier.end());
        const auto without = farOff(d, *cost::Belief::of(d.layout, runs)),
                   with = farOff(d, *cost::Belief::of(d.layout, both));
        nearer += with.ms < without.ms ? 1 : 0;
        ++games;
        for (std::size_t i = 0; i < 2; ++i) {
            all[i].ms += (i == 0 ? without : with).ms;
            all[i].covered += (i == 0 ? without : with).covered;
            all[i].levels += without.levels;
        }
    }
    EXPECT_GE(nearer * 10, games * 8);
    EXPECT_LT(all[1].ms, 0.75 * all[0].ms);
    EXPECT_GE(all[1].covered * 100, all[1].levels * 93) << "and no surer than it may be";
}
