// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <impasto/capture/check.h>
#include <limits>

using namespace impasto::capture;

namespace {

Capture whole() {
    Capture c;
    c.framesMs = {16, 17, 18, 16};
    c.cpuWorkMs = {5, std::nan(""), 6, 5};
    c.marks = {{"channel", 0}, {"landing", 2}};
    c.tracks.push_back({Sensor::GpuLoad, {10, 20}, {97, 98}});
    c.others.push_back({"scene", {0, 1, std::nanf(""), 1}, {"hill", "shore"}});
    c.others.push_back({"quality", {1, 2, 3, 4}, {}});
    return c;
}

std::string faultWith(const std::function<void(Capture&)>& change) {
    auto c = whole();
    change(c);
    return faultOf(c).value_or("none");
}

} // namespace

TEST(CheckTest, AWholeCaptureAndAnEmptyOneMakeSense) {
    EXPECT_FALSE(faultOf(whole()));
    EXPECT_FALSE(faultOf({}));
    EXPECT_EQ(faultWith([](Capture& c) { c.framesMs[1] = 899999; }), "none") << "a pause is no fault";
}

TEST(CheckTest, EveryAbsurdFrameTimeIsOne) {
    for (const double ms : {0.0, -1.0, 1e21, 1e308, std::numeric_limits<double>::infinity(), std::nan("")})
        EXPECT_EQ(faultWith([ms](Capture& c) { c.framesMs[2] = ms; }), "frame time out of sense") << ms;
}

TEST(CheckTest, ColumnsMarksWordsAndReadingsAreHeldToTheFrames) {
    EXPECT_EQ(faultWith([](Capture& c) { c.cpuWorkMs->pop_back(); }), "column of another length");
    EXPECT_EQ(faultWith([](Capture& c) { (*c.cpuWorkMs)[0] = 1e300; }), "value out of sense");
    EXPECT_EQ(faultWith([](Capture& c) { c.others[1].values.push_back(1); }), "column of another length");
    EXPECT_EQ(faultWith([](Capture& c) { c.others[0].values[0] = 2; }), "unknown word");
    EXPECT_EQ(faultWith([](Capture& c) { c.others[0].values[0] = -1; }), "unknown word");
    EXPECT_EQ(faultWith([](Capture& c) { c.marks[1].firstFrame = 4; }), "part out of order");
    EXPECT_EQ(faultWith([](Capture& c) { std::swap(c.marks[0], c.marks[1]); }), "part out of order");
    EXPECT_EQ(faultWith([](Capture& c) { c.tracks[0].timeMs.pop_back(); }), "reading without its time");
    EXPECT_EQ(faultWith([](Capture& c) { c.tracks[0].timeMs[0] = std::nan(""); }), "reading at no time");
}
