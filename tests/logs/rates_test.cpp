// SPDX-License-Identifier: GPL-3.0-or-later
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
