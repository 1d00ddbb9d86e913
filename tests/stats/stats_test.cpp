// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/frames/summary.h>
#include <impasto/stats/solve.h>
#include <impasto/stats/stats.h>

using namespace impasto;
using namespace impasto::stats;
using namespace impasto::frames;

TEST(StatsTest, EmptyInputIsUndefined) {
    EXPECT_FALSE(quantile({}, 0.5));
    EXPECT_FALSE(mean({}));
    EXPECT_FALSE(standardDeviation(std::vector{1.0}));
    EXPECT_FALSE(summarize({}));
    EXPECT_FALSE(meanInterval({}));
    EXPECT_FALSE(low({}, 0.01, stats::LowRule::WorstMean));
}

TEST(StatsTest, DeviationStandsAShift) {
    const std::vector<double> base{4, 7, 13, 16};
    for (const double shift : {0.0, 1e8, 1e9}) {
        std::vector<double> v = base;
        for (double& x : v) x += shift;
        EXPECT_NEAR(*standardDeviation(v), std::sqrt(30.0), 1e-6) << shift;
    }
}

TEST(StatsTest, QuantilesByProperties) {
    RandomStream s(4, "q");
    std::vector<double> v;
    for (int i = 0; i < 501; ++i) v.push_back(s.normal());
    for (int type = 1; type <= 9; ++type) {
        double last = -1e9;
        for (double p = 0; p <= 1.0; p += 0.01) {
            const double q = *quantile(v, p, type);
            EXPECT_GE(q, last) << type << " at " << p;
            last = q;
        }
        std::vector<double> scaled = v;
        for (double& x : scaled) x = 3 * x + 5;
        EXPECT_NEAR(*quantile(scaled, 0.37, type), 3 * *quantile(v, 0.37, type) + 5, 1e-12) << type;
    }
}

TEST(StatsTest, AverageIsFramesByTime) {
    const std::vector<double> frames{10, 10, 10, 50};
    EXPECT_DOUBLE_EQ(summarize(frames)->average.value(), 50.0); // the mean of the rates would be 80
}

TEST(StatsTest, ShareWithinTheBudget) {
    const std::vector<double> frames{16, 18.3, 18.4, 20}; // a tenth over the budget is borne: 18.33 ms
    EXPECT_DOUBLE_EQ(*summarize(frames, frames::OnTime{Fps(60)})->onTimeShare, 0.5);
    EXPECT_FALSE(summarize(frames)->onTimeShare);
}

TEST(StatsTest, IntervalsRestOnRuns) {
    const std::vector<double> one{60.0}, three{60.0, 61.0, 62.0};
    EXPECT_FALSE(meanInterval(one)->halfWidth);
    // t(0.975, 2) = 4.302653, sd 1, n 3
    EXPECT_NEAR(*meanInterval(three)->halfWidth, 4.302652729911275 / std::sqrt(3.0), 1e-9);
    const auto difference = differenceInterval(three, std::vector{70.0, 71.0, 72.0});
    EXPECT_DOUBLE_EQ(difference->estimate, 10);
    EXPECT_TRUE(difference->excludesZero());
    EXPECT_FALSE(differenceInterval(one, three)->halfWidth);
}

TEST(StatsTest, HistogramCountsEverything) {
    const auto h = histogram(std::vector<double>{-5, 0.5, 1.5, 99}, 0, 2, 2);
    EXPECT_EQ(h.counts, (std::vector<std::size_t>{2, 2}));
}

TEST(StatsTest, ASymmetricSystemIsSolved) {
    // By hand: 4 x + 2 y = 8, 2 x + 3 y = 8.
    const std::vector<double> a{4, 2, 2, 3}, b{8, 8};
    const auto x = stats::solve(a, b);
    ASSERT_EQ(x.size(), 2U);
    EXPECT_NEAR(x[0], 1, 1e-12);
    EXPECT_NEAR(x[1], 2, 1e-12);
}
