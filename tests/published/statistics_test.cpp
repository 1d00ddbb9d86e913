// SPDX-License-Identifier: GPL-3.0-or-later
// NIST/ITL Statistical Reference Datasets, univariate and linear regression sets; certified values from memory, matched
// to 15 digits by exact arithmetic. Tolerances: what double precision can reach on decimal input.
#include "support/support.h"

#include <cmath>
#include <impasto/cost/cost.h>
#include <impasto/stats/resample.h>
#include <sstream>

using namespace impasto;
using namespace impasto::stats;

namespace {

std::vector<double> alternating(double first, double low, double high) {
    std::vector<double> v{first};
    for (int i = 0; i < 500; ++i) {
        v.push_back(low);
        v.push_back(high);
    }
    return v;
}

void expectSet(const std::vector<double>& v, double m, double sd, double r1, double tolerance) {
    EXPECT_NEAR(*mean(v), m, 1e-14 * std::abs(m));
    EXPECT_NEAR(*standardDeviation(v), sd, tolerance * sd);
    const auto covariance = autocovariances(v, 1);
    EXPECT_NEAR(covariance[1] / covariance[0], r1, std::max(tolerance, 1e-9));
}

} // namespace

TEST(PublishedStatisticsTest, NistUnivariate) {
    std::istringstream in(support::textOf(support::sourceDir() / "tests/published/tables/morley.txt"));
    std::vector<double> michelso;
    for (double v = 0; in >> v;) michelso.push_back((v + 299000) / 1000);
    ASSERT_EQ(michelso.size(), 100U);
    expectSet(michelso, 299.852400000000, 0.0790105478190518, 0.535199668621283, 1e-11);
    expectSet({10000001, 10000003, 10000002}, 10000002, 1, -0.5, 1e-14);
    expectSet(alternating(1.2, 1.1, 1.3), 1.2, 0.1, -0.999, 1e-13);
    expectSet(alternating(1000000.2, 1000000.1, 1000000.3), 1000000.2, 0.1, -0.999, 1e-8);
    expectSet(alternating(10000000.2, 10000000.1, 10000000.3), 10000000.2, 0.1, -0.999, 1e-7);
}

// Student's t, two-sided 95%: the table of every handbook, e.g. Fisher and Yates (1938) (from memory).
TEST(PublishedStatisticsTest, StudentTable) {
    for (const auto& [df, t] : {std::pair(1, 12.706), std::pair(2, 4.303), std::pair(3, 3.182), std::pair(5, 2.571),
                                std::pair(10, 2.228), std::pair(30, 2.042)})
        EXPECT_NEAR(studentQuantile(0.975, df), t, 5e-4) << df;
}

// Acerbi and Tasche (2002), expected shortfall with a fractional last weight; closed forms of the exponential and
// uniform distribution (from memory). Frame times at even quantiles of the distribution stand for it.
TEST(PublishedStatisticsTest, WorstMeanIsExpectedShortfall) {
    const int n = 200000;
    std::vector<double> exponential, uniform;
    for (int i = 0; i < n; ++i) {
        const double u = (i + 0.5) / n;
        exponential.push_back(-16.667 * std::log(1 - u));
        uniform.push_back(u);
    }
    EXPECT_NEAR(low(exponential, 0.01, stats::LowRule::WorstMean)->rate.value(), 10.70418882, 2e-3);
    EXPECT_NEAR(low(exponential, 0.01, stats::LowRule::Percentile)->rate.value(), 13.02857389, 1e-3);
    EXPECT_NEAR(1000 / low(uniform, 0.05, stats::LowRule::WorstMean)->rate.value(), 0.975, 1e-5);
}

// Closed forms (Acerbi and Tasche 2002 for the mean of the worst; from memory): for frame times with mean m,
// exponential, q = -m ln p, the mean beyond it q + m, and p of the time lies beyond the t with (1 + t / m) exp(-t / m)
// = p. Lognormal of median 1 and deviation s: q = exp(s z), mean beyond exp(s^2 / 2) Phi(s - z) / p, and t = exp(s (s +
// z)), z = Phi^-1(1 - p).
TEST(PublishedStatisticsTest, TheThreeLowsOfKnownDistributions) {
    constexpr int n = 400000;
    const double p = 0.01, z = 2.326347874040841;
    std::vector<double> exponential, lognormal;
    for (int i = 0; i < n; ++i) {
        const double u = (i + 0.5) / n;
        exponential.push_back(-16.667 * std::log(1 - u));
        // Phi^-1 by bisection of erfc.
        double low = -8, high = 8;
        for (int k = 0; k < 60; ++k) {
            const double middle = 0.5 * (low + high);
            (0.5 * std::erfc(-middle / std::sqrt(2.0)) < u ? low : high) = middle;
        }
        lognormal.push_back(16.667 * std::exp(0.25 * low));
    }
    double t = 6; // of (1 + t) exp(-t) = p, by Newton
    for (int k = 0; k < 30; ++k) t += ((1 + t) * std::exp(-t) - p) / (t * std::exp(-t));
    const auto ms = [p](const std::vector<double>& frames, stats::LowRule school) {
        return 1000 / low(frames, p, school)->rate.value();
    };
    EXPECT_NEAR(ms(exponential, stats::LowRule::Percentile), 76.75437148986, 0.01);
    EXPECT_NEAR(ms(exponential, stats::LowRule::WorstMean), 93.42137148986, 0.02);
    EXPECT_NEAR(ms(exponential, stats::LowRule::TimeShare), 16.667 * t, 0.03);
    EXPECT_NEAR(ms(lognormal, stats::LowRule::Percentile), 29.81518075384, 0.002);
    EXPECT_NEAR(ms(lognormal, stats::LowRule::WorstMean), 32.55369332175, 0.004);
    EXPECT_NEAR(ms(lognormal, stats::LowRule::TimeShare), 16.667 * std::exp(0.25 * (0.25 + z)), 0.01);
}
