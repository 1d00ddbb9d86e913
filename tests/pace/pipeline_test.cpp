// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/pace/pipeline.h>

using namespace impasto;
using namespace impasto::pace;

namespace {

double steadyPeriod(const Pipeline& p, double c, double g, std::size_t frames = 2000) {
    const auto all = simulate(p, std::vector(frames, c), std::vector(frames, g));
    return (all.back().shown - all[frames / 2].shown) / static_cast<double>(frames - 1 - frames / 2);
}

} // namespace

TEST(PipelineTest, TheLimiterHoldsThePeriod) {
    Pipeline p;
    p.limiterMs = 20;
    EXPECT_NEAR(steadyPeriod(p, 5, 8), 20, 1e-9);
    p.limiterMs = 6;
    EXPECT_NEAR(steadyPeriod(p, 5, 8), 8, 1e-9);
}

TEST(PipelineTest, ACopyStageIsSerial) {
    Pipeline p;
    p.copyMs = 11;
    EXPECT_NEAR(steadyPeriod(p, 5, 8), 11, 1e-9);
}

TEST(PipelineTest, TheGpuBeginsAFrameBeforeItsCpuWorkEndsAndNeverEndsBefore) {
    Pipeline p;
    p.framesInFlight = 1;
    p.overlap = 0.25;
    const std::vector<double> cpu(20, 8), gpu(20, 6), little(20, 1);
    EXPECT_NEAR(shownIntervals(simulate(p, cpu, gpu)).back(), 0.75 * 8 + 6, 1e-9);
    for (const auto& frame : simulate(p, cpu, little))
        EXPECT_EQ(frame.gpuEnd, frame.cpuEnd) << "of the last it is told there";
}

TEST(PipelineTest, FixedSyncRoundsUpToWholeRefreshes) {
    Pipeline p;
    p.display = {run::Sync::Fixed, 1000.0 / 60, 1000.0 / 60};
    EXPECT_NEAR(steadyPeriod(p, 5, 10), 1000.0 / 60, 1e-6);
    EXPECT_NEAR(steadyPeriod(p, 5, 18), 18, 0.2) << "with three images the mean follows the work";
    const auto frames = simulate(p, std::vector(200, 5.0), std::vector(200, 18.0));
    for (const auto& f : frames)
        EXPECT_NEAR(std::remainder(f.shown - frames[0].shown, 1000.0 / 60),
                    std::remainder(-frames[0].shown, 1000.0 / 60), 17)
            << "shown on ticks";
}

TEST(PipelineTest, AVariablePanelFollowsInsideItsRange) {
    Pipeline p;
    p.display = {run::Sync::Variable, 1000.0 / 144, 1000.0 / 48};
    EXPECT_NEAR(steadyPeriod(p, 5, 12.3), 12.3, 1e-9);
    EXPECT_NEAR(steadyPeriod(p, 2, 3), 1000.0 / 144, 1e-6) << "never faster than its top";
}

TEST(PipelineTest, EveryFrameKeepsItsOrder) {
    Pipeline p;
    p.framesInFlight = 2;
    const auto frames = simulate(p, {std::vector{9.0, 3.0, 14.0, 2.0, 7.0}}, {std::vector{4.0, 20.0, 1.0, 9.0, 9.0}});
    for (std::size_t i = 0; i < frames.size(); ++i) {
        EXPECT_LE(frames[i].cpuStart, frames[i].cpuEnd);
        EXPECT_LE(frames[i].cpuEnd, frames[i].gpuStart);
        EXPECT_LE(frames[i].gpuEnd, frames[i].shown);
        if (i > 0) {
            EXPECT_GE(frames[i].shown, frames[i - 1].shown);
        }
        if (i >= 2) {
            EXPECT_GE(frames[i].cpuStart, frames[i - 2].gpuEnd);
        }
    }
    EXPECT_EQ(shownIntervals(frames).size(), 4U);
    EXPECT_GT(*meanLatencyMs(frames), 0);
    EXPECT_FALSE(meanLatencyMs({}));
}

// Without a free image to wait for, finished frames would pile up before the slowest stage.
TEST(PipelineTest, ImagesBoundTheQueueBeforeASlowCopy) {
    const auto latencies = [](int images) {
        Pipeline p;
        p.framesInFlight = 3;
        p.images = images;
        p.copyMs = 20;
        const std::vector<double> c(400, 4), g(400, 6);
        const auto all = simulate(p, c, g);
        return std::pair(all[100].shown - all[100].cpuStart, all[399].shown - all[399].cpuStart);
    };
    const auto [early, late] = latencies(3);
    EXPECT_NEAR(early, late, 1e-9) << "it does not grow";
    EXPECT_GT(latencies(8).second, late + 4 * 20) << "as long as the images let it";
}

TEST(PipelineTest, LimitersHoldAtTheirPlace) {
    for (const auto place : {run::LimiterPlace::Engine, run::LimiterPlace::Present, run::LimiterPlace::Driver,
                             run::LimiterPlace::Compositor}) {
        Pipeline p;
        p.limiterMs = 15;
        p.limiterPlace = place;
        const std::vector<double> c(100, 4), g(100, 6);
        const auto all = simulate(p, c, g);
        EXPECT_NEAR(all[99].shown - all[98].shown, 15, 1e-9) << run::keyOf(place);
        const double at = place == run::LimiterPlace::Engine    ? all[99].cpuStart - all[98].cpuStart
                          : place == run::LimiterPlace::Present ? all[99].cpuEnd - all[98].cpuEnd
                          : place == run::LimiterPlace::Driver  ? all[99].gpuStart - all[98].gpuStart
                                                                : all[99].shown - all[98].shown;
        EXPECT_NEAR(at, 15, 1e-9) << run::keyOf(place);
    }
}

TEST(PipelineTest, InventedFramesSpreadOverTheBasePeriod) {
    Pipeline p;
    p.multiplier = 3;
    FramePipeline frames(p);
    for (int i = 0; i < 200; ++i) {
        frames.start();
        frames.cpu(5);
        const auto before = frames.previous();
        const auto now = frames.gpu(24);
        if (i < 100) continue;
        ASSERT_EQ(frames.invented().size(), 2U);
        EXPECT_NEAR(frames.invented()[0] - before.shown, 8, 1e-6);
        EXPECT_NEAR(frames.invented()[1] - frames.invented()[0], 8, 1e-6);
        EXPECT_NEAR(now.shown - frames.invented()[1], 8, 1e-6);
        EXPECT_NEAR(now.shown - now.ready, 16, 1e-6) << "the rendered frame is held back";
    }
}
