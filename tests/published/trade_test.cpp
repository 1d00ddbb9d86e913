// SPDX-License-Identifier: GPL-3.0-or-later
// Facts of the trade. Common practice, no source.
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/choose/propose.h>
#include <impasto/display/display.h>
#include <impasto/limits/limits.h>
#include <impasto/wording/numbers.h>

using namespace impasto;

TEST(TradeTest, TheBudgetTable) {
    for (const auto& [fps, text] :
         {std::pair(30, "33.3"), std::pair(40, "25.0"), std::pair(45, "22.2"), std::pair(60, "16.7"),
          std::pair(72, "13.9"), std::pair(80, "12.5"), std::pair(90, "11.1"), std::pair(120, "8.33"),
          std::pair(144, "6.94"), std::pair(240, "4.17")})
        EXPECT_EQ(wording::ms(budgetOf(Fps(fps)).value()), text) << fps;
}

TEST(TradeTest, UsableShares) {
    // To hold 120 the GPU is kept at or under about 7 ms (84%), the CPU at 8.2 ms (98%).
    EXPECT_NEAR(limits::ruleOfThumb(run::Lane::Gpu) * budgetOf(Fps(120)).value(), 7.0, 0.005);
    EXPECT_NEAR(limits::ruleOfThumb(run::Lane::Cpu) * budgetOf(Fps(120)).value(), 8.2, 0.05);
}

TEST(TradeTest, EvenCaps) {
    const auto has = [](double refresh, double cap) {
        for (const Fps c : display::evenCaps(Hertz(refresh), Fps(10)))
            if (std::abs(c.value() - cap) < 1e-9) return true;
        return false;
    };
    EXPECT_TRUE(has(60, 30));
    EXPECT_TRUE(has(120, 40));
    EXPECT_TRUE(has(90, 45));
    EXPECT_TRUE(has(90, 30));
    EXPECT_FALSE(has(60, 40));
}
