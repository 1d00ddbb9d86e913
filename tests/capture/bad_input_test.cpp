// SPDX-License-Identifier: GPL-3.0-or-later
// Truncated, empty, huge, wrong-unit, wrong-encoding and hostile logs: a clear error with its place, or a right result.
#include "support/support.h"

#include <impasto/capture/import.h>

using namespace impasto;
using namespace impasto::capture;

namespace {

std::string rows(const std::string& at50) {
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
        {rows("-16"), ErrorCode::NegativeTime, 52},
        {rows("nan"), ErrorCode::BadNumber, 52},
        {rows(""), ErrorCode::BadNumber, {}},
        {rows("sixteen"), ErrorCode::BadNumber, 52},
        {"level,name\n3,a\n3,b\n-3,c\n-2,d\n", ErrorCode::NoTimeColumn, {}},
    };
    for (const auto& c : cases) {
        const auto capture = readLogText(c.text);
        if (c.text == rows("")) { // a blank line is no row
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

TEST(BadInputTest, AShortRowIsRefusedWithItsLine) {
    std::string text = "index,frame_ms\n";
    for (int i = 0; i < 100; ++i) text += i == 60 ? "60\n" : fmt::format("{},{}\n", i, 16 + i % 3);
    const auto capture = readLogText(text);
    ASSERT_FALSE(capture.has_value());
    EXPECT_EQ(capture.error().code, ErrorCode::UnevenRow);
    EXPECT_EQ(capture.error().where.line, 62U);
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
