// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <impasto/frames/summary.h>

using namespace impasto;
using namespace impasto::stats;
using namespace impasto::frames;

TEST(HitchesTest, AFrameFarOverItsNeighboursIsFound) {
    std::vector<double> frames(200, 16.0);
    frames[100] = 40;
    frames[101] = 35; // two in a row
    frames[150] = 21; // too small
    const auto found = hitches(frames);
    ASSERT_EQ(found.size(), 2U);
    EXPECT_EQ(found[0].frame, 100U);
    EXPECT_DOUBLE_EQ(found[0].atMs, 100 * 16.0 + 40);
    EXPECT_DOUBLE_EQ(found[0].medianMs, 16);
    EXPECT_EQ(found[1].frame, 101U);
}

TEST(HitchesTest, AtALowRateTenMillisecondsMoreAreOneWhateverTheRatio) {
    std::vector<double> frames(400, 38.0); // 26 fps
    for (std::size_t i = 0; i < 13; ++i) frames[20 + 25 * i] = 48 + static_cast<double>(i);
    frames[390] = 45.5;
    EXPECT_EQ(hitches(frames).size(), 13U);
    EXPECT_EQ(hitches(frames, {1.75, 4, 31, 1000}).size(), 0U) << "none is 1.75 times the others";
}

TEST(StallsTest, SlowFramesInARowAreOneStallThoughNoHitch) {
    std::vector<double> frames;
    for (int i = 0; i < 1290; ++i) frames.push_back(16.6 + 0.2 * (i % 3));
    for (int i = 0; i < 100; ++i) frames.push_back(168 + 0.2 * (i % 21)); // 17 s
    for (int i = 0; i < 1290; ++i) frames.push_back(16.6 + 0.2 * (i % 3));
    const auto s = summarize(frames);
    EXPECT_LE(s->hitches.size(), 32U) << "each is its neighbours' median, but for those near the ends";
    ASSERT_EQ(s->stalls.size(), 1U);
    EXPECT_NEAR(s->stalls[0].fromMs, 1290 * 16.8, 1);
    EXPECT_EQ(s->stalls[0].frames, 100U);
    EXPECT_NEAR(s->stalledMs(), 17000, 200);
    EXPECT_NEAR(s->stalls[0].lostMs, s->stalledMs() - 100 * 16.8, 30);
}

TEST(StallsTest, WhatIsOneAndWhatIsNone) {
    const std::vector<double> even(600, 16.7);
    EXPECT_TRUE(stalls(even).empty());
    EXPECT_TRUE(stalls({}).empty());
    EXPECT_TRUE(stalls(std::vector<double>{2000, 3000, 16}).empty()) << "no usual rate";
    auto hitch = even;
    hitch[300] = 300;
    EXPECT_TRUE(stalls(hitch).empty()) << "one hitch leaves the second two thirds of its frames";
    auto one = even;
    one[300] = 2500; // another window
    ASSERT_EQ(stalls(one).size(), 1U);
    EXPECT_EQ(stalls(one)[0].frames, 1U);
    EXPECT_NEAR(stalls(one)[0].fromMs, 300 * 16.7, 1e-6);
    EXPECT_NEAR(stalls(one)[0].toMs, 300 * 16.7 + 2500, 1e-6);
    auto heavy = even; // a part at half the rate
    heavy.insert(heavy.end(), 300, 33.4);
    EXPECT_TRUE(stalls(heavy).empty());
    auto two = even;
    two.insert(two.begin() + 200, {900, 700});
    two.insert(two.end(), {1500, 16.7});
    EXPECT_EQ(stalls(two).size(), 2U);
}

TEST(HitchesTest, AStepToAHeavierPartIsNone) {
    std::vector<double> frames(100, 10.0);
    frames.insert(frames.end(), 100, 25.0);
    EXPECT_LE(hitches(frames).size(), 15U) << "only until the window has moved on";
}

TEST(HitchesTest, TimeLostIsWhatTheyTakeOverTheirNeighbours) {
    std::vector<double> frames(400, 16.0);
    frames[100] = 40;
    frames[300] = 56.5;
    EXPECT_DOUBLE_EQ(summarize(frames)->lostMs, 24 + 40.5);
    EXPECT_DOUBLE_EQ(summarize(std::vector<double>(400, 16.0))->lostMs, 0);
}

TEST(HitchesTest, TheWorstDipIsTheSlowestHalfSecondUnderTheTarget) {
    std::vector<double> frames(600, 16.0); // 62.5 fps
    std::fill(frames.begin() + 300, frames.begin() + 340, 25.0);
    const auto dip = worstDip(frames, Fps(60));
    ASSERT_TRUE(dip);
    EXPECT_NEAR(dip->lowest.value(), 40, 1e-9);
    EXPECT_GE(dip->atMs, 300 * 16 + 500);
    EXPECT_LE(dip->atMs, 300 * 16 + 1000);
    EXPECT_GE(dip->lengthMs, 900);
    EXPECT_LE(dip->lengthMs, 2000);
    EXPECT_FALSE(worstDip(frames, Fps(39))) << "it is never that slow";
    EXPECT_FALSE(worstDip(std::vector<double>(600, 16.0), Fps(60)));
}

namespace {

/// Every frame's median, from the sorted frames around it.
std::vector<double> mediansByDefinition(const std::vector<double>& frames, std::size_t neighbours) {
    std::vector<double> out;
    const std::size_t reach = neighbours / 2;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        const std::size_t first = i < reach ? 0 : i - reach, last = std::min(frames.size(), i + reach + 1);
        std::vector<double> around(frames.begin() + static_cast<std::ptrdiff_t>(first),
                                   frames.begin() + static_cast<std::ptrdiff_t>(last));
        std::sort(around.begin(), around.end());
        out.push_back(around[around.size() / 2]);
    }
    return out;
}

} // namespace

TEST(HitchesTest, HitchesAreThoseOfTheDefinitionUnderEveryRule) {
    RandomStream s(8, "hitch");
    for (const HitchRule& rule : {HitchRule{}, {1.2, 0, 5}, {3, 10, 101, 20}, {1, 0, 3, 1000}})
        for (const std::size_t count : {1U, 2U, 16U, 31U, 40U, 3000U})
            for (const double grain : {0.0, 1.0}) { // frame times of whole ms are often alike
                std::vector<double> frames;
                for (std::size_t i = 0; i < count; ++i) {
                    const double ms = 8 + 4 * s.uniform() + (s.uniform() < 0.05 ? 30 * s.uniform() : 0);
                    frames.push_back(grain > 0 ? std::round(ms) : ms);
                }
                const auto medians = mediansByDefinition(frames, rule.neighbours);
                std::vector<std::pair<std::size_t, double>> wanted, got;
                double squares = 0;
                for (std::size_t i = 0; i < frames.size(); ++i) {
                    squares += (frames[i] - medians[i]) * (frames[i] - medians[i]);
                    const double over = frames[i] - medians[i];
                    if (over > rule.outrightMs || (frames[i] > rule.ratio * medians[i] && over > rule.excessMs))
                        wanted.emplace_back(i, medians[i]);
                }
                for (const auto& h : hitches(frames, rule)) got.emplace_back(h.frame, h.medianMs);
                EXPECT_EQ(got, wanted) << rule.neighbours << " of " << count;
                const auto summary = summarize(frames, {}, rule);
                EXPECT_EQ(summary->hitches.size(), wanted.size());
                EXPECT_NEAR(summary->spreadMs, std::sqrt(squares / static_cast<double>(count)), 1e-9);
            }
}
