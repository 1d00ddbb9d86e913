// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <impasto/stats/compare.h>

using namespace impasto::stats;

TEST(CompareTest, TheThreeWords) {
    const std::vector<double> base{60.1, 59.8, 60.3, 60.0}, same{60.2, 59.9, 60.1, 60.0}, better{66.0, 65.7, 66.2},
        wild{52.0, 69.0};
    EXPECT_EQ(compare(base, better, 1)->verdict, Verdict::Differs);
    const auto equal = *compare(base, same, 1);
    EXPECT_EQ(equal.verdict, Verdict::NoLargerDifference);
    EXPECT_LT(equal.largest, 1);
    EXPECT_GT(equal.largest, std::abs(equal.difference.estimate));
    EXPECT_EQ(compare(base, wild, 1)->verdict, Verdict::NotEnoughRuns);
    EXPECT_EQ(compare(base, same, 0.01)->verdict, Verdict::NotEnoughRuns) << "the margin is finer than the runs";
    const std::vector<double> one{80.0};
    EXPECT_EQ(compare(base, one, 1)->verdict, Verdict::NotEnoughRuns) << "one run tells nothing, however far";
    EXPECT_FALSE(compare(base, {}, 1));
    EXPECT_FALSE(equivalenceP(base, one, 1));
}

TEST(CompareTest, MoreRunsNarrowTheInterval) {
    EXPECT_FALSE(halfWidthAt(1, 1));
    double before = 1e9;
    for (std::size_t n = 2; n < 12; ++n) {
        EXPECT_LT(*halfWidthAt(1.3, n), before);
        before = *halfWidthAt(1.3, n);
    }
    const auto n = runsFor(1.3, 1.0);
    ASSERT_TRUE(n);
    EXPECT_LE(*halfWidthAt(1.3, *n), 1.0);
    EXPECT_GT(*halfWidthAt(1.3, *n - 1), 1.0);
    EXPECT_FALSE(runsFor(1.3, 1e-6));
}

TEST(CompareTest, TheSpreadOfAFamilyFallsIntoTwo) {
    impasto::RandomStream s(1, "family");
    double between = 0;
    constexpr int families = 400;
    for (int f = 0; f < families; ++f) {
        std::vector<double> runs, own;
        for (int i = 0; i < 5; ++i) {
            runs.push_back(60 + 1.2 * s.normal() + 0.5 * s.normal());
            own.push_back(0.5);
        }
        const auto family = *familyOf(runs, own);
        EXPECT_DOUBLE_EQ(*family.withinSd, 0.5);
        EXPECT_LE(*family.betweenSd, *family.spreadSd);
        between += *family.betweenSd * *family.betweenSd;
    }
    EXPECT_NEAR(std::sqrt(between / families), 1.2, 0.1);
    const std::vector<double> alike{60, 60.1, 59.9}, unsure{1, 1, 1};
    EXPECT_EQ(*familyOf(alike, unsure)->betweenSd, 0) << "never under nothing";
    EXPECT_FALSE(familyOf(alike)->betweenSd);
    EXPECT_FALSE(familyOf({}));
}

// Garwood (1936): exact limits of a Poisson mean, as printed in tables of the 95% interval.
TEST(CompareTest, CountsHaveTheirExactInterval) {
    EXPECT_NEAR(*rateHalfWidth({0, 1}), 3.689, 0.001);
    EXPECT_NEAR(*rateHalfWidth({1, 1}), 5.572 - 1, 0.001);
    EXPECT_NEAR(*rateHalfWidth({10, 1}), 18.390 - 10, 0.001);
    EXPECT_NEAR(*rateHalfWidth({10, 5}), (18.390 - 10) / 5, 0.001);
    EXPECT_FALSE(rateHalfWidth({3, 0}));
}

TEST(CompareTest, AHitchARunMoreIsNoCertainty) {
    const std::vector<double> none{0, 0}, one{1, 1};
    const auto plain = compare(none, one, 1);
    ASSERT_TRUE(plain);
    EXPECT_FALSE(plain->difference.halfWidth) << "they do not vary, which is no width of nought";
    const auto counted = compareCounts(*plain, {0, 2}, {2, 2}, 1);
    EXPECT_EQ(counted.verdict, Verdict::NotEnoughRuns);
    ASSERT_TRUE(counted.difference.halfWidth);
    EXPECT_GT(*counted.difference.halfWidth, 1);
    const auto many =
        compareCounts(*compare(std::vector<double>{2, 3, 2}, std::vector<double>{22, 23, 21}, 1), {7, 3}, {66, 3}, 1);
    EXPECT_EQ(many.verdict, Verdict::Differs);
}
