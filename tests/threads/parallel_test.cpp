// SPDX-License-Identifier: GPL-3.0-or-later
#include <atomic>
#include <fmt/core.h>
#include <gtest/gtest.h>
#include <impasto/base/parallel.h>
#include <impasto/logs/import.h>
#include <vector>

using namespace impasto;

TEST(ParallelTest, EveryPieceIsDoneOnce) {
    for (const std::size_t count : {0U, 1U, 2U, 1000U}) {
        std::vector<int> done(count, 0);
        std::atomic<std::size_t> all = 0;
        inParallel(count, [&](std::size_t i) {
            ++done[i];
            ++all;
        });
        EXPECT_EQ(all, count);
        for (const int n : done) EXPECT_EQ(n, 1);
    }
}

namespace {

/// So many rows that a log is several blocks long; `at` is another cell in place of the frame time of one row.
std::string longLog(std::size_t rows, std::size_t at = 0, std::string_view cell = {}, const char* dock = "\"dock, \"") {
    std::string out = "frame_ms,gpu_ms,scene\n";
    for (std::size_t i = 1; i <= rows; ++i)
        if (i == at)
            out += fmt::format("{},6.5,dock\n", cell);
        else
            out += fmt::format("{:.3f},{:.2f},{}\n", 10 + 0.001 * static_cast<double>(i % 977), 6.5,
                               i % 3 == 0 ? dock : "pier");
    return out;
}

} // namespace

TEST(ParallelTest, TheBlocksOfALongLogAreReadAsOne) {
    constexpr std::size_t rows = 200000;              // some sixteen blocks
    for (const char* dock : {"\"dock, \"", "dock"}) { // with quotes, and without: cut in one pass
        const auto whole = logs::readLogText(longLog(rows, 0, {}, dock));
        ASSERT_TRUE(whole.has_value());
        ASSERT_EQ(whole->frames(), rows);
        for (std::size_t i = 1; i <= rows; ++i)
            ASSERT_EQ(whole->framesMs[i - 1],
                      std::stod(fmt::format("{:.3f}", 10 + 0.001 * static_cast<double>(i % 977))));
        ASSERT_TRUE(whole->gpuWorkMs.has_value());
        EXPECT_EQ(whole->gpuWorkMs->size(), rows);
    }
    // A fault deep inside has its own line, and what was cut at the end is told.
    const auto fault = logs::readLogText(longLog(rows, 150000, "-4.0"));
    ASSERT_FALSE(fault.has_value());
    EXPECT_EQ(fault.error().code, ErrorCode::NegativeTime);
    EXPECT_EQ(fault.error().where.line, 150001U);
    auto cut = longLog(rows);
    cut.resize(cut.size() - 9);
    const auto most = logs::readLogText(cut);
    ASSERT_TRUE(most.has_value());
    EXPECT_EQ(most->frames(), rows - 1);
    // A line that is far too long is refused, wherever it begins.
    const auto tooLong = logs::readLogText(longLog(20000) + std::string(3U << 20U, '7') + ",1,dock\n");
    ASSERT_FALSE(tooLong.has_value());
    EXPECT_EQ(tooLong.error().code, ErrorCode::LineTooLong);
    EXPECT_EQ(tooLong.error().where.line, 20002U);
}
