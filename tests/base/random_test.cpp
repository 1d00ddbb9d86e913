// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <set>

using namespace impasto;

namespace {

/// Mean and variance of n draws.
template <class Draw>
std::pair<double, double> moments(Draw draw, int n = 200000) {
    double sum = 0, squares = 0;
    for (int i = 0; i < n; ++i) {
        const double v = draw();
        sum += v;
        squares += v * v;
    }
    const double mean = sum / n;
    return {mean, squares / n - mean * mean};
}

} // namespace

// Bounds of five standard errors: a correct program fails less than once in a million.
TEST(RandomTest, MomentsAreThoseOfTheDistributions) {
    RandomStream s(5, "moments");
    const double root = std::sqrt(200000.0);
    const auto [um, uv] = moments([&] { return s.uniform(); });
    EXPECT_NEAR(um, 0.5, 5 * std::sqrt(1.0 / 12) / root);
    EXPECT_NEAR(uv, 1.0 / 12, 0.001);
    const auto [nm, nv] = moments([&] { return s.normal(); });
    EXPECT_NEAR(nm, 0, 5 / root);
    EXPECT_NEAR(nv, 1, 5 * std::sqrt(2.0) / root);
    const auto [em, ev] = moments([&] { return s.exponential(3); });
    EXPECT_NEAR(em, 3, 5 * 3 / root);
    EXPECT_NEAR(ev, 9, 5 * 9 * std::sqrt(8.0) / root);
    const auto [lm, lv] = moments([&] { return std::log(s.lognormal(4, 0.3)); });
    EXPECT_NEAR(lm, std::log(4), 5 * 0.3 / root);
    EXPECT_NEAR(lv, 0.09, 5 * 0.09 * std::sqrt(2.0) / root);
}

TEST(RandomTest, NormalTailsAreNormal) {
    RandomStream s(6, "tails");
    int beyond = 0;
    for (int i = 0; i < 1000000; ++i) beyond += std::abs(s.normal()) > 3 ? 1 : 0;
    EXPECT_NEAR(beyond, 2700, 5 * std::sqrt(2700.0)); // 2 (1 - Phi(3))
}

TEST(RandomTest, PurposesAreStreamsOfTheirOwn) {
    RandomStream a(1, "cpu"), b(1, "gpu"), again(1, "cpu");
    EXPECT_NE(a.bits(), b.bits());
    RandomStream c(1, "cpu");
    EXPECT_EQ(again.bits(), c.bits());
    std::set<std::uint64_t> seeds;
    for (std::uint64_t parent = 0; parent < 1000; ++parent) seeds.insert(deriveSeed(parent, "order"));
    EXPECT_EQ(seeds.size(), 1000U);
}

TEST(RandomTest, BelowIsEven) {
    RandomStream s(7, "dice");
    std::array<int, 6> counts{};
    for (int i = 0; i < 60000; ++i) ++counts[s.below(6)];
    for (const int c : counts) EXPECT_NEAR(c, 10000, 5 * std::sqrt(10000.0 * 5 / 6));
}
