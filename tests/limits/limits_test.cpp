// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/limits/limits.h>

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
