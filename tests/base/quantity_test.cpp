// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>
#include <impasto/base/quantity.h>
#include <type_traits>

using namespace impasto;

static_assert(!std::is_convertible_v<double, Milliseconds>);
static_assert(!std::is_convertible_v<Milliseconds, Fps>);

TEST(QuantityTest, ArithmeticKeepsTheUnit) {
    EXPECT_EQ(Milliseconds(10.0) + Milliseconds(6.5), Milliseconds(16.5));
    EXPECT_EQ(2.0 * Milliseconds(8), Milliseconds(16));
    EXPECT_DOUBLE_EQ(Fps(30) / Fps(60), 0.5);
    EXPECT_LT(Fps(59.9), Fps(60));
}

TEST(QuantityTest, BudgetAndRateAreInverse) {
    EXPECT_DOUBLE_EQ(budgetOf(Fps(60)).value(), 1000.0 / 60);
    EXPECT_DOUBLE_EQ(rateOf(budgetOf(Fps(144))).value(), 144.0);
}
