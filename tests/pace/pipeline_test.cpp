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
