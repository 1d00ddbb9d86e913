// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/base/portable_math.h>
#include <impasto/base/random.h>

using namespace impasto;

namespace {

/// Distance in units of the last place of the wanted value (rounded from long double).
double ulps(double got, long double wanted) {
    const auto rounded = static_cast<double>(wanted);
    const double ulp = std::nextafter(std::abs(rounded), INFINITY) - std::abs(rounded);
    return static_cast<double>(std::abs(static_cast<long double>(got) - wanted)) / ulp;
}

template <class Ours, class Standard>
double worst(double low, double high, Ours ours, Standard standard) {
    RandomStream stream(1, "math");
    double most = 0;
    for (int i = 0; i < 200000; ++i) {
        const double x = stream.uniform(low, high);
        most = std::max(most, ulps(ours(x), standard(static_cast<long double>(x))));
    }
    return most;
}

} // namespace

TEST(PortableMathTest, ExpIsWithinTwoUlp) {
    EXPECT_LE(worst(-700, 700, portable::exp, [](long double x) { return std::exp(x); }), 2.0);
    EXPECT_LE(worst(-1, 1, portable::exp, [](long double x) { return std::exp(x); }), 2.0);
}

TEST(PortableMathTest, LogIsWithinTwoUlp) {
    EXPECT_LE(worst(1e-12, 2, portable::log, [](long double x) { return std::log(x); }), 2.0);
    EXPECT_LE(worst(0.99, 1.01, portable::log, [](long double x) { return std::log(x); }), 2.0);
    EXPECT_LE(worst(2, 1e9, portable::log, [](long double x) { return std::log(x); }), 2.0);
}

TEST(PortableMathTest, PowIsWithinTwoUlp) {
    for (const double y : {0.35, 0.88, 2.6, -1.5, 7.0})
        EXPECT_LE(worst(
                      0.01, 50, [y](double x) { return portable::pow(x, y); },
                      [y](long double x) { return std::pow(x, static_cast<long double>(y)); }),
                  2.0)
            << y;
}

TEST(PortableMathTest, CosAndSinAreWithinTwoUlpOfTheirSizeOrOfAThousandth) {
    RandomStream stream(2, "angles");
    for (int i = 0; i < 200000; ++i) {
        const double x = stream.uniform(-1000, 1000);
        const auto check = [x](double got, long double wanted) {
            const double size = std::max(1e-3, static_cast<double>(std::abs(wanted)));
            const double ulp = std::nextafter(size, INFINITY) - size;
            ASSERT_LE(static_cast<double>(std::abs(static_cast<long double>(got) - wanted)), 2.0 * ulp) << x;
        };
        check(portable::cos(x), std::cos(static_cast<long double>(x)));
        check(portable::sin(x), std::sin(static_cast<long double>(x)));
    }
}

TEST(PortableMathTest, EdgesAreNamed) {
    EXPECT_EQ(portable::exp(0), 1.0);
    EXPECT_EQ(portable::exp(-800), 0.0);
    EXPECT_TRUE(std::isinf(portable::exp(800)));
    EXPECT_EQ(portable::log(1), 0.0);
    EXPECT_TRUE(std::isinf(portable::log(0)));
    EXPECT_TRUE(std::isnan(portable::log(-1)));
    EXPECT_TRUE(std::isnan(portable::exp(NAN)));
}
