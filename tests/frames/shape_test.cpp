// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <impasto/frames/shape.h>
#include <impasto/stats/stats.h>

using namespace impasto;
using namespace impasto::stats;
using namespace impasto::frames;

namespace {

std::vector<double> framesOf(std::size_t n = 50000) {
    RandomStream s(6, "shape");
    std::vector<double> out;
    for (std::size_t i = 0; i < n; ++i) out.push_back(s.lognormal(std::log(9), 0.4));
    return out;
}

} // namespace

TEST(ShapeTest, QuantilesAreWithinABinOfTheExactOnes) {
    const auto all = framesOf();
    const Distribution d(all);
    for (const double p : {0.01, 0.1, 0.5, 0.9, 0.99, 0.999}) {
        const double exact = *quantile(all, p);
        EXPECT_NEAR(d.quantile(p), exact, exact / 100) << p;
        EXPECT_NEAR(d.shareUpTo(exact), p, 0.01) << p;
    }
    EXPECT_EQ(Distribution().quantile(0.5), 0);
    EXPECT_EQ(Distribution().shareUpTo(3), 0);
    const std::vector<double> odd{1e-9, 1e9};
    EXPECT_NEAR(Distribution(odd).shareUpTo(10), 0.5, 1e-12) << "what lies outside is counted at the ends";
}

TEST(ShapeTest, SharesAreThoseOfTheFrames) {
    const auto all = framesOf();
    const Distribution d(all);
    for (double low = 0; low < 40; low += 0.5) {
        const auto inside = std::count_if(all.begin(), all.end(), [&](double v) { return v > low && v <= low + 0.5; });
        EXPECT_NEAR(d.shareUpTo(low + 0.5) - d.shareUpTo(low),
                    static_cast<double>(inside) / static_cast<double>(all.size()), 0.004)
            << low;
    }
}

TEST(ShapeTest, SecondsCoverTheRun) {
    std::vector<double> all(300, 10.0);
    all[250] = 2500; // one frame of two and a half seconds
    const auto seconds = secondsOf(all);
    ASSERT_EQ(seconds.size(), 3U) << "two of hundred frames, the long one with those before it; the rest is short";
    EXPECT_DOUBLE_EQ(seconds[0].average.value(), 100);
    EXPECT_DOUBLE_EQ(seconds[1].atMs, 2000);
    EXPECT_DOUBLE_EQ(seconds[2].worstMs, 2500);
    EXPECT_DOUBLE_EQ(seconds[2].medianMs, 10);
    EXPECT_DOUBLE_EQ(seconds[2].average.value(), 1000.0 * 51 / 3000);
    EXPECT_TRUE(secondsOf({}).empty());
}
