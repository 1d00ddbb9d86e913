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
    for (const HitchRule& rule : {HitchRule{}, {1.2, 0, 5}, {3, 10, 101}, {1, 0, 3}})
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
                    if (frames[i] > rule.ratio * medians[i] && frames[i] > medians[i] + rule.excessMs)
                        wanted.emplace_back(i, medians[i]);
                }
                for (const auto& h : hitches(frames, rule)) got.emplace_back(h.frame, h.medianMs);
                EXPECT_EQ(got, wanted) << rule.neighbours << " of " << count;
                const auto summary = summarize(frames, {}, rule);
                EXPECT_EQ(summary->hitches.size(), wanted.size());
                EXPECT_NEAR(summary->spreadMs, std::sqrt(squares / static_cast<double>(count)), 1e-9);
            }
}
