// SPDX-License-Identifier: GPL-3.0-or-later
// The resolution ladder and what-if on captures whose figures are known.
#include "support/support.h"

#include <impasto/base/random.h>
#include <impasto/limits/ladder.h>
#include <impasto/limits/what_if.h>
#include <impasto/pace/pipeline.h>

using namespace impasto;
using namespace impasto::limits;

namespace {

constexpr double cpuMs = 10, fixedMs = 4, perMpixMs = 3; // they meet at 2 megapixels

/// Runs at a size, each with half a percent of noise of its own.
Rung rung(double megapixels, std::size_t runs, bool lanes, std::uint64_t seed = 1) {
    RandomStream noise(seed, fmt::format("rung {}", megapixels));
    Rung out{Megapixels(megapixels), {}};
    for (std::size_t i = 0; i < runs; ++i) {
        const double cpu = cpuMs * (1 + 0.004 * noise.normal()),
                     gpu = (fixedMs + perMpixMs * megapixels) * (1 + 0.004 * noise.normal());
        auto c = support::flatCapture(std::max(cpu, gpu), 1000, lanes ? std::optional(cpu) : std::nullopt,
                                      lanes ? std::optional(gpu) : std::nullopt);
        out.runs.push_back(std::make_shared<const capture::Capture>(std::move(c)));
    }
    return out;
}

Ladder ladderAt(std::initializer_list<double> sizes, bool lanes, std::uint64_t seed = 1) {
    std::vector<Rung> rungs;
    for (const double size : sizes) rungs.push_back(rung(size, rungs.empty() ? 3 : 1, lanes, seed));
    const auto all = laddersOf(rungs);
    EXPECT_EQ(all.size(), 1U);
    return all.empty() ? Ladder{} : all.front();
}

bool holds(const stats::Interval& i, double truth) {
    return std::abs(i.estimate - truth) <= i.halfWidth.value_or(0);
}

} // namespace

TEST(LadderTest, BothLanesGiveCeilingSlopeAndCrossing) {
    const auto l = ladderAt({3.7, 2.2, 0.9}, true);
    ASSERT_TRUE(l.fit.ceilingMs && l.fit.gpuFixedMs && l.fit.gpuPerMegapixelMs && l.changesSides);
    EXPECT_NEAR(l.fit.ceilingMs->estimate, cpuMs, 0.1);
    EXPECT_NEAR(l.fit.gpuFixedMs->estimate, fixedMs, 0.3);
    EXPECT_NEAR(l.fit.gpuPerMegapixelMs->estimate, perMpixMs, 0.1);
    EXPECT_NEAR(l.changesSides->estimate, 2, 0.1);
    EXPECT_FALSE(l.byTimes);
    const auto p = l.at(Megapixels(5));
    ASSERT_TRUE(p);
    EXPECT_NEAR(p->ms, 19, 0.5);
    EXPECT_LT(p->lowMs, 19);
    EXPECT_GT(p->highMs, 19);
    EXPECT_NEAR(l.at(Megapixels(0.1))->ms, cpuMs, 0.1);
}

TEST(LadderTest, FrameTimesAloneGiveTheSameWhereBothSidesWereSeen) {
    const auto l = ladderAt({6, 4, 3, 1.5, 0.8}, false);
    EXPECT_TRUE(l.byTimes);
    ASSERT_TRUE(l.fit.ceilingMs && l.fit.gpuPerMegapixelMs && l.changesSides);
    EXPECT_NEAR(l.fit.ceilingMs->estimate, cpuMs, 0.1);
    EXPECT_NEAR(l.fit.gpuPerMegapixelMs->estimate, perMpixMs, 0.15);
    EXPECT_NEAR(l.changesSides->estimate, 2, 0.2);
}

TEST(LadderTest, WhatWasNotReachedIsNotSaid) {
    // All on the GPU's side: no ceiling, and nothing of smaller sizes than were run.
    const auto gpu = ladderAt({6, 5, 4}, false);
    EXPECT_FALSE(gpu.fit.ceilingMs);
    EXPECT_TRUE(gpu.fit.gpuPerMegapixelMs);
    EXPECT_FALSE(gpu.changesSides);
    EXPECT_FALSE(gpu.at(Megapixels(1)));
    EXPECT_TRUE(gpu.at(Megapixels(8)));
    // All on the CPU's: nothing of larger ones.
    const auto cpu = ladderAt({1.6, 1.2, 0.8}, false);
    ASSERT_TRUE(cpu.fit.ceilingMs);
    EXPECT_FALSE(cpu.fit.gpuPerMegapixelMs);
    EXPECT_FALSE(cpu.at(Megapixels(4)));
    EXPECT_TRUE(cpu.at(Megapixels(0.2)));
    // Two sizes that differ do not tell which side the smaller lies on.
    const auto two = ladderAt({4, 1}, false);
    EXPECT_FALSE(two.fit.ceilingMs);
    EXPECT_FALSE(two.fit.gpuPerMegapixelMs);
    // Two alike: it is the CPU.
    EXPECT_TRUE(ladderAt({1.6, 0.8}, false).fit.ceilingMs);
    EXPECT_TRUE(laddersOf(std::vector{rung(2, 4, true)}).empty());
}

TEST(LadderTest, IntervalsHoldTheTruth) {
    int ceiling = 0, slope = 0, crossing = 0, rate = 0;
    constexpr int cases = 400;
    for (std::uint64_t seed = 1; seed <= cases; ++seed) {
        const auto l = ladderAt({3.7, 2.2, 1.7, 0.9}, true, seed);
        ceiling += holds(*l.fit.ceilingMs, cpuMs) ? 1 : 0;
        slope += holds(*l.fit.gpuPerMegapixelMs, perMpixMs) ? 1 : 0;
        crossing += holds(*l.changesSides, 2) ? 1 : 0;
        const auto p = *l.at(Megapixels(3));
        rate += p.lowMs <= 13 && 13 <= p.highMs ? 1 : 0;
    }
    EXPECT_GE(ceiling, 0.93 * cases);
    EXPECT_GE(slope, 0.93 * cases);
    EXPECT_GE(crossing, 0.93 * cases);
    EXPECT_GE(rate, 0.93 * cases);
}

TEST(WhatIfTest, TheLongerWorkDecides) {
    const std::vector<std::shared_ptr<const capture::Capture>> runs{
        std::make_shared<const capture::Capture>(support::flatCapture(20, 2000, 17.5, 20)),
        std::make_shared<const capture::Capture>(support::flatCapture(20.1, 2000, 17.5, 20.1))};
    const auto verdict = judge(runs, {}, {}).at(0);
    const auto all = whatIfsOf(verdict, runs, std::array{0.2});
    ASSERT_EQ(all.size(), 3U); // no heat, no copy route
    EXPECT_EQ(all[0].change, Change::GpuFaster);
    EXPECT_NEAR(all[0].rate.value(), 1000 / 17.5, 0.5); // the CPU takes over
    EXPECT_EQ(all[0].then, Brake::Cpu);
    EXPECT_NEAR(all[1].rate.value(), 1000 / 20.05, 0.5); // as it is: a CPU under a GPU limit changes nothing
    EXPECT_EQ(all[1].then, Brake::Gpu);
    EXPECT_NEAR(all[2].rate.value(), 1.2 * 1000 / 20.05, 0.6);
    for (const auto& w : all) {
        EXPECT_LT(w.low, w.rate);
        EXPECT_GT(w.high, w.rate);
    }
    const auto every = whatIfsOf(verdict, runs); // each share of each chip
    ASSERT_EQ(every.size(), 3 * fasterBy.size());
    for (std::size_t i = 0; i < fasterBy.size(); ++i) EXPECT_EQ(every[i].by, fasterBy[i]);
    EXPECT_NEAR(every.back().rate.value(), 1.5 * 1000 / 20.05, 0.8);
    // Frame times alone say nothing of it; a cap holds what it held.
    const std::vector<std::shared_ptr<const capture::Capture>> times{
        std::make_shared<const capture::Capture>(support::flatCapture(20, 2000))};
    EXPECT_TRUE(whatIfsOf(judge(times, {}, {}).at(0), times).empty());
}

TEST(WhatIfTest, ALaneThatTakesTurnsWithTheOtherShortensTheFrame) {
    // One frame in flight: the GPU begins when the CPU has three quarters of its work behind it.
    pace::Pipeline p;
    p.framesInFlight = 1;
    p.overlap = 0.25;
    const auto work = [](double mean, double per) {
        std::vector<double> out;
        for (std::size_t i = 0; i < 2000; ++i) out.push_back(mean * (1 + 0.1 * std::sin(static_cast<double>(i) / per)));
        return out;
    };
    const auto rateOf = [&](double cpuFaster, double gpuFaster) {
        const auto frames = pace::simulate(p, work(8 / cpuFaster, 70), work(10 / gpuFaster, 110));
        return 2000 * 1000 / (frames.back().shown + 8);
    };
    capture::Capture c;
    c.framesMs = pace::shownIntervals(pace::simulate(p, work(8, 70), work(10, 110)));
    c.framesMs.insert(c.framesMs.begin(), 16);
    c.cpuWorkMs = work(8, 70);
    c.gpuWorkMs = work(10, 110);
    const std::vector runs{std::make_shared<const capture::Capture>(c)};
    const auto verdict = judge(runs, {}, {}).front();
    ASSERT_EQ(verdict.brake, Brake::CannotTell);
    ASSERT_FALSE(verdict.flat);
    std::size_t told = 0;
    for (const auto& w : whatIfsOf(verdict, runs, std::array{0.2})) {
        if (w.change != Change::CpuFaster && w.change != Change::GpuFaster) continue;
        const bool cpu = w.change == Change::CpuFaster;
        const double truth = rateOf(cpu ? 1.2 : 1, cpu ? 1 : 1.2);
        EXPECT_LE(w.low.value(), truth) << (cpu ? "CPU" : "GPU");
        EXPECT_GE(w.high.value(), truth) << (cpu ? "CPU" : "GPU");
        EXPECT_GT(w.high.value(), rateOf(1, 1) * 1.03) << "it may help";
        ++told;
    }
    EXPECT_EQ(told, 2U);
}
