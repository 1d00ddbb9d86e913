// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/capture/trim.h>

using namespace impasto;
using namespace impasto::capture;

namespace {

/// 100 frames of 10 ms in two parts, with one reading every 100 ms.
Capture hundred() {
    Capture c;
    c.cpuWorkMs.emplace();
    for (int i = 0; i < 100; ++i) {
        c.framesMs.push_back(10);
        c.cpuWorkMs->push_back(i);
    }
    c.marks = {{"first", 0}, {"second", 50}};
    Track t{Sensor::GpuLoad, {}, {}};
    for (int i = 1; i <= 10; ++i) {
        t.timeMs.push_back(100.0 * i);
        t.values.push_back(static_cast<float>(i));
    }
    c.tracks.push_back(t);
    return c;
}

} // namespace

TEST(TrimTest, SpansAreJoined) {
    EXPECT_EQ(joined({{5, 7}, {1, 3}, {2, 4}, {4, 5}, {9, 9}, {12, 11}}), (std::vector<Span>{{1, 7}}));
    EXPECT_TRUE(joined({}).empty());
}

TEST(TrimTest, WhatIsTrimmedIsGoneWithItsMarksAndReadings) {
    const Capture whole = hundred();
    const std::vector<Span> spans{{0, 200}, {480, 520}};
    const Capture c = without(whole, spans);
    EXPECT_EQ(c.frames(), 76U);
    EXPECT_EQ(c.cpuWorkMs->front(), 20);
    EXPECT_EQ(c.cpuWorkMs->at(28), 52) << "48 to 51 are gone";
    EXPECT_EQ(c.marks, (std::vector<PartMark>{{"first", 0}, {"second", 28}}));
    EXPECT_EQ(c.tracks.front().values, (std::vector<float>{3, 4, 6, 7, 8, 9, 10})) << "100, 200 and 500 ms are gone";
    EXPECT_EQ(c.tracks.front().timeMs.front(), 100);
    EXPECT_EQ(c.tracks.front().timeMs.back(), 760);
    EXPECT_EQ(fingerprintOf(whole), fingerprintOf(hundred())) << "the recording is untouched";
    EXPECT_EQ(fingerprintOf(without(whole, {})), fingerprintOf(whole));
    EXPECT_DOUBLE_EQ(timeInWhole(spans, 0), 200);
    EXPECT_DOUBLE_EQ(timeInWhole(spans, 270), 470);
    EXPECT_DOUBLE_EQ(timeInWhole(spans, 300), 540);
}

TEST(TrimTest, APartThatIsGoneLeavesNoMark) {
    const std::vector<Span> first{{0, 500}}, all{{0, 1000}};
    const Capture c = without(hundred(), first);
    EXPECT_EQ(c.marks, (std::vector<PartMark>{{"second", 0}}));
    EXPECT_EQ(c.frames(), 50U);
    EXPECT_EQ(without(hundred(), all).frames(), 0U);
    EXPECT_TRUE(without(hundred(), all).marks.empty());
}
