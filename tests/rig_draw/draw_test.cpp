// SPDX-License-Identifier: GPL-3.0-or-later
// Machines and games drawn at random: every one can be played, and the same seed gives the same.
#include "support/support.h"

#include <impasto/rig_draw/draw.h>
#include <impasto/rig_truth/truth.h>
#include <set>

using namespace impasto;
using namespace impasto::support;

TEST(DrawTest, EveryDrawnPairCanBePlayed) {
    std::set<std::string> texts;
    std::size_t onCpu = 0, onGpu = 0;
    for (std::uint64_t seed = 0; seed < 150; ++seed) {
        const auto drawn = rig_draw::draw(seed);
        texts.insert(drawn.machine);
        texts.insert(drawn.game);
        const auto machine = machineFrom(drawn.machine);
        const auto game = gameFrom(drawn.game);
        EXPECT_GE(game.settings.size(), 3U) << seed;
        const auto rig = rig_sim::simulatedRig(originals(), machine, game);
        ASSERT_TRUE(rig.has_value()) << wording::error(wording::Words(), rig.error()).all();
        run::Order order;
        order.variant.values = game.presets.front().values;
        order.variant.resolution = machine.panel.native;
        order.variant.sync = run::Sync::None;
        order.route = game.routes.front().name;
        order.seconds = 5;
        const auto run = (*rig)->record(order, {true}, {}, {});
        ASSERT_TRUE(run.has_value());
        const double fps = 1000 * static_cast<double>(run->capture.frames()) / capture::durationMs(run->capture);
        EXPECT_GT(fps, 8) << seed;
        EXPECT_LT(fps, 500) << seed;
        const auto work = rig_truth::routeWork(originals(), machine, game, order.variant, order.route);
        ++(work->cpuMs > work->gpuMs ? onCpu : onGpu);
        // More of a setting never costs less.
        for (const auto& setting : game.settings) {
            auto low = order.variant;
            low.values[setting.id] = setting.levels.front().name;
            const auto less = rig_truth::routeWork(originals(), machine, game, low, order.route);
            EXPECT_LE(less->cpuMs, work->cpuMs + 1e-9) << seed << " " << setting.id;
            EXPECT_LE(less->gpuMs, work->gpuMs + 1e-9) << seed << " " << setting.id;
        }
    }
    EXPECT_EQ(texts.size(), 300U) << "no two are the same";
    EXPECT_GE(onCpu, 15U) << "some are slowed by the CPU";
    EXPECT_GE(onGpu, 50U);
}

TEST(DrawTest, ASeedGivesTheSameTextsAgain) {
    EXPECT_EQ(rig_draw::draw(7).machine, rig_draw::draw(7).machine);
    EXPECT_EQ(rig_draw::draw(7).game, rig_draw::draw(7).game);
}
