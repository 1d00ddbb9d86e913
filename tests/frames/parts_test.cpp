// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <cmath>
#include <impasto/frames/parts.h>

using namespace impasto;
using namespace impasto::stats;
using namespace impasto::frames;

TEST(PartsTest, RouteMeansWeighPartsByTheirSeconds) {
    const game::Route route{"r", {{"a", 10}, {"b", 30}}};
    const std::vector<PartMeans> parts{{"a", 900, 10, 4.0, 8.0}, {"b", 100, 20, 6.0, 16.0}};
    EXPECT_DOUBLE_EQ(*routeMean(parts, &route, run::Lane::Gpu), (10 * 8.0 + 30 * 16.0) / 40);
    // Without a route a part weighs by its own time: 9 s and 2 s.
    EXPECT_DOUBLE_EQ(*routeMean(parts, nullptr, run::Lane::Cpu), (9 * 4.0 + 2 * 6.0) / 11);
}

TEST(PartsTest, AMissingLaneStaysMissing) {
    const auto c = support::flatCapture(16, 100);
    const auto parts = partMeans(c);
    ASSERT_EQ(parts.size(), 1U);
    EXPECT_FALSE(parts[0].cpuMs);
    EXPECT_FALSE(routeMean(parts, nullptr, run::Lane::Gpu));
    EXPECT_NEAR(*routeMean(parts, nullptr, run::Lane::Frame), 16, 0.01);
}

// Common practice, no source: a reading which never moves is a wait, not work.
TEST(PartsTest, AReadingThatNeverMovesIsAWait) {
    auto c = support::flatCapture(16.67, 100, 8, 12);
    c.cpuWorkMs = std::vector<double>(100, 16.67);
    const auto parts = partMeans(c);
    EXPECT_FALSE(parts[0].cpuMs);
    EXPECT_TRUE(parts[0].gpuMs);
}

TEST(PartsTest, GapsAreLeftOutOfMeans) {
    auto c = support::flatCapture(16, 4, 10, 12);
    c.cpuWorkMs = std::vector<double>{10, NAN, 12, NAN};
    EXPECT_DOUBLE_EQ(*partMeans(c)[0].cpuMs, 11);
}
