// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/random.h>
#include <impasto/logs/rates.h>

#include "support/support.h"

using namespace impasto;
using namespace impasto::logs;
using namespace impasto::support;

namespace {

std::string table(const char* heading, char delimiter, std::size_t rows, const std::function<double(std::size_t)>& rate,
                  bool comma = false) {
    std::string out = fmt::format("{}\n", heading);
    for (std::size_t i = 0; i < rows; ++i) {
        std::string row = fmt::format("{}{}{:.1f}", i, delimiter, rate(i));
        if (comma) std::replace(row.begin(), row.end(), '.', ',');
        out += row + "\n";
    }
    return out;
}

} // namespace

TEST(RatesTest, AllOfTheTableIsTold) {
    const TemporaryFolder folder;
    // The slowest second lies far behind what a guess looks at.
    const auto rate = [](std::size_t i) { return i == 4000 ? 21.5 : 58.0 + static_cast<double>(i % 5); };
    for (const auto& [heading, delimiter, comma] :
         {std::tuple("time_s,fps", ',', false), {"Time (s);FPS", ';', false}, {"seconds\tframe rate", '\t', true}}) {
        const auto read = readRates(folder.write("rates.txt", table(heading, delimiter, 5000, rate, comma)));
        ASSERT_TRUE(read.has_value()) << heading << read.error().what;
        EXPECT_EQ(read->rates.size(), 5000U);
        EXPECT_NEAR(read->average.value(), 60, 0.1);
        EXPECT_NEAR(read->least.value(), 21.5, 1e-9);
        EXPECT_NEAR(read->most.value(), 62, 1e-9);
    }
}

TEST(RatesTest, HowLongARowLastsIsTold) {
    const TemporaryFolder folder;
    struct Case {
        const char* heading;
        double step; // in the clock's own unit
        std::optional<double> stepMs;
    };
    // Where the heading says no unit, the rates beside the clock do.
    for (const auto& [heading, step, stepMs] : {Case{"time_s,fps", 1, 1000},
                                                {"time,fps", 1, 1000},
                                                {"time,fps", 2, 2000},
                                                {"elapsed,fps", 0.5, 500},
                                                {"elapsed,fps", 0.25, 250},
                                                {"timestamp,fps", 1000, 1000},
                                                {"time,fps", 500000, 500},
                                                {"ms,fps", 5000, 5000}}) {
        std::string text = std::string(heading) + "\n";
        for (int i = 0; i < 80; ++i) text += fmt::format("{},{}\n", i * step, 58 + i % 5);
        const auto read = readRates(folder.write("rates.csv", text));
        ASSERT_TRUE(read.has_value()) << heading << " " << step << " " << read.error().what;
        EXPECT_EQ(read->stepMs, stepMs) << heading << " " << step;
        EXPECT_EQ(read->rates.size(), 80U);
    }
    const auto alone = readRates(folder.write("alone.csv", "fps\n58\n59\n60\n61\n58\n59\n60\n"));
    ASSERT_TRUE(alone.has_value()) << alone.error().what;
    EXPECT_EQ(alone->stepMs, std::nullopt);
}

TEST(RatesTest, OfShortStepsSecondsAreTheLeastAndTheGreatest) {
    const TemporaryFolder folder;
    std::string text = "time_s,fps\n";
    for (int i = 0; i < 82; ++i) text += fmt::format("{:.2f},{}\n", 0.25 * i, i == 41 ? 20 : i / 4 == 3 ? 90 : 60);
    const auto read = readRates(folder.write("rates.csv", text));
    ASSERT_TRUE(read.has_value()) << read.error().what;
    EXPECT_EQ(read->rates.size(), 82U);
    EXPECT_NEAR(read->least.value(), 50, 1e-9); // 20, 60, 60, 60
    EXPECT_NEAR(read->most.value(), 90, 1e-9);
}

/// A clock of frames beside the rates of them is one, in the unit in which both agree.
TEST(RatesTest, AClockOfFramesIsNoTableOfRates) {
    for (const double fps : {3.5, 24.0, 60.0, 240.0})
        for (const double perSecond : {1.0, 1e3, 1e6}) {
            std::string text = "time,fps\n";
            double at = 5;
            for (int i = 0; i < 300; ++i) {
                const double s = (1 + 0.1 * (i % 7 - 3) / 3) / fps;
                at += s;
                text += fmt::format("{:.9g},{:.1f}\n", at * perSecond, 1 / s);
            }
            const auto read = readLogText(text);
            ASSERT_TRUE(read.has_value()) << fps << " " << perSecond << " " << read.error().what;
            EXPECT_EQ(read->frames(), 299U);
            EXPECT_NEAR(capture::durationMs(*read), 299e3 / fps, 1e3 / fps) << fps << " " << perSecond;
        }
}

/// Averages, where the least and the greatest stand beside them; counts of frames are rates of nothing.
TEST(RatesTest, TheAverageIsTheRate) {
    const TemporaryFolder folder;
    for (const char* heading :
         {"second,min fps,avg fps,max fps", "time_s,fps low,fps,fps max", "time,1% fps,fps,target fps"}) {
        std::string text = std::string(heading) + "\n";
        for (int i = 0; i < 90; ++i) text += fmt::format("{},{},{},{}\n", i, 40 + i % 3, 60 + i % 4, 144);
        const auto read = readRates(folder.write("rates.csv", text));
        ASSERT_TRUE(read.has_value()) << heading << " " << read.error().what;
        EXPECT_NEAR(read->average.value(), 61.5, 0.1) << heading;
    }
}

namespace {

/// What a log of such a heading is refused as; its clock steps by `step`, give or take a share of it.
std::string refusedAs(const char* heading, double step, double share, const char* behind = ",97,66") {
    RandomStream s(11, heading);
    std::string text = std::string(heading) + "\n";
    double at = 1000;
    for (int i = 0; i < 300; ++i) {
        text += fmt::format("{:.5f}{}\n", at, behind);
        at += step * (1 + share * (2 * s.uniform() - 1));
    }
    const auto read = readLogText(text);
    if (read) return fmt::format("read: {:.0f} ms", capture::durationMs(*read) / static_cast<double>(read->frames()));
    return read.error().code == ErrorCode::NotFrames || read.error().code == ErrorCode::UnclearUnit ? read.error().what
                                                                                                    : "another";
}

} // namespace

/// Readings at slow ticks of a clock, as a watching program writes them, are no frames of one second, nor of one ms.
TEST(RatesTest, RowsOfASlowClockAreNoFrames) {
    EXPECT_EQ(refusedAs("time_s,gpu load %,gpu temp", 1, 0.01).substr(0, 12), "a row every ");
    EXPECT_EQ(refusedAs("time_s,gpu load %,gpu temp", 0.1, 0), "a row every 0.1 s");
    EXPECT_EQ(refusedAs("time_ms,gpu load %,gpu temp", 2000, 0.02).substr(0, 12), "a row every ");
    EXPECT_EQ(refusedAs("time,gpu load %,gpu temp", 1, 0.01), "s/ms");
    EXPECT_EQ(refusedAs("time,gpu load %,gpu temp", 0.5, 0.01), "s/ms");
    EXPECT_EQ(refusedAs("timestamp,power,temp", 1000, 0.01), "ms/us");
    EXPECT_EQ(refusedAs("time,gpu load %,gpu temp", 1, 0), "its clock counts rows");
    // Frames, and slow ones: the heading says the unit, or no tick of a watch is near.
    EXPECT_EQ(refusedAs("time_ms,gpu load %,gpu temp", 2, 0.01), "read: 2 ms");
    EXPECT_EQ(refusedAs("time_ms,gpu load %,gpu temp", 100, 0.06).substr(0, 4), "read");
    EXPECT_EQ(refusedAs("time,gpu load %,gpu temp", 16.7, 0.01), "read: 17 ms");
    EXPECT_EQ(refusedAs("time,gpu load %,gpu temp", 0.0333, 0), "read: 33 ms");
    EXPECT_EQ(refusedAs("time,gpu load %,gpu temp", 1.25, 0.3), "read: 1 ms");
}

/// "frames" counts them, and minutes are no clock of frames; beside a frame time neither harms.
TEST(RatesTest, CountsAndMinutesAreNoTimes) {
    const auto log = [](const char* heading, const std::function<std::string(int)>& row) {
        std::string text = std::string(heading) + "\n";
        for (int i = 0; i < 300; ++i) text += row(i) + "\n";
        return readLogText(text);
    };
    EXPECT_FALSE(log("second,frames", [](int i) { return fmt::format("{},{}", i, 61 + i % 4); }).has_value());
    EXPECT_FALSE(log("frames", [](int i) { return fmt::format("{:.2f}", 16.0 + i % 4); }).has_value());
    EXPECT_FALSE(log("minute,fps", [](int i) { return fmt::format("{:.4f},{}", i / 60.0, 61 + i % 4); }).has_value());
    EXPECT_TRUE(log("frames (ms)", [](int i) { return fmt::format("{:.2f}", 16.0 + i % 4); }).has_value());
    EXPECT_TRUE(log("frame", [](int i) { return fmt::format("{:.2f}", 16.0 + i % 4); }).has_value());
    const auto beside =
        log("minute,frame ms", [](int i) { return fmt::format("{:.5f},{:.2f}", i / 3600.0, 16.0 + i % 4); });
    ASSERT_TRUE(beside.has_value());
    EXPECT_NEAR(beside->framesMs[1], 17, 1e-9);
}

TEST(RatesTest, OtherTablesAndLogsAreRefused) {
    const TemporaryFolder folder;
    std::string frames = "frame_ms\n";
    for (int i = 0; i < 200; ++i) frames += "16.6\n";
    EXPECT_EQ(readRates(folder.write("frames.csv", frames)).error().code, ErrorCode::BadValue);
    EXPECT_EQ(
        readRates(folder.write("results.csv", "run,average fps,1% low\n1,60,48\n2,61,47\n3,59,46\n")).error().code,
        ErrorCode::NotFrames);
    EXPECT_EQ(readRates(folder.write("empty.csv", "")).error().code, ErrorCode::EmptyFile);
    EXPECT_EQ(readRates(folder.path("none.csv")).error().code, ErrorCode::CannotRead);
}
