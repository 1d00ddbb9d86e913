// SPDX-License-Identifier: GPL-3.0-or-later
// CPU and GPU that take turns, against a pipeline in which it is known.
#include "support/support.h"
#include "support/swinging.h"

#include <impasto/base/random.h>
#include <impasto/limits/limits.h>
#include <impasto/limits/tested.h>
#include <impasto/limits/what_if.h>
#include <impasto/pace/pipeline.h>

using namespace impasto;
using namespace impasto::limits;

namespace {

/// As a pipeline shows it; each reading is off by 1%.
capture::Capture turned(pace::Pipeline p, double meanCpu, double meanGpu) {
    const auto cpu = support::swinging(meanCpu, 0.08, 3000, 9, "cpu"),
               gpu = support::swinging(meanGpu, 0.08, 3000, 9, "gpu");
    RandomStream error(3, "reading");
    capture::Capture c;
    c.framesMs = pace::shownIntervals(pace::simulate(p, cpu, gpu));
    c.cpuWorkMs.emplace();
    c.gpuWorkMs.emplace();
    for (std::size_t i = 1; i < cpu.size(); ++i) {
        c.cpuWorkMs->push_back(cpu[i] * (1 + 0.01 * error.normal()));
        c.gpuWorkMs->push_back(gpu[i] * (1 + 0.01 * error.normal()));
    }
    return c;
}

pace::Pipeline inFlight(int frames, double overlap = 0) {
    pace::Pipeline p;
    p.framesInFlight = frames;
    p.overlap = overlap;
    return p;
}

PartVerdict verdictIn(const capture::Capture& c) {
    const std::vector runs{std::make_shared<const capture::Capture>(c)};
    return judge(runs, {}, {}).front();
}

} // namespace

TEST(TurnsTest, OneFrameInFlightIsSeenWithHowFarTheyOverlap) {
    for (const double overlap : {0.0, 0.3, 0.5})
        for (const auto& [cpu, gpu] : {std::pair(6.0, 9.0), std::pair(9.0, 6.0), std::pair(8.0, 8.0)}) {
            const auto v = verdictIn(turned(inFlight(1, overlap), cpu, gpu));
            ASSERT_NE(v.cause(), nullptr) << overlap << " " << cpu;
            EXPECT_EQ(v.cause()->cause, Cause::Turns);
            EXPECT_EQ(heldBy(v), v.cause());
            EXPECT_NEAR(v.beside.cpuShare, 1 - overlap, 0.03) << overlap << " " << cpu;
            EXPECT_EQ(v.test(), DecidingTest::MoreInFlight);
        }
}

TEST(TurnsTest, WhatElseLiesBesideTheLanesIsNotTakenForIt) {
    EXPECT_EQ(verdictIn(turned(inFlight(3), 6, 9)).beside.cpuShare, 0) << "the GPU";
    EXPECT_EQ(verdictIn(turned(inFlight(3), 8, 8)).beside.cpuShare, 0) << "whichever is longer";
    EXPECT_EQ(verdictIn(turned(inFlight(2), 8, 8)).beside.cpuShare, 0);
    auto copied = inFlight(2);
    copied.copyMs = 14;
    EXPECT_EQ(verdictIn(turned(copied, 6, 9)).beside.cpuShare, 0) << "a copy beside the next frame's work";
    EXPECT_EQ(verdictIn(turned(copied, 6, 9)).beside.ms, 0);
    auto capped = inFlight(1);
    capped.limiterMs = 24;
    EXPECT_EQ(verdictIn(turned(capped, 6, 9)).beside.cpuShare, 0) << "a cap that nobody told";
    capture::Capture still = support::flatCapture(15, 3000, 6, 9);
    EXPECT_EQ(verdictIn(still).beside.cpuShare, 0) << "work that never moves tells nothing";
}

TEST(TurnsTest, AStageAfterTheGpuThatNoReadingTellsIsSeen) {
    auto c = turned(inFlight(3), 5, 9);
    for (double& ms : c.framesMs) ms += 2.5; // the next frame waits for it
    const auto v = verdictIn(c);
    EXPECT_EQ(v.brake, Brake::CannotTell);
    EXPECT_NEAR(v.beside.ms, 2.5, 0.1);
    EXPECT_EQ(v.beside.cpuShare, 0);
    EXPECT_EQ(v.cause(), nullptr) << "what it is no log tells";
    EXPECT_EQ(verdictIn(turned(inFlight(3), 5, 9)).beside.ms, 0);
    EXPECT_EQ(verdictIn(turned(inFlight(3), 9, 5)).beside.ms, 0) << "the CPU fills it";
}

TEST(TurnsTest, ALaneMayTakeWhatTheOtherLeaves) {
    const auto v = verdictIn(turned(inFlight(1), 6, 9));
    const double budget = 18, cpu = *usableMs(v, run::Lane::Cpu, budget), gpu = *usableMs(v, run::Lane::Gpu, budget);
    EXPECT_NEAR(gpu, v.gpu->safeShare * budget - v.beside.cpuShare * v.cpu->meanMs, 1e-9);
    EXPECT_NEAR(v.gpu->meanMs + v.beside.cpuShare * cpu, v.gpu->safeShare * budget, 1e-9);
    EXPECT_GT(*usableMs(v, run::Lane::Gpu, 3), 0) << "of a budget that holds nothing";
    const auto free = verdictIn(turned(inFlight(3), 6, 9));
    EXPECT_EQ(*usableMs(free, run::Lane::Gpu, budget), free.gpu->safeShare * budget);
}

TEST(TurnsTest, ADecidingRunSettlesItAndWhatIfKnowsBothChips) {
    const auto c = turned(inFlight(1), 8, 9);
    std::vector verdicts{verdictIn(c)};
    const auto before = std::vector{std::make_shared<const capture::Capture>(c)},
               after = std::vector{std::make_shared<const capture::Capture>(turned(inFlight(3), 8, 9))};
    const auto tested = compareTested(DecidingTest::MoreInFlight, before, after);
    ASSERT_EQ(tested.size(), 1U);
    EXPECT_EQ(tested.front().answer, Answer::Yes);
    applyTested(verdicts, tested);
    EXPECT_GE(verdicts.front().cause()->sure, 0.97);
    const auto rate = [](const capture::Capture& of) {
        return 1000 * static_cast<double>(of.frames()) / capture::durationMs(of);
    };
    for (const auto& w : whatIfsOf(verdicts.front(), before, std::array{0.25})) {
        const bool cpu = w.change != Change::GpuFaster, gpu = w.change != Change::CpuFaster;
        const double truth = rate(turned(inFlight(1), cpu ? 6.4 : 8, gpu ? 7.2 : 9));
        EXPECT_NEAR(w.rate.value(), truth, 0.02 * truth) << keyOf(w.change);
    }
}
