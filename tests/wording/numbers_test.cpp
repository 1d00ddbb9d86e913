// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>
#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>

using namespace impasto;
using namespace impasto::wording;

TEST(NumbersTest, DecimalsFollowTheSize) {
    EXPECT_EQ(ms(4.166), "4.17");
    EXPECT_EQ(ms(9.994), "9.99");
    EXPECT_EQ(ms(9.996), "10.0");
    EXPECT_EQ(ms(-0.5), "\u22120.50");
    EXPECT_EQ(fps(63.72), "63.7");
    EXPECT_EQ(fps(99.96), "100");
    EXPECT_EQ(fps(144.2), "144");
    EXPECT_EQ(gib(6553.6), "6.4");
    EXPECT_EQ(percent(0.705), "70%");
    EXPECT_EQ(percent(0.9972), "99.7%");
    EXPECT_EQ(percent(0.99999), "99.9%") << "one frame is over";
    EXPECT_EQ(percent(0.0001), "0.1%");
    EXPECT_EQ(percent(1), "100%");
    EXPECT_EQ(percent(0), "0%");
    EXPECT_EQ(wishFps(Fps(59.5)), "59.5");
    EXPECT_EQ(resolution({2560, 1440}), "2560\u00d71440");
    EXPECT_EQ(count(4814), "4,814");
    EXPECT_EQ(count(1234567), "1,234,567");
    EXPECT_EQ(minutes(Words(), 0.2), "1 min");
    EXPECT_EQ(minutes(Words(), 80), "1 h 20 min");
}

TEST(NumbersTest, AMeasuredFigureGetsItsDecimalsFromItsHalfWidth) {
    EXPECT_EQ(plusMinus(63.72, 1.13, 1), "63.7 \u00b1 1.1");
    EXPECT_EQ(plusMinus(63.72, 2.3, 1), "64 \u00b1 2");
    EXPECT_EQ(plusMinus(1.9234, 0.21, 2), "1.9 \u00b1 0.2");
    EXPECT_EQ(plusMinus(1.9234, 0.14, 2), "1.92 \u00b1 0.14");
    EXPECT_EQ(plusMinus(60.0, std::nullopt, 1), "60.0");
    EXPECT_EQ(plusMinus(12.0, 0.001, 1), "12.0 \u00b1 0.0");
    EXPECT_EQ(signedPlusMinus(9.2, 0.7, 1), "+9.2 \u00b1 0.7");
    EXPECT_EQ(signedPlusMinus(-1.9, 0.2, 2), "\u22121.9 \u00b1 0.2");
}
