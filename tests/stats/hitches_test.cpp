// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <impasto/stats/stats.h>

using namespace impasto;
using namespace impasto::stats;

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

TEST(HitchesTest, TheQuickDismissalAgreesWithTheDefinition) {
    RandomStream s(8, "hitch");
    std::vector<double> frames;
    for (int i = 0; i < 3000; ++i) frames.push_back(8 + 4 * s.uniform() + (s.uniform() < 0.05 ? 30 * s.uniform() : 0));
    std::vector<std::size_t> wanted;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        const std::size_t first = i < 15 ? 0 : i - 15, last = std::min(frames.size(), i + 16);
        std::vector<double> around(frames.begin() + static_cast<std::ptrdiff_t>(first),
                                   frames.begin() + static_cast<std::ptrdiff_t>(last));
        std::sort(around.begin(), around.end());
        const double median = around[around.size() / 2];
        if (frames[i] > 1.75 * median && frames[i] > median + 4) wanted.push_back(i);
    }
    std::vector<std::size_t> got;
    for (const auto& h : hitches(frames)) got.push_back(h.frame);
    EXPECT_EQ(got, wanted);
}
