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
