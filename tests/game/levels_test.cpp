// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/game/levels.h>

using namespace impasto;
using Names = std::vector<std::string>;

TEST(LevelsTest, ARangeStandsForItsSteps) {
    EXPECT_EQ(game::levelNames("low, medium , high"), (Names{"low", "medium", "high"}));
    EXPECT_EQ(game::levelNames("1 to 10"), (Names{"1", "2", "3", "4", "5", "6", "7", "8", "9", "10"}));
    EXPECT_EQ(game::levelNames("0 to 100%")->size(), 11U) << "of a size that leaves twelve steps at most";
    EXPECT_EQ(game::levelNames("25% to 100% by 25%"), (Names{"25%", "50%", "75%", "100%"}));
    EXPECT_EQ(game::levelNames("25 to 100% by 25"), (Names{"25%", "50%", "75%", "100%"}));
    EXPECT_EQ(game::levelNames("0.5 m to 2 m by 0.5"), (Names{"0.5 m", "1 m", "1.5 m", "2 m"}));
    EXPECT_EQ(game::levelNames("off, 10 to 25 by 10"), (Names{"off", "10", "20", "25"})) << "the last always";
    EXPECT_EQ(game::levelNames("low to high, off"), (Names{"low to high", "off"})) << "a name is no range";
    EXPECT_EQ(game::levelNames("1 to 3 by 1, 3, 4"), (Names{"1", "2", "3", "4"})) << "none twice";
}

TEST(LevelsTest, WhatIsNoListIsNone) {
    for (const char* text : {"", ",", "one", "one, one", "1 to 1000 by 1", "1 to 1e9 by 1"})
        EXPECT_FALSE(game::levelNames(text)) << text;
    EXPECT_EQ(game::levelNames("5 to 1, off")->front(), "5 to 1") << "no range: it stays as it was typed";
    EXPECT_EQ(game::levelNames("1 to 5 by 0, off")->front(), "1 to 5 by 0");
    EXPECT_EQ(game::levelNames("1 m to 5 s, off")->front(), "1 m to 5 s");
}

TEST(LevelsTest, WaysToRunSayThatTheyHaveNoOrder) {
    EXPECT_TRUE(game::saysUnordered(" one of native, translated"));
    EXPECT_FALSE(game::saysUnordered("one off, twice"));
    EXPECT_EQ(game::levelNames(" one of native, translated"), (Names{"native", "translated"}));
    EXPECT_EQ(game::levelsText({"native", "translated"}, true), "one of native, translated");
    EXPECT_FALSE(game::levelNames("one of native"));
}

TEST(LevelsTest, NumbersAtEvenStepsReadAsARange) {
    EXPECT_EQ(game::levelsText({"low", "high"}), "low, high");
    EXPECT_EQ(game::levelsText({"1", "2", "3", "4"}), "1, 2, 3, 4");
    EXPECT_EQ(game::levelsText({"25%", "40%", "55%", "70%", "85%", "100%"}), "25% to 100% by 15%");
    EXPECT_EQ(game::levelsText({"1", "2", "3", "5", "6"}), "1, 2, 3, 5, 6");
    for (const char* text : {"1 to 10", "25% to 100% by 5%", "0 to 1 by 0.125", "10 to 95 by 20"}) {
        const auto names = game::levelNames(text);
        ASSERT_TRUE(names) << text;
        EXPECT_EQ(game::levelNames(game::levelsText(*names)), names) << text;
    }
}
