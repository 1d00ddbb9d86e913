// SPDX-License-Identifier: GPL-3.0-or-later
// Truncated, empty, huge, wrong-unit, wrong-encoding and hostile logs: a clear error with its place, or a right result.
#include "support/support.h"

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/logs/import.h>

using namespace impasto;
using namespace impasto::capture;
using namespace impasto::logs;

namespace {

std::string rowsWith(const std::string& at50) {
    std::string text = "frame_ms\n";
    for (int i = 0; i < 100; ++i) text += i == 50 ? at50 + "\n" : fmt::format("{}\n", 16 + i % 3);
    return text;
}

} // namespace

TEST(BadInputTest, EveryRefusalNamesItsPlace) {
    struct Case {
        std::string text;
        ErrorCode code;
        std::optional<std::size_t> line;
    };
    const std::vector<Case> cases{
        {"", ErrorCode::EmptyFile, {}},
        {std::string("\xff\xfe"
                     "x\0"
                     "y\0",
                     6),
         ErrorCode::NoFrames,
         {}},
        {std::string("frame\0ms", 8), ErrorCode::NotText, {}},
        {"hello\nworld\n", ErrorCode::NoFrames, {}},
        {"# only\n# comments\n\n", ErrorCode::NoFrames, {}},
        {"name,level\na,b\nc,d\n", ErrorCode::NoFrames, {}},
        {rowsWith("-16"), ErrorCode::NegativeTime, 52},
        {rowsWith(""), ErrorCode::BadNumber, {}},
        {rowsWith("sixteen"), ErrorCode::BadNumber, 52},
        {"level,name\n3,a\n3,b\n-3,c\n-2,d\n", ErrorCode::NoTimeColumn, {}},
    };
    for (const auto& c : cases) {
        const auto capture = readLogText(c.text);
        if (c.text == rowsWith("")) { // a blank line is no row
            EXPECT_TRUE(capture.has_value());
            continue;
        }
        ASSERT_FALSE(capture.has_value()) << c.text.substr(0, 40);
        EXPECT_EQ(static_cast<int>(capture.error().code), static_cast<int>(c.code)) << c.text.substr(0, 40);
        if (c.line) EXPECT_EQ(capture.error().where.line, c.line);
    }
}

TEST(BadInputTest, TimeThatRunsBackwardsIsRefusedWithItsLine) {
    std::string text = "time_s\n";
    for (int i = 0; i < 3000; ++i) text += fmt::format("{:.4f}\n", 0.016 * (i == 2500 ? 2000 : i)); // after the sample
    const auto capture = readLogText(text);
    ASSERT_FALSE(capture.has_value());
    EXPECT_EQ(capture.error().code, ErrorCode::TimeRunsBackwards);
    EXPECT_EQ(capture.error().where.line, 2502U);
}

TEST(BadInputTest, ManyShortRowsAreRefusedWithTheFirstLine) {
    std::string text = "index,frame_ms\n";
    for (int i = 0; i < 6000; ++i) text += i > 1000 && i % 2 == 0 ? "60\n" : fmt::format("{},{}\n", i, 16 + i % 3);
    const auto capture = readLogText(text);
    ASSERT_FALSE(capture.has_value());
    EXPECT_EQ(capture.error().code, ErrorCode::UnevenRow);
    EXPECT_EQ(capture.error().where.line, 1004U);
}

TEST(BadInputTest, AHundredMegabyteLineIsRefused) {
    const auto capture = readLogText(std::string(100'000'000, '7'));
    ASSERT_FALSE(capture.has_value());
    EXPECT_EQ(capture.error().code, ErrorCode::LineTooLong);
    EXPECT_EQ(capture.error().where.line, 1U);
}

TEST(BadInputTest, ACutLogGivesItsWholeRows) {
    std::string text = "index,frame_ms\n";
    for (int i = 0; i < 100; ++i) text += fmt::format("{},{}\n", i, 16.5 + i % 3);
    for (std::size_t cut = text.size() - 7; cut < text.size(); ++cut) {
        const auto capture = readLogText(text.substr(0, cut));
        ASSERT_TRUE(capture.has_value()) << cut;
        EXPECT_GE(capture->frames(), 99U);
    }
}

TEST(BadInputTest, AByteOrderMarkIsNoCell) {
    const auto capture = readLogText("\xef\xbb\xbf"
                                     "frame_ms\n16\n17\n16\n");
    ASSERT_TRUE(capture.has_value());
    EXPECT_EQ(capture->frames(), 3U);
}

TEST(BadInputTest, ErrorsOfFilesNameTheFile) {
    const support::TemporaryFolder folder;
    const auto file = folder.write("empty.csv", "");
    EXPECT_EQ(readLog(file).error().where.file, file.string());
    EXPECT_EQ(readLog(folder.path("none.csv")).error().code, ErrorCode::CannotRead);
}

// Over ten million bytes of real and made-up logs with bytes changed, taken out, doubled and cut: an error with its
// place, or frames that make sense. Never a crash, a leak or a hang.
TEST(BadInputTest, MutatedLogsAreRefusedOrRead) {
    RandomStream s(20261, "mutations");
    std::vector<std::string> seeds;
    for (const char* file : {"real-program-slow.csv", "real-program-uneven.csv", "own.csv", "semicolon.csv"})
        seeds.push_back(support::textOf(support::testFile(std::string("logs/") + file)));
    std::string wide = "Application,frame_ms,GPU usage (%),CPU time ms,GPU memory used (GB)\n";
    for (int i = 0; i < 600; ++i)
        wide += fmt::format("{},16.{},{},9.{},5.5\n", i % 9 == 0 ? "b.exe" : "a.exe", i % 10, 90 + i % 9, i % 7);
    seeds.push_back(wide);
    const std::string odd = ",;\t| \n\r\"#/.-+eE%x=\0\xff\xc2";
    std::size_t bytes = 0, read = 0, refused = 0;
    while (bytes < 10'500'000) {
        std::string text = seeds[s.below(seeds.size())];
        const std::uint64_t changes = 1 + s.below(12);
        for (std::uint64_t k = 0; k < changes && !text.empty(); ++k) {
            const std::size_t at = s.below(text.size()), length = std::min<std::size_t>(s.below(80), text.size() - at);
            switch (s.below(5)) {
            case 0:
                text[at] = odd[s.below(odd.size())];
                break;
            case 1:
                text.erase(at, length);
                break;
            case 2:
                text.insert(at, text.substr(at, length));
                break;
            case 3:
                text[at] = static_cast<char>(s.below(256));
                break;
            default:
                if (s.below(8) == 0) text.resize(at);
            }
        }
        bytes += text.size();
        const auto capture = readLogText(text);
        if (!capture) {
            ++refused;
            continue;
        }
        ++read;
        ASSERT_GT(capture->frames(), 0U);
        for (const double v : capture->framesMs) ASSERT_TRUE(std::isfinite(v) && v > 0);
        for (const auto& column : optionalColumns)
            if (const auto& values = (*capture).*column.values) ASSERT_EQ(values->size(), capture->frames());
        for (const auto& track : capture->tracks) ASSERT_EQ(track.timeMs.size(), track.values.size());
    }
    EXPECT_GT(read, 50U);
    EXPECT_GT(refused, 50U);
}

TEST(BadInputTest, MoreColumnsThanAnyLogHasAreRefusedAtOnce) {
    std::string heading, row;
    for (int c = 0; c < 100000; ++c) {
        heading += "c" + std::to_string(c) + ",";
        row += "1,";
    }
    std::string text = heading + "\n";
    for (int r = 0; r < 5; ++r) text += row + "\n";
    const auto wide = impasto::logs::readLogText(text);
    ASSERT_FALSE(wide.has_value());
    EXPECT_EQ(wide.error().code, impasto::ErrorCode::FileTooLarge);
    EXPECT_EQ(wide.error().what, "4000 columns");
    std::string lists = "{";
    for (int c = 0; c < 20000; ++c) lists += "\"k" + std::to_string(c) + "\":[1,2,3,4],";
    EXPECT_FALSE(impasto::logs::readLogText(lists + "\"end\":0}").has_value());
}
