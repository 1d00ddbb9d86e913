// SPDX-License-Identifier: GPL-3.0-or-later
// What the costs are learnt with, against figures from outside: certified and textbook fits, and the greater of two.
#include "support/support.h"

#include <cmath>
#include <cost/hidden.h>
#include <impasto/stats/solve.h>
#include <impasto/stats/stats.h>
#include <sstream>

using namespace impasto;

namespace {

std::vector<std::vector<double>> tableOf(const char* name) {
    std::istringstream in(support::textOf(support::sourceDir() / "tests/published/tables" / name));
    std::vector<std::vector<double>> rows;
    for (std::string line; std::getline(in, line);) {
        std::istringstream cells(line);
        rows.emplace_back();
        for (double v = 0; cells >> v;) rows.back().push_back(v);
    }
    return rows;
}

/// Least squares, or what is believed after them where something was believed before.
std::vector<double> fit(const std::vector<std::vector<double>>& x, const std::vector<double>& y, double noise,
                        const std::vector<double>& priorMean, const std::vector<double>& priorVariance) {
    const std::size_t n = x.front().size();
    std::vector<double> a(n * n, 0.0), b(n, 0.0);
    for (std::size_t j = 0; j < n; ++j) {
        if (!priorVariance.empty()) {
            a[j * n + j] += 1 / priorVariance[j];
            b[j] += priorMean[j] / priorVariance[j];
        }
        for (std::size_t i = 0; i < x.size(); ++i) {
            b[j] += x[i][j] * y[i] / noise;
            for (std::size_t k = 0; k < n; ++k) a[j * n + k] += x[i][j] * x[i][k] / noise;
        }
    }
    return stats::solve(a, b);
}

} // namespace

/// NIST StRD, Longley: certified estimates, from memory, matched by R's lm to 1.6e-13. Columns are centred and scaled
/// first: the data are made to break those who do not.
TEST(PublishedFitsTest, LongleysRegression) {
    const auto rows = tableOf("longley.txt");
    ASSERT_EQ(rows.size(), 16U);
    std::vector<double> mean(7, 0.0), sd(7, 0.0), y;
    for (std::size_t c = 0; c < 7; ++c) {
        std::vector<double> column;
        for (const auto& row : rows) column.push_back(row[c]);
        mean[c] = *stats::mean(column);
        sd[c] = *stats::standardDeviation(column);
    }
    std::vector<std::vector<double>> x;
    for (const auto& row : rows) {
        y.push_back(row[0] - mean[0]);
        x.emplace_back();
        for (std::size_t c = 1; c < 7; ++c) x.back().push_back((row[c] - mean[c]) / sd[c]);
    }
    auto slopes = fit(x, y, 1, {}, {});
    const double certified[] = {15.0618722713733,  -0.0358191792925910, -2.02022980381683,
                                -1.03322686717359, -0.0511041056535807, 1829.15146461355};
    double intercept = mean[0];
    for (std::size_t c = 0; c < 6; ++c) {
        slopes[c] /= sd[c + 1];
        intercept -= slopes[c] * mean[c + 1];
        EXPECT_NEAR(slopes[c], certified[c], 1e-9 * std::abs(certified[c])) << c;
    }
    EXPECT_NEAR(intercept, -3482258.63459582, 1e-9 * 3482258);
}

/// Conjugate normal regression (Bishop 2006, section 3.3, from memory): two made-up cases worked by NumPy and SciPy.
TEST(PublishedFitsTest, ABeliefIsMovedByWhatIsSeen) {
    const auto line = fit({{1, 0}, {1, 1}, {1, 2}, {1, 3}, {1, 4}}, {1.1, 2.9, 5.2, 6.8, 9.1}, 0.25, {0, 0}, {10, 10});
    EXPECT_NEAR(line[0], 1.034434466407, 1e-11);
    EXPECT_NEAR(line[1], 1.9901966806305, 1e-11);
    std::vector<std::vector<double>> scales;
    for (const double s : {0.5, 0.6, 0.7, 0.85, 1.0}) scales.push_back({1, s * s});
    const auto pixels = fit(scales, {4.9, 6.1, 7.6, 10.4, 13.5}, 0.09, {2, 10}, {4, 25});
    EXPECT_NEAR(pixels[0], 1.9899967220221, 1e-11);
    EXPECT_NEAR(pixels[1], 11.532415044692, 1e-11);
}

/// Clark (1961), Operations Research 9(2):145-162; values by R's integrate (tables/make_fits.R).
TEST(PublishedFitsTest, TheGreaterOfTwoNormalValues) {
    const auto rows = tableOf("greater.txt");
    ASSERT_EQ(rows.size(), 6U);
    for (const auto& row : rows) {
        const auto greater = cost::greaterOf({row[0], row[1]}, {row[2], row[3]});
        EXPECT_NEAR(greater.mean, row[4], 1e-8) << row[0];
        EXPECT_NEAR(greater.variance, row[5], 1e-7) << row[0];
        EXPECT_NEAR(greater.first, row[6], 1e-8) << row[0];
    }
}
