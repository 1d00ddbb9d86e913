// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <cmath>
#include <impasto/logs/import.h>

using namespace impasto;
using namespace impasto::capture;

TEST(CaptureTest, PartsFollowTheMarks) {
    Capture c;
    c.framesMs = std::vector<double>(10, 16);
    EXPECT_EQ(partsOf(c).size(), 1U);
    c.marks = {{"a", 2}, {"b", 7}};
    const auto parts = partsOf(c);
    ASSERT_EQ(parts.size(), 3U);
    EXPECT_EQ(parts[0].part, "");
    EXPECT_EQ(parts[1].first, 2U);
    EXPECT_EQ(parts[1].last, 7U);
    EXPECT_EQ(parts[2].last, 10U);
}

TEST(CaptureTest, MissingStaysMissing) {
    Capture c;
    c.tracks.push_back({Sensor::GpuMemory, {0, 1}, {NAN, NAN}});
    EXPECT_FALSE(trackMean(c, Sensor::GpuMemory));
    EXPECT_FALSE(trackMaximum(c, Sensor::GpuMemory));
    EXPECT_FALSE(trackMean(c, Sensor::SystemMemory));
    c.tracks[0].values = {100, NAN};
    EXPECT_EQ(trackMean(c, Sensor::GpuMemory), 100.0);
}

TEST(CaptureTest, ReadingsBesideComeIntoItsTime) {
    Capture c;
    c.framesMs = std::vector<double>(10, 100);
    c.tracks = {{Sensor::GpuLoad, {500}, {90}}};
    const std::vector<Track> beside{{Sensor::GpuLoad, {5200}, {10}},
                                    {Sensor::CpuLoad, {4990, 5000, 5600, 6000, 6001}, {1, 2, 3, 4, 5}},
                                    {Sensor::Fan, {4000, 7000}, {50, 60}}};
    EXPECT_EQ(addBeside(c, beside, 5000), 1U);
    EXPECT_EQ(c.track(Sensor::GpuLoad)->values, (std::vector<float>{90})) << "what the log tells itself stands";
    ASSERT_NE(c.track(Sensor::CpuLoad), nullptr);
    EXPECT_EQ(c.track(Sensor::CpuLoad)->timeMs, (std::vector<double>{0, 600, 1000}));
    EXPECT_EQ(c.track(Sensor::CpuLoad)->values, (std::vector<float>{2, 3, 4}));
    EXPECT_EQ(c.track(Sensor::Fan), nullptr) << "none while it ran";
}

TEST(CaptureTest, DurationIsCompensated) {
    Capture c;
    c.framesMs = std::vector<double>(1000000, 0.1);
    EXPECT_NEAR(durationMs(c), 100000, 1e-9);
}

TEST(CaptureTest, FingerprintSeesEveryColumn) {
    Capture a = support::flatCapture(16, 50, 10, 12);
    Capture b = a;
    EXPECT_EQ(fingerprintOf(a), fingerprintOf(b));
    b.gpuWorkMs->back() += 1e-9;
    EXPECT_NE(fingerprintOf(a), fingerprintOf(b));
    b = a;
    b.latencyMs = std::vector<double>(50, 1.0);
    EXPECT_NE(fingerprintOf(a), fingerprintOf(b));
}

TEST(CaptureTest, AMillionRowsAreImportedAndSummed) {
    std::string text = "time_s,frame_ms\n";
    text.reserve(24'000'000);
    double at = 0;
    for (int i = 0; i < 1'000'000; ++i) {
        const double ms = 8 + 0.001 * (i % 977);
        at += ms / 1000;
        fmt::format_to(std::back_inserter(text), "{:.6f},{:.4f}\n", at, ms);
    }
    const auto capture = logs::readLogText(text);
    ASSERT_TRUE(capture.has_value());
    EXPECT_EQ(capture->frames(), 1'000'000U);
    EXPECT_NEAR(durationMs(*capture), at * 1000, 1);
}
