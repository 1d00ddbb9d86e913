// SPDX-License-Identifier: GPL-3.0-or-later
// Two samples, equivalence, half widths, correlated means. Values from R 4 (t.test, boot) and 30-digit arithmetic over
// the data sets named; formulas from memory as the headers name them.
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/stats/blocks.h>
#include <impasto/stats/compare.h>

using namespace impasto::stats;

namespace {

const std::vector<double> sleepX{0.7, -1.6, -0.2, -1.2, -0.1, 3.4, 3.7, 0.8, 0, 2},
    sleepY{1.9, 0.8, 1.1, 0.1, -0.1, 4.4, 5.5, 1.6, 4.6, 3.4};
const std::vector<double> toothOj{15.2, 21.5, 17.6, 9.7,  14.5, 10,   8.2,  9.4,  16.5, 9.7,
                                  19.7, 23.3, 23.6, 26.4, 20,   25.2, 25.8, 21.2, 14.5, 27.3,
                                  25.5, 26.4, 22.4, 24.5, 24.8, 30.9, 26.4, 27.3, 29.4, 23},
    toothVc{4.2,  11.5, 7.3,  5.8,  6.4,  10,   11.2, 11.2, 5.2,  7,    16.5, 16.5, 15.2, 17.3, 22.5,
            17.3, 13.6, 14.5, 18.8, 15.5, 23.6, 18.5, 33.9, 25.5, 26.4, 32.5, 26.7, 21.5, 23.3, 29.5};
const std::vector<double> light1{850,  740, 900, 1070, 930, 850, 950,  980,  980, 880,
                                 1000, 980, 930, 650,  760, 810, 1000, 1000, 960, 960},
    light5{890, 840, 780, 810, 760, 810, 790, 810, 820, 850, 870, 870, 810, 740, 810, 940, 950, 800, 810, 870};
const std::vector<double> frameX{16.61, 16.72, 16.58, 16.95, 16.66, 16.7, 33.31, 16.64, 16.69, 16.71, 16.6, 16.83},
    frameY{16.43, 16.51, 16.39, 16.48, 16.62, 16.4, 16.55, 16.47, 16.45, 16.53};

/// x <- 1664525 x + 1013904223 mod 2^32; r(m) = (x >> 16) mod m.
class Congruential {
  public:
    explicit Congruential(std::uint32_t seed) : m_x(seed) {}
    std::uint32_t below(std::uint32_t m) {
        m_x = 1664525U * m_x + 1013904223U;
        return (m_x >> 16U) % m;
    }

  private:
    std::uint32_t m_x;
};

std::vector<double> autoregressive(std::uint32_t seed, double phi, std::size_t n) {
    Congruential r(seed);
    std::vector<double> out;
    double x = 0;
    for (std::size_t i = 0; i < n + 200; ++i) {
        double e = -5994;
        for (int k = 0; k < 12; ++k) e += r.below(1000);
        x = phi * x + e / 1000;
        if (i >= 200) out.push_back(x);
    }
    return out;
}

} // namespace

TEST(PublishedComparisonTest, WelchIntervals) {
    struct Case {
        const std::vector<double>&x, &y;
        double low, high;
    };
    for (const auto& c : {Case{sleepX, sleepY, -3.365483230712, 0.2054832307117},
                          Case{toothOj, toothVc, -0.1710156183672, 7.571015618367},
                          Case{light1, light5, 23.44296133294, 131.5570386671},
                          Case{frameX, frameY, -1.447279649112, 4.647946315779}}) {
        const auto i = *differenceInterval(c.y, c.x);
        EXPECT_NEAR(i.estimate - *i.halfWidth, c.low, 1e-9 * std::abs(c.low));
        EXPECT_NEAR(i.estimate + *i.halfWidth, c.high, 1e-9 * std::abs(c.high));
    }
}

// Values from R 4 (wilcox.test) and from counting all subsets; formula from memory of Mann and Whitney (1947).
TEST(PublishedComparisonTest, RankTests) {
    struct Case {
        std::vector<double> x, y;
        double u;
        std::optional<double> exact;
        double normal;
    };
    const Case cases[] = {
        {{1.1, 2.2, 3.3, 4.4, 5.5}, {0.9, 6.6, 7.7, 8.8, 9.9, 10.1}, 5, 19.0 / 231, 0.0828374251588},
        {{0.80, 0.83, 1.89, 1.04, 1.45, 1.38, 1.91, 1.64, 0.73, 1.46},
         {1.15, 0.88, 0.90, 0.74, 1.21},
         35,
         764.0 / 3003,
         0.244623605127},
        {{1, 2, 3, 4}, {5, 6, 7, 8, 9}, 0, 1.0 / 63, 0.0199644533052},
        {{1, 2, 2, 3, 3, 3, 4}, {2, 3, 4, 4, 5, 5, 6, 7}, 8.5, {}, 0.0252797368859},
        {sleepX, sleepY, 25.5, {}, 0.0693275754336},
        {{16.6, 16.6, 16.7, 16.7, 16.7, 33.3}, {16.6, 16.7, 16.8, 16.8, 33.3, 33.3, 33.3}, 11, {}, 0.159636567951}};
    for (const auto& c : cases) {
        const auto found = rankTest(c.y, c.x), approximate = rankTest(c.y, c.x, false);
        EXPECT_EQ(found->u, c.u);
        EXPECT_NEAR(found->p, c.exact.value_or(c.normal), 1e-10);
        EXPECT_NEAR(approximate->p, c.normal, 1e-10);
        EXPECT_NEAR(rankTest(c.x, c.y)->p, found->p, 1e-12) << "the sides may be changed";
    }
    const std::vector<double> same{3, 3}, none;
    EXPECT_FALSE(rankTest(same, same));
    EXPECT_FALSE(rankTest(same, none));
}

TEST(PublishedComparisonTest, TwoOneSidedTests) {
    struct Case {
        const std::vector<double>&x, &y;
        double margin, p;
        bool equivalent;
    };
    for (const auto& c : {Case{sleepX, sleepY, 3, 0.05597891453, false}, Case{sleepX, sleepY, 4, 0.005361624103, true},
                          Case{toothOj, toothVc, 5, 0.251896265, false}, Case{toothOj, toothVc, 8, 0.01505897467, true},
                          Case{light1, light5, 100, 0.200671109, false}, Case{frameX, frameY, 4, 0.05549885011, false},
                          Case{frameX, frameY, 5, 0.01597299679, true}}) {
        EXPECT_NEAR(*equivalenceP(c.y, c.x, c.margin), c.p, 1e-8 * c.p);
        const auto compared = *compare(c.y, c.x, c.margin);
        if (compared.verdict != Verdict::Differs)
            EXPECT_EQ(compared.verdict == Verdict::NoLargerDifference, c.equivalent) << c.margin;
    }
    EXPECT_NEAR(compare(sleepY, sleepX, 4)->largest, 3.053381497, 1e-8);
}

TEST(PublishedComparisonTest, HalfWidths) {
    // R: qt(0.975, 5) = 2.570581835636316.
    EXPECT_NEAR(*halfWidthAt(2, 6), 2.570581835636316 * 2 / std::sqrt(6), 1e-12);
}

// Politis and Romano (1994): the variance of the stationary bootstrap's mean, given the data, in closed form.
TEST(PublishedComparisonTest, TheStationaryBootstrapConvergesToItsExactValue) {
    const auto series = autoregressive(5, 0.8, 500);
    EXPECT_NEAR(series[0], -0.1848771581005756, 1e-12);
    EXPECT_NEAR(series[499], -0.31200284780937076, 1e-12);
    struct Case {
        std::uint32_t seed;
        double phi;
        std::size_t n;
        double p, standardError;
    };
    for (const auto& c : {Case{5, 0.0, 500, 0.1, 0.038816403657}, Case{5, 0.5, 500, 0.1, 0.071691749111},
                          Case{5, 0.8, 500, 0.1, 0.15567125599}, Case{9, 0.6, 2000, 0.02, 0.047687137744},
                          Case{9, 0.6, 2000, 0.05, 0.04731074139}, Case{9, 0.6, 2000, 0.1, 0.047210569577}}) {
        const auto values = autoregressive(c.seed, c.phi, c.n);
        Blocks blocks(values.size(), {}, 1 / c.p, 3);
        std::vector<double> means;
        for (int resample = 0; resample < 40000; ++resample) {
            double sum = 0;
            blocks.draw([&](std::size_t first, std::size_t last) {
                for (std::size_t i = first; i < last; ++i) sum += values[i];
            });
            means.push_back(sum / static_cast<double>(values.size()));
        }
        EXPECT_NEAR(*standardDeviation(means), c.standardError, 0.015 * c.standardError) << c.phi << " " << c.p;
    }
}
