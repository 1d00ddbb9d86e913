// SPDX-License-Identifier: GPL-3.0-or-later
// Deciding runs: each test on flat captures in both directions, and on the simulated rig against what is hidden.
#include "support/support.h"

#include <impasto/limits/tested.h>

using namespace impasto;
using namespace impasto::limits;

namespace {

using Runs = std::vector<std::shared_ptr<const capture::Capture>>;

Runs runsOf(std::initializer_list<double> frameMs) {
    Runs out;
    for (const double ms : frameMs)
        out.push_back(std::make_shared<const capture::Capture>(support::flatCapture(ms, 2000)));
    return out;
}

Tested only(DecidingTest test, const Runs& before, const Runs& after) {
    const auto tested = compareTested(test, before, after);
    EXPECT_FALSE(tested.empty());
    return tested.empty() ? Tested{} : tested.front();
}

Answer answer(DecidingTest test, std::initializer_list<double> before, std::initializer_list<double> after) {
    return only(test, runsOf(before), runsOf(after)).answer;
}

PartVerdict verdictOf(const std::string& part, Brake brake, double sure) {
    PartVerdict v;
    v.part = part;
    v.brake = brake;
    v.sure = sure;
    return v;
}

/// Walks the demo's game on a machine to its limits, makes the deciding run, and gives the verdicts after it.
std::vector<PartVerdict> decided(support::Walk& walk, DecidingTest test) {
    const auto order = path::decidingOrder(walk.store.session(), test, walk.ids);
    EXPECT_TRUE(order.has_value());
    if (!order) return {};
    walk.store.addOrders({*order});
    auto rig =
        rig_sim::simulatedRig(support::originals(), *walk.store.session().machine(), *walk.store.session().game());
    EXPECT_TRUE(rig.has_value());
    if (!rig) return {};
    const auto clock = support::fixedClock();
    path::RecordHooks hooks;
    hooks.onRun = [&](run::Run run) { walk.store.addRuns({std::move(run)}); };
    const auto done =
        path::recordAll(**rig, std::vector{*order}, path::rigStateOf(walk.store.session()), hooks, {}, walk.ids, clock);
    EXPECT_TRUE(done.has_value());
    return results::verdictsOf(walk.results());
}

} // namespace

TEST(TestedTest, TheRateDecides) {
    using enum DecidingTest;
    EXPECT_EQ(answer(LowerResolution, {20, 20.1, 19.9}, {14}), Answer::Yes);
    EXPECT_EQ(answer(LowerResolution, {20, 20.1, 19.9}, {19.9}), Answer::No);
    EXPECT_EQ(answer(LowerResolution, {20, 20.1, 19.9}, {19.2}), Answer::Unclear);
    EXPECT_EQ(answer(FansUp, {20, 20.1, 19.9}, {17}), Answer::Yes);
    EXPECT_EQ(answer(FansUp, {20, 20.1, 19.9}, {20}), Answer::No);
    EXPECT_EQ(answer(DirectRoute, {10, 10.02}, {9.5}), Answer::Yes);
    EXPECT_EQ(answer(DirectRoute, {10, 10.02}, {10}), Answer::No);
    EXPECT_EQ(answer(LiftCap, {16.67}, {11}), Answer::Yes);
    EXPECT_EQ(answer(FasterMode, {16.67}, {16.67}), Answer::No);
    // Runs that differ by themselves decide nothing small.
    EXPECT_EQ(answer(FansUp, {20, 22, 18}, {19}), Answer::Unclear);
}

TEST(TestedTest, LongFramesThatGoAreMemory) {
    auto stuttering = support::flatCapture(16, 2000);
    for (std::size_t i = 100; i < 2000; i += 300) stuttering.framesMs[i] = 180;
    const Runs before{std::make_shared<const capture::Capture>(stuttering)};
    const Runs smooth = runsOf({16});
    EXPECT_EQ(only(DecidingTest::TexturesDown, before, smooth).answer, Answer::Yes);
    EXPECT_EQ(only(DecidingTest::TexturesDown, before, before).answer, Answer::No);
}

TEST(TestedTest, TheClockDecidesAboutPower) {
    const auto withClock = [](double clock, capture::Sensor sensor = capture::Sensor::GpuClock) {
        auto c = support::flatCapture(16, 2000);
        c.tracks.push_back({sensor, {0, 1000}, {static_cast<float>(clock), static_cast<float>(clock)}});
        return Runs{std::make_shared<const capture::Capture>(std::move(c))};
    };
    EXPECT_EQ(only(DecidingTest::LowerLoad, withClock(70), withClock(80)).answer, Answer::Yes);
    EXPECT_EQ(only(DecidingTest::LowerLoad, withClock(70), withClock(70)).answer, Answer::No);
    using enum capture::Sensor;
    EXPECT_EQ(only(DecidingTest::LowerLoad, withClock(1900, GpuMhz), withClock(2100, GpuMhz)).answer, Answer::Yes);
    EXPECT_EQ(only(DecidingTest::LowerLoad, withClock(70), withClock(2100, GpuMhz)).answer, Answer::Unclear)
        << "in two units";
    EXPECT_EQ(only(DecidingTest::LowerLoad, runsOf({16}), runsOf({12})).answer, Answer::Unclear); // no clock is told
}

TEST(TestedTest, AVerdictFollowsItsTest) {
    const auto apply = [](PartVerdict v, Tested t) {
        t.part = v.part;
        std::vector<PartVerdict> all{std::move(v)};
        applyTested(all, std::vector{t});
        return all.front();
    };
    using enum DecidingTest;
    // Frame times alone cannot tell; the test can.
    auto v = apply(verdictOf("a", Brake::CannotTell, 0), {LowerResolution, "", 20, 14, 0.43, 0.01, Answer::Yes});
    EXPECT_EQ(v.brake, Brake::Gpu);
    EXPECT_GE(v.sure, 0.9);
    ASSERT_EQ(v.tested.size(), 1U);
    v = apply(verdictOf("a", Brake::CannotTell, 0), {LowerResolution, "", 20, 20, 0, 0.01, Answer::No});
    EXPECT_EQ(v.brake, Brake::Cpu);
    // Something holds flat frames: that they do not move says nothing of the CPU.
    auto flat = verdictOf("a", Brake::CannotTell, 0);
    flat.flat = true;
    EXPECT_EQ(apply(flat, {LowerResolution, "", 20, 20, 0, 0.01, Answer::No}).brake, Brake::CannotTell);
    // A suspicion is nearly sure, or nearly out; an unclear answer moves nothing.
    auto hot = verdictOf("a", Brake::Gpu, 0.95);
    hot.suspicions = {{Cause::Heat, run::Lane::Gpu, 0.5, {}}, {Cause::CopyRoute, run::Lane::Frame, 0.4, {}}};
    v = apply(hot, {FansUp, "", 20, 16, 0.25, 0.01, Answer::Yes});
    EXPECT_EQ(v.suspicions.front().cause, Cause::Heat);
    EXPECT_GE(v.suspicions.front().sure, 0.97);
    EXPECT_FALSE(v.suspicions.front().evidence.empty());
    v = apply(hot, {FansUp, "", 20, 20, 0, 0.01, Answer::No});
    EXPECT_EQ(v.suspicions.front().cause, Cause::CopyRoute);
    EXPECT_LT(v.suspicions.back().sure, 0.1);
    EXPECT_FALSE(v.suspicions.back().against.empty());
    v = apply(hot, {FansUp, "", 20, 19.6, 0.02, 0.03, Answer::Unclear});
    EXPECT_EQ(v.suspicions.front().sure, 0.5);
    EXPECT_EQ(v.tested.size(), 1U);
    // What nobody suspected is found by its test.
    v = apply(verdictOf("a", Brake::Cpu, 0.95), {FansUp, "", 20, 16, 0.25, 0.01, Answer::Yes});
    ASSERT_EQ(v.suspicions.size(), 1U);
    EXPECT_EQ(v.suspicions.front().chip, run::Lane::Cpu);
    v = apply(verdictOf("a", Brake::Cap, 0.75), {LiftCap, "", 16.7, 16.7, 0, 0.01, Answer::No});
    EXPECT_LT(v.sure, 0.3);
}

TEST(TestedTest, WhatARunChangesIsFoundAgain) {
    const auto machine = support::machineNamed("fenwick-duo.toml");
    const auto game = support::saltmarsh();
    run::Variant usual;
    usual.values = game.presets.front().values;
    usual.resolution = machine.panel.native;
    for (const auto test :
         {DecidingTest::LowerResolution, DecidingTest::FansUp, DecidingTest::LowerLoad, DecidingTest::TexturesDown}) {
        const auto plan = planOf(test, usual, {}, &machine, &game);
        ASSERT_TRUE(plan.has_value()) << keyOf(test);
        run::Order order;
        order.variant = plan->variant;
        order.conditions = plan->conditions;
        EXPECT_EQ(testIn(order, usual, {}, &machine, &game), test);
        // Another baseline: it tests that one no more.
        run::Variant other = usual;
        other.cap = Fps(90);
        EXPECT_EQ(testIn(order, other, {}, &machine, &game), std::nullopt);
    }
    // What there is no way to change is not offered.
    run::Conditions loud;
    loud.fans = run::FanProfile::Full;
    EXPECT_FALSE(planOf(DecidingTest::FansUp, usual, loud, &machine, &game).has_value());
    EXPECT_FALSE(planOf(DecidingTest::LanesInLog, usual, {}, &machine, &game).has_value());
    // A cap that nobody told may be on: the run is a baseline run like any, and tests nothing by what it changes.
    const auto lifted = planOf(DecidingTest::LiftCap, usual, {}, &machine, &game);
    ASSERT_TRUE(lifted.has_value());
    EXPECT_EQ(lifted->variant, usual);
    run::Order order;
    order.variant = usual;
    order.purpose = run::Purpose::Test;
    EXPECT_EQ(testIn(order, usual, {}, &machine, &game), std::nullopt);
    EXPECT_FALSE(planOf(DecidingTest::LowerResolution, {}, {}, nullptr, nullptr).has_value());
    // Without a render scale the output itself is made smaller, in its own shape.
    const auto smaller = planOf(DecidingTest::LowerResolution, usual, {}, &machine, nullptr);
    ASSERT_TRUE(smaller.has_value());
    EXPECT_LT(smaller->variant.resolution.widthPx, usual.resolution.widthPx);
    EXPECT_EQ(smaller->variant.resolution.widthPx * usual.resolution.heightPx,
              smaller->variant.resolution.heightPx * usual.resolution.widthPx);
}

TEST(TestedTest, AThrottledLaptopRecoversWhenItsFansRise) { // common practice, no source
    auto start = support::demoStore(3);
    const auto index = start.addMachine(support::machineNamed("whinbush-laptop.toml"));
    ASSERT_TRUE(start.apply(document::useMachine(index)).has_value());
    ASSERT_TRUE(start.apply(document::setState("conditions.fans", "quiet")).has_value());
    support::Walk walk(std::move(start));
    ASSERT_TRUE(walk.until(path::Action::RecordCosts));
    const auto parts = decided(walk, DecidingTest::FansUp);
    ASSERT_FALSE(parts.empty());
    for (const auto& v : parts) {
        ASSERT_EQ(v.tested.size(), 1U) << v.part;
        EXPECT_EQ(v.tested.front().answer, Answer::Yes) << v.part << " rose by " << v.tested.front().rise;
        ASSERT_FALSE(v.suspicions.empty());
        EXPECT_EQ(v.suspicions.front().cause, Cause::Heat);
        EXPECT_GE(v.suspicions.front().sure, 0.9);
    }
}

TEST(TestedTest, AnOrderOfAnEarlierBaselineWaitsNoMore) {
    support::Walk walk(support::demoStore(6));
    ASSERT_TRUE(walk.until(path::Action::RecordCosts));
    const auto order = path::decidingOrder(walk.store.session(), DecidingTest::FansUp, walk.ids);
    ASSERT_TRUE(order.has_value());
    walk.store.addOrders({*order});
    const auto waits = [&] {
        const auto open = path::openOrders(walk.store.session());
        return std::any_of(open.begin(), open.end(), [&](const auto& o) { return o.id == order->id; });
    };
    EXPECT_TRUE(waits());
    EXPECT_EQ(path::decidingOrder(walk.store.session(), DecidingTest::FansUp, walk.ids)->id, order->id) << "once";
    ASSERT_TRUE(walk.store.apply(document::setState("conditions.fans", "full")).has_value());
    EXPECT_FALSE(waits()) << "that is what is played now";
    walk.store.undo();
    EXPECT_TRUE(waits());
}

TEST(TestedTest, ACoolTowerDoesNot) {
    support::Walk walk(support::demoStore(4));
    ASSERT_TRUE(walk.until(path::Action::RecordCosts));
    for (const auto& v : decided(walk, DecidingTest::FansUp)) {
        ASSERT_EQ(v.tested.size(), 1U);
        EXPECT_NE(v.tested.front().answer, Answer::Yes) << v.part << " rose by " << v.tested.front().rise;
        EXPECT_EQ(v.cause(), nullptr);
    }
}

TEST(TestedTest, ALowerScaleTellsTheGpuFromTheCpu) {
    support::Walk walk(support::demoStore(5));
    ASSERT_TRUE(walk.until(path::Action::RecordCosts));
    const auto before = results::verdictsOf(walk.results());
    const auto after = decided(walk, DecidingTest::LowerResolution);
    ASSERT_EQ(before.size(), after.size());
    std::size_t decidedParts = 0;
    for (std::size_t i = 0; i < after.size(); ++i) {
        ASSERT_EQ(after[i].tested.size(), 1U);
        const auto& t = after[i].tested.front();
        // The log of the simulator tells both lanes: the test agrees with them, or does not decide.
        if (before[i].brake == Brake::Gpu) EXPECT_NE(t.answer, Answer::No) << after[i].part << " " << t.rise;
        if (before[i].brake == Brake::Cpu) EXPECT_NE(t.answer, Answer::Yes) << after[i].part << " " << t.rise;
        decidedParts += t.answer != Answer::Unclear ? 1 : 0;
    }
    EXPECT_GT(decidedParts, 0U);
}

TEST(TestedTest, ASecondRunDecidesByItsHitches) {
    const auto hitching = [](bool is) {
        auto capture = support::flatCapture(16, 2000);
        for (std::size_t i = 20; is && i < capture.framesMs.size(); i += 60) capture.framesMs[i] = 90;
        return Runs{std::make_shared<const capture::Capture>(std::move(capture))};
    };
    EXPECT_EQ(only(DecidingTest::SecondRun, hitching(true), hitching(false)).answer, Answer::Yes);
    EXPECT_EQ(only(DecidingTest::SecondRun, hitching(true), hitching(true)).answer, Answer::No);
    EXPECT_EQ(only(DecidingTest::SecondRun, hitching(false), hitching(false)).answer, Answer::Unclear);
    // A yes makes it nearly sure, a no nearly out.
    std::vector<PartVerdict> verdicts{verdictOf("", Brake::Gpu, 0.9)};
    verdicts.front().suspicions = {{Cause::FirstSight, run::Lane::Frame, 0.35, {}}};
    const auto said = compareTested(DecidingTest::SecondRun, hitching(true), hitching(false));
    applyTested(verdicts, said);
    ASSERT_NE(verdicts.front().cause(), nullptr);
    EXPECT_EQ(verdicts.front().cause()->cause, Cause::FirstSight);
}

TEST(TestedTest, TheSameOnceMoreIsABaselineRun) {
    support::Walk walk(support::demoStore(6));
    ASSERT_TRUE(walk.until(path::Action::RecordCosts));
    const auto order = path::decidingOrder(walk.store.session(), DecidingTest::SecondRun, walk.ids);
    ASSERT_TRUE(order.has_value());
    EXPECT_EQ(order->purpose, run::Purpose::Baseline);
    EXPECT_EQ(order->variant, walk.store.session().baselineVariant());
    walk.store.addOrders({*order});
    EXPECT_EQ(path::decidingOrder(walk.store.session(), DecidingTest::SecondRun, walk.ids)->id, order->id) << "once";
    const auto before = results::idsOf<results::BaselineRuns>(walk.results()).size();
    EXPECT_FALSE(decided(walk, DecidingTest::SecondRun).empty());
    EXPECT_EQ(results::idsOf<results::BaselineRuns>(walk.results()).size(), before + 1) << "it counts like the others";
}

TEST(TestedTest, ACapThatNobodyToldIsLiftedByABaselineRun) {
    support::Walk walk(support::demoStore(6));
    ASSERT_TRUE(walk.until(path::Action::RecordCosts));
    const auto order = path::decidingOrder(walk.store.session(), DecidingTest::LiftCap, walk.ids);
    ASSERT_TRUE(order.has_value());
    EXPECT_EQ(order->purpose, run::Purpose::Baseline) << "nobody set one: what is on is turned off";
    EXPECT_EQ(order->variant, walk.store.session().baselineVariant());
    ASSERT_TRUE(walk.store.apply(document::setState("sync", "fixed")).has_value());
    const auto told = path::decidingOrder(walk.store.session(), DecidingTest::LiftCap, walk.ids);
    ASSERT_TRUE(told.has_value());
    EXPECT_EQ(told->purpose, run::Purpose::Test);
    EXPECT_EQ(told->variant.sync, run::Sync::None);
}
