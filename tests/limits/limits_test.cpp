// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/base/random.h>
#include <impasto/limits/limits.h>
#include <impasto/limits/what_if.h>

using namespace impasto;
using namespace impasto::limits;
using impasto::support::flatCapture;

namespace {

PartVerdict verdict(const capture::Capture& c, const run::Variant& v = {}, std::optional<display::Panel> panel = {}) {
    const std::vector runs{std::make_shared<const capture::Capture>(c)};
    return judge(runs, v, panel).front();
}

} // namespace

TEST(LimitsTest, TheLaneThatFillsTheFrameIsTheBrake) {
    EXPECT_EQ(verdict(flatCapture(16, 200, 9, 15.8)).brake, Brake::Gpu);
    EXPECT_EQ(verdict(flatCapture(16, 200, 9, 15.8)).certainty(), Certainty::Sure);
    EXPECT_EQ(verdict(flatCapture(16, 200, 15.8, 9)).brake, Brake::Cpu);
    EXPECT_EQ(verdict(flatCapture(16, 200, 9, 14.6)).certainty(), Certainty::Likely);
    EXPECT_EQ(verdict(flatCapture(16, 200, 15.7, 15.8)).certainty(), Certainty::Likely) << "two lanes alike";
    EXPECT_EQ(verdict(flatCapture(16, 200, 9, 10)).brake, Brake::CannotTell) << "neither fills the frame";
}

TEST(LimitsTest, FrameTimesAloneNeverTellCpuFromGpu) {
    for (const double ms : {5.0, 16.67, 33.3}) {
        EXPECT_EQ(verdict(flatCapture(ms, 200)).brake, Brake::CannotTell);
        EXPECT_EQ(verdict(flatCapture(ms, 200, ms)).brake, Brake::CannotTell) << "one lane is not two";
    }
}

TEST(LimitsTest, ACapAndARefreshAreSeenByTheirPeriod) {
    run::Variant capped;
    capped.cap = Fps(60);
    EXPECT_EQ(verdict(flatCapture(16.7, 200, 9, 12), capped).brake, Brake::Cap);
    EXPECT_EQ(verdict(flatCapture(16.7, 200, 9, 16.6), capped).brake, Brake::Gpu) << "no slack";
    EXPECT_EQ(verdict(flatCapture(16.7, 200), capped).certainty(), Certainty::Likely);
    run::Variant synced;
    synced.sync = run::Sync::Fixed;
    const display::Panel panel{{1920, 1080}, Hertz(60), {}};
    EXPECT_EQ(verdict(flatCapture(33.4, 200, 20, 22), synced, panel).brake, Brake::Refresh);
    EXPECT_EQ(verdict(flatCapture(25, 200, 10, 12), synced, panel).brake, Brake::CannotTell);
}

TEST(LimitsTest, PartsAreJudgedEachForItself) {
    auto c = flatCapture(16, 200, 9, 15.8);
    for (std::size_t i = 100; i < 200; ++i) {
        (*c.cpuWorkMs)[i] = 15.7;
        (*c.gpuWorkMs)[i] = 8;
    }
    c.marks = {{"hill", 0}, {"crowd", 100}};
    const std::vector runs{std::make_shared<const capture::Capture>(c), std::make_shared<const capture::Capture>(c)};
    const auto all = judge(runs, {}, {});
    ASSERT_EQ(all.size(), 2U);
    EXPECT_EQ(all[0].brake, Brake::Gpu);
    EXPECT_EQ(all[1].brake, Brake::Cpu);
    EXPECT_EQ(*all[0].gpu->standardErrorMs, 0.0);
    EXPECT_TRUE(judge({}, {}, {}).empty());
}

namespace {

/// Frames of a clock, uneven for what each waits: seconds of them last alike.
capture::Capture clockedCapture(double everyMs) {
    capture::Capture c;
    RandomStream random(11, "late");
    for (double late = 0, before = 0; c.frames() < 1500; before = late) {
        late = 0.9 * late + 0.2 * random.normal();
        c.framesMs.push_back(everyMs + late - before);
    }
    return c;
}

void addLoad(capture::Capture& c, capture::Sensor sensor, float percent) {
    capture::Track track{sensor, {}, {}};
    for (double at = 0; at < capture::durationMs(c); at += 500) {
        track.timeMs.push_back(at);
        track.values.push_back(percent + (track.values.size() % 2 == 0 ? 1.0F : -1.0F));
    }
    c.tracks.push_back(std::move(track));
}

capture::Capture freeCapture() {
    auto c = clockedCapture(14.1);
    for (std::size_t i = 0; i < c.frames(); ++i) c.framesMs[i] *= 1 + 0.1 * std::sin(static_cast<double>(i) / 150);
    return c;
}

} // namespace

TEST(LimitsTest, ACapThatNobodyToldIsNotTheCpusLimit) {
    auto held = clockedCapture(14.1), free = freeCapture();
    for (auto* c : {&held, &free}) addLoad(*c, capture::Sensor::GpuLoad, 57);
    EXPECT_EQ(verdict(held).brake, Brake::CannotTell);
    EXPECT_TRUE(verdict(held).flat);
    EXPECT_EQ(verdict(held).test(), DecidingTest::LiftCap);
    EXPECT_EQ(verdict(free).brake, Brake::Cpu);
    EXPECT_EQ(verdict(free).certainty(), Certainty::Likely);
}

TEST(LimitsTest, ACpuOfWhichNoCoreIsBusyIsNotTheLimit) {
    const auto with = [](float busiest) {
        auto c = freeCapture();
        addLoad(c, capture::Sensor::GpuLoad, 70);
        addLoad(c, capture::Sensor::BusiestCore, busiest);
        return verdict(c);
    };
    EXPECT_EQ(with(96).brake, Brake::Cpu);
    EXPECT_EQ(with(70).brake, Brake::Cpu) << "a thread that is moved about";
    EXPECT_LT(with(70).sure, with(96).sure);
    EXPECT_EQ(with(40).brake, Brake::CannotTell);
    ASSERT_EQ(with(40).facts.size(), 2U);
    EXPECT_EQ(with(40).facts.back().sign, Sign::BusiestCore) << "and it says why";
}

TEST(LimitsTest, WhatHoldsFramesThatNoLaneFillsIsLookedFor) {
    auto held = clockedCapture(14.1), free = freeCapture();
    for (auto* c : {&held, &free}) {
        c->cpuWorkMs.emplace(c->frames(), 0);
        c->gpuWorkMs.emplace(c->frames(), 0);
        for (std::size_t i = 0; i < c->frames(); ++i) {
            (*c->cpuWorkMs)[i] = 6 + std::sin(static_cast<double>(i) / 90);
            (*c->gpuWorkMs)[i] = 9 + std::sin(static_cast<double>(i) / 70);
        }
    }
    EXPECT_TRUE(verdict(held).flat);
    EXPECT_EQ(verdict(held).test(), DecidingTest::LiftCap);
    EXPECT_FALSE(verdict(free).flat);
    EXPECT_EQ(verdict(free).test(), DecidingTest::LowerResolution) << "the log has both lanes: they are not asked for";
    const auto changes = [](const capture::Capture& c) {
        const std::vector runs{std::make_shared<const capture::Capture>(c)};
        return whatIfsOf(judge(runs, {}, {}).front(), runs, std::array{0.2}).size();
    };
    EXPECT_EQ(changes(held), 0U) << "what holds the frames holds them still";
    EXPECT_GT(changes(free), 0U);
}
