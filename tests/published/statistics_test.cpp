// SPDX-License-Identifier: GPL-3.0-or-later
// NIST/ITL Statistical Reference Datasets, univariate and linear regression sets; certified values from memory, matched
// to 15 digits by exact arithmetic. Tolerances: what double precision can reach on decimal input.
#include "support/support.h"

#include <cmath>
#include <impasto/cost/cost.h>
#include <impasto/stats/stats.h>
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
    EXPECT_NEAR(*autocorrelation(v), r1, tolerance);
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
    EXPECT_NEAR(low(exponential, 0.01, run::LowSchool::WorstMean)->rate.value(), 10.70418882, 2e-3);
    EXPECT_NEAR(low(exponential, 0.01, run::LowSchool::Percentile)->rate.value(), 13.02857389, 1e-3);
    EXPECT_NEAR(1000 / low(uniform, 0.05, run::LowSchool::WorstMean)->rate.value(), 0.975, 1e-5);
}
