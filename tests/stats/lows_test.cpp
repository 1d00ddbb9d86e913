// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>
#include <impasto/stats/lows.h>

using namespace impasto;
using namespace impasto::stats;
using stats::LowRule;

TEST(LowsTest, WorstMeanCountsTheLastFrameByItsFraction) {
    // Acerbi and Tasche's tail mean with a fractional weight; values worked by hand.
    const std::vector<double> x{10, 12, 11, 30, 14, 13, 50, 12, 11, 10};
    EXPECT_NEAR(1000 / low(x, 0.1, LowRule::WorstMean)->rate.value(), 50, 1e-12);
    EXPECT_NEAR(1000 / low(x, 0.15, LowRule::WorstMean)->rate.value(), (50 + 0.5 * 30) / 1.5, 1e-12);
    EXPECT_NEAR(1000 / low(x, 0.25, LowRule::WorstMean)->rate.value(), 34.8, 1e-12);
    EXPECT_EQ(low(x, 0.25, LowRule::WorstMean)->frames, 3);
}

TEST(LowsTest, PercentileIsTypeSeven) {
    std::vector<double> x;
    for (int i = 1; i <= 100; ++i) x.push_back(i);
    EXPECT_NEAR(1000 / low(x, 0.01, LowRule::Percentile)->rate.value(), 99.01, 1e-9);
    EXPECT_EQ(low(x, 0.01, LowRule::Percentile)->frames, 1);
}

TEST(LowsTest, TimeShareSumsFromTheSlowest) {
    // 1% of 1000 ms is 10 ms: the 50 ms frame alone passes it; 6% is 60 ms: the next one is needed.
    std::vector<double> x(90, 10.0);
    x.push_back(50);
    x.push_back(30);
    x.push_back(20);
    EXPECT_NEAR(1000 / low(x, 0.01, LowRule::TimeShare)->rate.value(), 50, 1e-12);
    EXPECT_NEAR(1000 / low(x, 0.06, LowRule::TimeShare)->rate.value(), 30, 1e-12);
    EXPECT_EQ(low(x, 0.06, LowRule::TimeShare)->frames, 2);
}

TEST(LowsTest, SchoolsDifferOnSpikesAndAgreeOnAFlatLine) {
    std::vector<double> spiky(990, 10.0);
    spiky.insert(spiky.end(), 10, 100.0);
    EXPECT_GT(low(spiky, 0.01, LowRule::Percentile)->rate / low(spiky, 0.01, LowRule::WorstMean)->rate, 1.5);
    const std::vector<double> flat(1000, 20.0);
    for (const auto school : {LowRule::Percentile, LowRule::WorstMean, LowRule::TimeShare})
        EXPECT_NEAR(low(flat, 0.01, school)->rate.value(), 50, 1e-9);
}

TEST(LowsTest, OneFrameIsItsOwnLow) {
    for (const auto school : {LowRule::Percentile, LowRule::WorstMean, LowRule::TimeShare})
        EXPECT_NEAR(low(std::vector{20.0}, 0.001, school)->rate.value(), 50, 1e-9);
}
