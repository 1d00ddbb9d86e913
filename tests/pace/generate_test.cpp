// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/pace/generate.h>

using namespace impasto;
using namespace impasto::pace;
using impasto::support::flatCapture;

namespace {

Replay plannedOn(const capture::Capture& c, const std::optional<display::Panel>& panel = {}, double target = 60) {
    run::Brief brief;
    brief.target = Fps(target);
    const std::array<UncappedRun, 1> runs{{{&c, {}}}};
    return *replayOf(runs, panel, brief, Clocks::Held);
}

} // namespace

TEST(GenerationTest, BaseCapsStayInsideTheRangeOrFillThePanel) {
    // Common practice, no source: 58, 38, 29 on 120 Hz; 48 x 5 = 240, 60 x 6 = 360.
    const display::Panel follows{{1920, 1080}, Hertz(120), display::RefreshRange{Hertz(40), Hertz(120)}};
    const auto cap = [](const display::Panel& panel, int m) {
        return basePlan(panel, {run::GenerationKind::BuiltIn, m}).cap->value();
    };
    EXPECT_EQ(cap(follows, 2), 58);
    EXPECT_EQ(cap(follows, 3), 38);
    EXPECT_EQ(cap(follows, 4), 29);
    EXPECT_DOUBLE_EQ(cap({{1920, 1080}, Hertz(240), {}}, 5), 48);
    EXPECT_DOUBLE_EQ(cap({{1920, 1080}, Hertz(360), {}}, 6), 60);
    EXPECT_EQ(basePlan(display::Panel{{1920, 1080}, Hertz(240), {}}, {run::GenerationKind::BuiltIn, 5}).sync,
              run::Sync::Fixed);
    EXPECT_FALSE(basePlan(std::nullopt, run::Generation{}).cap);
}

TEST(GenerationTest, OneGpuPaysWithBaseFramesAndASecondOneDoesNot) {
    const display::Panel panel{{2560, 1440}, Hertz(144), display::RefreshRange{Hertz(48), Hertz(144)}};
    auto replay = plannedOn(flatCapture(12.5, 5000, 7, 12.4), panel, 60);
    replay.brief.shown = Fps(130);
    replay.generation = {2, 6, 9, 2, false};
    const auto plan = planGeneration(replay, {}, true, true);
    ASSERT_EQ(plan.offers.size(), 16U);
    const auto& builtIn = plan.offers[0];
    const auto& outside = plan.offers[4];
    const auto& second = plan.offers[12];
    EXPECT_NEAR(builtIn.base.middle, 1000 / 14.5, 1.5) << "12.4 + 2 ms";
    EXPECT_NEAR(outside.base.middle, 1000 / 18.5, 1.5);
    EXPECT_NEAR(second.base.middle, 70, 0.7) << "the cap";
    EXPECT_NEAR(second.shown.middle, 2 * second.base.middle, 1.5);
    EXPECT_NEAR(second.busy, 9 * second.base.middle / 1000, 0.02);
    EXPECT_TRUE(second.keepsUp && !outside.keepsUp);
    EXPECT_EQ(outside.misses, GenerationMiss::Base);
    ASSERT_TRUE(plan.best);
    EXPECT_FALSE(plan.offers[*plan.best].misses);
    EXPECT_GT(*second.latencyMs, *plan.latencyWithout) << "a frame is held back";
    EXPECT_LT(outside.base.low, outside.base.middle) << "usual costs are in doubt";
    // Measured where it renders, a second GPU's work is as doubtful as before.
    replay.generation.measured = true;
    const auto known = planGeneration(replay, {}, true, true);
    EXPECT_DOUBLE_EQ(known.offers[4].base.low, known.offers[4].base.high);
    EXPECT_LT(known.offers[14].shown.low, known.offers[14].shown.high);
    // A shown rate under multiplier x cap: the GPU that invents is the limit.
    replay.generation.secondGpuMs = 25;
    EXPECT_LT(planGeneration(replay, {}, true, true).offers[12].shown.middle, 100);
    EXPECT_TRUE(planGeneration(plannedOn(flatCapture(12.5, 2000), panel), {}, true, true).offers.empty());
}

TEST(GenerationTest, AdaptiveInventsAsManyAsTheBaseNeeds) {
    // A part at 60 fps and one at 30: one frame is invented of two there, three of four here, and each is paid for.
    auto c = flatCapture(1000.0 / 60, 1200, 1000.0 / 60, 10);
    const auto slow = flatCapture(1000.0 / 30, 600, 1000.0 / 30, 10);
    for (const auto& [to, from] :
         {std::pair(&c.framesMs, &slow.framesMs), {&*c.cpuWorkMs, &*slow.cpuWorkMs}, {&*c.gpuWorkMs, &*slow.gpuWorkMs}})
        to->insert(to->end(), from->begin(), from->end());
    auto replay = plannedOn(c, {}, 24);
    replay.brief.shown = Fps(120);
    replay.generation = {2, 2, 9, 2, false};
    const auto plan = planGeneration(replay, {}, true, false);
    ASSERT_EQ(plan.offers.size(), 2 * plansAKind + plansAKind);
    const auto& adaptive = plan.offers[plannedMultipliers.size()];
    ASSERT_EQ(adaptive.generation().target, Fps(120));
    EXPECT_FALSE(adaptive.plan.cap) << "it follows the base";
    const auto played = play(replay, replay.runs.front(), adaptive.plan, 0);
    std::array<double, 2> invented{}, frames{}, gpuMs{}; // by part
    for (std::size_t i = 50; i < played.frames.size(); ++i) {
        const double at = played.frames[i].cpuStart;
        if (at > 19000 && at < 22000) continue; // the smoothed base moves over
        const std::size_t late = at > 20000 ? 1 : 0;
        invented[late] += static_cast<double>(played.inventedUpTo(i) - played.inventedFrom(i));
        gpuMs[late] += played.frames[i].gpuEnd - played.frames[i].gpuStart;
        ++frames[late];
    }
    EXPECT_NEAR(invented[0] / frames[0], 1, 0.01);
    EXPECT_NEAR(gpuMs[0] / frames[0], 10 + 2, 0.1);
    EXPECT_NEAR(invented[1] / frames[1], 3, 0.01);
    EXPECT_NEAR(gpuMs[1] / frames[1], 10 + 2 * (1 + 0.8 * 2), 0.1);
    EXPECT_NEAR(adaptive.shown.middle, 120, 2);
    ASSERT_TRUE(plan.best);
    EXPECT_FALSE(plan.offers[*plan.best].generation().target) << "never the one to take unasked";
}

TEST(GenerationTest, WhatAdaptiveShowsOnASecondGpuIsForetold) {
    const auto machine = support::machineNamed("fenwick-duo.toml");
    const auto game = support::gameNamed("rainmarket.toml");
    const auto rig = rig_sim::simulatedRig(support::originals(), machine, game);
    ASSERT_TRUE(rig.has_value());
    run::Order order;
    order.variant.values = game.presets.front().values;
    order.variant.resolution = machine.panel.native;
    order.route = game.routes.front().name;
    order.seconds = game.routes.front().seconds();
    order.seed = 5;
    const auto recorded = [&] {
        auto recording = (*rig)->record(order, {1}, [](const rig::FrameSample&) {}, {});
        EXPECT_TRUE(recording.has_value());
        return std::move(recording->capture);
    };
    auto replay = plannedOn(recorded(), machine.panel, 40);
    replay.generation = usualCosts(machine.panel.native, &machine);
    const auto plan = basePlan(machine.panel, {run::GenerationKind::External, 2, Fps(140), true});
    const auto told = ownGeneration(replay, plan);
    ASSERT_TRUE(told);
    order.variant.sync = plan.sync;
    order.variant.generation = plan.generation;
    const auto with = recorded();
    const double shown = capture::shownRate(with).value(),
                 base = 1000 * static_cast<double>(with.frames()) / capture::durationMs(with);
    EXPECT_GT(shown, 1.5 * base) << "something is invented";
    EXPECT_NEAR(told->base.middle, base, 0.04 * base);
    EXPECT_NEAR(told->shown.middle, shown, 0.06 * shown);
}

TEST(GenerationTest, WhatAdaptiveAimsAt) {
    run::Brief brief;
    EXPECT_EQ(adaptiveTarget(brief, {}), Fps(120)) << "twice the target";
    const display::Panel follows{{1920, 1080}, Hertz(144), display::RefreshRange{Hertz(40), Hertz(144)}};
    EXPECT_EQ(adaptiveTarget(brief, follows), Fps(140));
    EXPECT_EQ(adaptiveTarget(brief, display::Panel{{1920, 1080}, Hertz(60), {}}), Fps(60));
    brief.shown = Fps(100);
    EXPECT_EQ(adaptiveTarget(brief, follows), Fps(100));
    brief.shown = Fps(200);
    EXPECT_EQ(adaptiveTarget(brief, follows), Fps(140)) << "not more than the panel shows";
}

TEST(GenerationTest, ABaseOfOnesOwnIsPredictedAsThePlansAre) {
    const display::Panel panel{{2560, 1440}, Hertz(144), display::RefreshRange{Hertz(48), Hertz(144)}};
    auto replay = plannedOn(flatCapture(12.5, 5000, 7, 12.4), panel, 60);
    replay.generation = {1, 6, 9, 2, true};
    auto plan = basePlan(panel, {run::GenerationKind::BuiltIn, 2});
    plan.cap = Fps(50);
    const auto own = ownGeneration(replay, plan);
    ASSERT_TRUE(own);
    EXPECT_NEAR(own->base.middle, 50, 0.5);
    EXPECT_NEAR(own->shown.middle, 100, 1);
    EXPECT_EQ(own->misses, GenerationMiss::Base) << "60 was asked";
    EXPECT_FALSE(ownGeneration(replay, {Fps(50)})) << "nothing is invented";
    EXPECT_FALSE(ownGeneration(plannedOn(flatCapture(12.5, 2000), panel), plan))
        << "what is left of the GPU is unknown";
}

TEST(GenerationTest, ARunWithItSaysWhatItTakes) {
    const auto usual = usualCosts({2560, 1440}, nullptr);
    EXPECT_GT(usual.outsideMs, 2 * usual.builtInMs);
    const run::Generation g{run::GenerationKind::Driver, 3};
    const auto measured = measuredCosts(usual, g, 20, 12);
    EXPECT_TRUE(measured.measured);
    EXPECT_NEAR(inventedWork(measured, g).gpuMs, 8, 1e-9);
    EXPECT_EQ(measured.secondGpuMs, usual.secondGpuMs);
    EXPECT_FALSE(measuredCosts(usual, g, 11.9, 12).measured) << "nothing is learnt from less than nothing";
    EXPECT_FALSE(measuredCosts(usual, {run::GenerationKind::External, 2, {}, true}, 20, 12).measured);
    EXPECT_FALSE(measuredCosts(usual, {run::GenerationKind::Driver, 2, Fps(120)}, 20, 12).measured)
        << "how many varied";
    machine::Machine fast;
    fast.facts["second.link_gts"] = 16.0;
    fast.facts["second.link_lanes"] = 4.0;
    EXPECT_LT(usualCosts({2560, 1440}, &fast).linkMs, usual.linkMs);
    EXPECT_NEAR(usualCosts({2560, 1440}, &fast).linkMs - 0.4, 14745600 / 7.877e9 * 1000, 0.05) << "7.877 GB/s";
}

TEST(GenerationTest, FramesAreInventedBetweenABaseThatIsSteeredBy) {
    run::Brief brief;
    brief.target = Fps(60);
    EXPECT_EQ(inventedBase(brief), Fps(48));
    brief.steering = run::Steering::Pad;
    EXPECT_EQ(inventedBase(brief), Fps(40));
    brief.steering = run::Steering::Mouse;
    EXPECT_FALSE(inventedBase(brief)) << "60 are steered well, no fewer";
    brief.target = Fps(100);
    EXPECT_EQ(inventedBase(brief), Fps(60));
    brief.steering.reset();
    brief.target = Fps(120);
    EXPECT_EQ(inventedBase(brief), Fps(60));
    brief.target = Fps(50);
    EXPECT_FALSE(inventedBase(brief)) << "hardly less than what is asked";
    brief.target = Fps(120);
    brief.style = run::Style::Competitive;
    EXPECT_FALSE(inventedBase(brief));
    brief.style = run::Style::Cinematic;
    brief.shown = Fps(200);
    EXPECT_FALSE(inventedBase(brief)) << "it is the goal already";
    const auto how = *usualInventing(nullptr, true, {2560, 1440}, Fps(60), Fps(120));
    EXPECT_EQ(how.base, Fps(60));
    EXPECT_EQ(how.generation.kind, run::GenerationKind::BuiltIn);
    EXPECT_EQ(how.generation.multiplier, 2);
    EXPECT_EQ(usualInventing(nullptr, false, {2560, 1440}, Fps(40), Fps(120))->generation.multiplier, 3);
}
