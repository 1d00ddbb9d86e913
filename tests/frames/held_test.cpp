// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/frames/held.h>

using namespace impasto;
using namespace impasto::frames;
using impasto::support::flatCapture;

namespace {

const display::Panel fixed60{{1920, 1080}, Hertz(60), {}};
const display::Panel headset90{{2160, 2160}, Hertz(90), {}, {}, true};

capture::Capture ofFrames(std::vector<double> ms) {
    capture::Capture c;
    c.framesMs = std::move(ms);
    return c;
}
bool held(const capture::Capture& c, const OnTime& rule, double share = 0.97) {
    return isHeld(heldParts(c, rule), rule.target, share);
}

} // namespace

TEST(HeldTest, ALockedRateIsHeld) {
    const OnTime sixty{Fps(60)};
    const auto locked = ofFrames(std::vector<double>(3600, 16.67));
    EXPECT_DOUBLE_EQ(onTimeShare(locked.framesMs, sixty), 1);
    EXPECT_TRUE(held(locked, sixty, 0.99));
    EXPECT_FALSE(summarize(locked.framesMs, sixty)->worstDip);
    // A limiter at the target is late by some hundredths.
    EXPECT_TRUE(held(ofFrames(std::vector<double>(3600, 16.74)), sixty, 0.99));
    EXPECT_FALSE(held(ofFrames(std::vector<double>(3600, 17.0)), sixty)) << "58.8 fps is not 60";
}

TEST(HeldTest, InAHeadsetAFrameIsOnTimeOnItsRefresh) {
    const auto rule = onTimeOf(Fps(90), 0.1, headset90, nullptr);
    ASSERT_TRUE(rule.refreshMs);
    auto frames = std::vector<double>(4000, 1000.0 / 90);
    for (std::size_t i = 0; i < frames.size(); i += 2) frames[i] += i % 4 == 0 ? 0.4 : -0.4;
    EXPECT_DOUBLE_EQ(onTimeShare(frames, rule), 1);
    for (std::size_t i = 0; i < frames.size(); i += 10) frames[i] = 2000.0 / 90;
    EXPECT_DOUBLE_EQ(onTimeShare(frames, rule), 0.9) << "every tenth is shown a refresh late";
}

TEST(HeldTest, UnderFixedSyncARateIsMeantForWholeRefreshes) {
    run::Variant fixed;
    fixed.sync = run::Sync::Fixed;
    const auto at = [&](double target) { return onTimeOf(Fps(target), 0.1, fixed60, &fixed).mostMs(); };
    EXPECT_DOUBLE_EQ(at(60), 1.5 * 1000 / 60);
    EXPECT_DOUBLE_EQ(at(30), 2.5 * 1000 / 60);
    EXPECT_DOUBLE_EQ(at(40), 2.5 * 1000 / 60) << "shown for one and two in turn";
    const run::Variant free;
    EXPECT_DOUBLE_EQ(onTimeOf(Fps(40), 0.1, fixed60, &free).mostMs(), 1.1 * 25) << "torn frames wait for nothing";
}

TEST(HeldTest, EverySecondAndEveryPartCounts) {
    const OnTime rule{Fps(60)};
    auto frames = std::vector<double>(3600, 1000.0 / 60);
    EXPECT_TRUE(held(ofFrames(frames), rule));
    frames[1000] = 140; // one second of 53 frames
    EXPECT_FALSE(held(ofFrames(frames), rule)) << "on time 99.97%, and one second under 54";
    auto parts = ofFrames(std::vector<double>(3600, 14.0));
    for (std::size_t i = 1800; i < 2400; ++i) parts.framesMs[i] = 17.5;
    EXPECT_TRUE(held(parts, rule)) << "as a whole, every frame within a tenth of the budget";
    parts.marks = {{"fields", 0}, {"market", 1800}, {"quay", 2400}};
    EXPECT_FALSE(held(parts, rule)) << "one part is at 57";
    const auto found = heldParts(parts, rule);
    ASSERT_EQ(found.size(), 3U);
    EXPECT_EQ(found[1].part, "market");
    EXPECT_NEAR(found[1].average.value(), 57.14, 0.01);
}

TEST(HeldTest, AHeavyPartIsNotADip) {
    std::vector<double> frames(2400, 15.0);
    for (std::size_t i = 1200; i < 1800; ++i) frames[i] = 25.0;
    const std::vector<capture::PartRange> parts{{"fields", 0, 1200}, {"market", 1200, 1800}, {"quay", 1800, 2400}};
    EXPECT_TRUE(summarize(frames, OnTime{Fps(60)})->worstDip) << "without parts it is one";
    EXPECT_FALSE(summarize(frames, OnTime{Fps(60)}, {}, parts)->worstDip);
    for (std::size_t i = 2000; i < 2040; ++i) frames[i] = 30.0;
    const auto dip = summarize(frames, OnTime{Fps(60)}, {}, parts)->worstDip;
    ASSERT_TRUE(dip);
    EXPECT_GT(dip->atMs, 1200 * 15 + 600 * 25 + 200 * 15) << "counted from the start of the run";
    // Ten percent under the target is borne.
    EXPECT_FALSE(summarize(std::vector<double>(2400, 1000.0 / 55), OnTime{Fps(60)})->worstDip);
}

TEST(HeldTest, ASteadyThirtyWithALowOfTwentyFiveHasSteadySeconds) {
    // Common practice, no source: 29.4 to 30.3 at a cap of 30 is called solved although its 1% low is about 25.
    std::vector<double> frames;
    for (int i = 0; i < 1800; ++i) frames.push_back(i % 60 == 30 ? 40.0 : i % 60 == 31 ? 26.7 : 1000.0 / 30);
    const auto s = *summarize(frames);
    EXPECT_NEAR(s.of(stats::LowRule::WorstMean).onePercent->rate.value(), 25, 0.5);
    EXPECT_GE(s.slowestSecond.value(), 29.4);
    EXPECT_LE(s.fastestSecond.value(), 30.4);
    EXPECT_TRUE(held(ofFrames(frames), OnTime{Fps(30)}));
}

TEST(HeldTest, StylesAskForTheirShares) {
    using run::Style;
    const auto share = [](Style style) { return run::ruleOf(style).onTimeShare; };
    EXPECT_EQ(share(Style::Competitive), 0.99);
    EXPECT_EQ(share(Style::Cinematic), 0.97);
    EXPECT_EQ(share(Style::Battery), 0.95);
    EXPECT_EQ(share(Style::WeakMachine), 0.95);
    EXPECT_EQ(share(Style::Headset), 0.99);
    EXPECT_EQ(share(Style::Quiet), 0.97);
    run::Brief brief;
    brief.onTimeShare = 0.9;
    EXPECT_EQ(brief.wishedOnTime(), 0.9) << "said by hand";
}
