// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/game/split.h>

#include <gtest/gtest.h>

using namespace impasto::game;

TEST(SplitTest, ASpanBecomesAPartAndWhatLiesBesideKeepsItsName) {
    const Route whole{"the minute", {{"whole route", 60}}};
    const auto one = withPart(whole, 20, 45);
    EXPECT_EQ(one.parts, (std::vector<Part>{{"whole route", 20}, {"part 1", 25}, {"part 2", 15}}));
    EXPECT_DOUBLE_EQ(one.seconds(), 60);
    const auto two = withPart(one, 0, 10.04);
    EXPECT_EQ(two.parts, (std::vector<Part>{{"part 3", 10}, {"whole route", 10}, {"part 1", 25}, {"part 2", 15}}));
    // An edge close to one that is there falls on it; a span over several parts takes them in.
    const Route three{"r", {{"gate", 15}, {"yard", 30}, {"pier", 20}}};
    EXPECT_EQ(withPart(three, 14.5, 45.3).parts, (std::vector<Part>{{"gate", 15}, {"part 1", 30}, {"pier", 20}}));
    EXPECT_EQ(withPart(three, 5, 60).parts, (std::vector<Part>{{"gate", 5}, {"part 1", 55}, {"pier", 5}}));
}

TEST(SplitTest, NothingIsCutWhereNothingWouldBeLeft) {
    const Route route{"r", {{"gate", 15}, {"yard", 30}}};
    EXPECT_EQ(withPart(route, 10, 10.5), route);
    EXPECT_EQ(withPart(route, 0.4, 44.8), route) << "all of it";
    EXPECT_EQ(withPart(route, 30, 10), route);
}
