// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/capture/parts.h>

#include <cmath>
#include <gtest/gtest.h>
#include <limits>

using namespace impasto::capture;

namespace {

Capture evenFrames(std::size_t count, double ms) {
    Capture c;
    c.framesMs.assign(count, ms);
    return c;
}

} // namespace

TEST(CapturePartsTest, MarksLieAtTheRoutesSharesOfTheRecording) {
    // 100 frames of 10 ms; the route says 2 + 6 + 2 s, so that the recording is a tenth of it.
    const std::vector<NamedSeconds> route{{"gate", 2}, {"yard", 6}, {"pier", 2}};
    EXPECT_EQ(marksByTime(evenFrames(100, 10), route),
              (std::vector<PartMark>{{"gate", 0}, {"yard", 20}, {"pier", 80}}));
    EXPECT_EQ(marksByTime(evenFrames(50, 10), route), (std::vector<PartMark>{{"gate", 0}, {"yard", 10}, {"pier", 40}}))
        << "another length, the same shares";
    EXPECT_TRUE(marksByTime(evenFrames(100, 10), std::vector<NamedSeconds>{{"all", 10}}).empty());
    EXPECT_TRUE(marksByTime(Capture{}, route).empty());
    // A part shorter than a frame gives way to the next one.
    const auto two = marksByTime(evenFrames(2, 10), std::vector<NamedSeconds>{{"a", 0.001}, {"b", 0.01}, {"c", 5}});
    ASSERT_FALSE(two.empty());
    EXPECT_EQ(two.back().part, "c");
    for (std::size_t i = 1; i < two.size(); ++i) EXPECT_LT(two[i - 1].firstFrame, two[i].firstFrame);
}

TEST(CapturePartsTest, AColumnOfFewWordsNamesThem) {
    const float none = std::numeric_limits<float>::quiet_NaN();
    const OtherColumn scene{"scene", {none, 0, 0, 1, none, 1, 0}, {"menu", "yard"}};
    EXPECT_TRUE(namesParts(scene));
    EXPECT_EQ(marksByColumn(scene), (std::vector<PartMark>{{"menu", 0}, {"yard", 3}, {"menu", 6}}));
    EXPECT_FALSE(namesParts({"program", {0, 0, 0}, {"game", "other"}})) << "it never changes";
    EXPECT_FALSE(namesParts({"load", {1, 2, 3}, {}})) << "numbers";
    OtherColumn restless{"mode", {}, {"a", "b"}};
    for (int i = 0; i < 1000; ++i) restless.values.push_back(static_cast<float>(i % 2));
    EXPECT_FALSE(namesParts(restless)) << "it changes with every frame";
    EXPECT_TRUE(marksByColumn({"bad", {7, -1}, {"only"}}).empty()) << "indices of no word";
}
