// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>
#include <impasto/base/quantity.h>
#include <type_traits>

using namespace impasto;
using namespace impasto::literals;

static_assert(!std::is_convertible_v<double, Milliseconds>);
static_assert(!std::is_convertible_v<Milliseconds, Fps>);

TEST(QuantityTest, ArithmeticKeepsTheUnit) {
    EXPECT_EQ(10.0_ms + 6.5_ms, 16.5_ms);
    EXPECT_EQ(2.0 * 8_ms, 16_ms);
    EXPECT_DOUBLE_EQ(30_fps / 60_fps, 0.5);
    EXPECT_LT(59.9_fps, 60_fps);
}

TEST(QuantityTest, BudgetAndRateAreInverse) {
    EXPECT_DOUBLE_EQ(budgetOf(60_fps).value(), 1000.0 / 60);
    EXPECT_DOUBLE_EQ(rateOf(budgetOf(144_fps)).value(), 144.0);
}
