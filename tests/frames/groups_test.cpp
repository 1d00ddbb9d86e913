// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>
#include <impasto/frames/groups.h>

using namespace impasto::frames;

using Numbers = std::vector<std::size_t>;

TEST(GroupsTest, AveragesThatLieApartAreGroupsInTheOrderTheyCame) {
    EXPECT_EQ(groupsOf(std::vector<double>{60, 72, 60.5, 71.5, 59.8}), (Numbers{0, 1, 0, 1, 0}));
    EXPECT_EQ(groupsOf(std::vector<double>{90, 60, 75, 89, 61, 76}), (Numbers{0, 1, 2, 0, 1, 2}));
}

TEST(GroupsTest, RunsThatScatterOrAnOddOneAreNone) {
    EXPECT_EQ(groupsOf(std::vector<double>{60, 61, 62, 63, 64, 65}), Numbers(6, 0)) << "none lies apart";
    EXPECT_EQ(groupsOf(std::vector<double>{60, 60.4, 52, 60.1}), Numbers(4, 0)) << "one odd run is no variant";
    EXPECT_EQ(groupsOf(std::vector<double>{60, 30}), Numbers(2, 0));
    EXPECT_EQ(groupsOf(std::vector<double>{10, 10, 20, 20, 40, 40, 80, 80, 160, 160}), Numbers(10, 0)) << "too many";
    EXPECT_TRUE(groupsOf({}).empty());
}
