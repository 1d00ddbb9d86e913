// SPDX-License-Identifier: GPL-3.0-or-later
// A log while it is written: rows come as they are whole, through cuts, a new file under the name, and bad rows.
#include "support/support.h"

#include <fstream>
#include <impasto/base/random.h>
#include <impasto/logs/follow.h>

using namespace impasto;
using namespace impasto::capture;
using namespace impasto::logs;
using namespace impasto::support;

namespace {

void append(const std::filesystem::path& file, std::string_view text) {
    std::ofstream out(file, std::ios::app | std::ios::binary);
    out << text;
}

std::string textRows(int from, int to) {
    std::string out;
    for (int i = from; i < to; ++i) out += fmt::format("{};16,{}\n", i, i % 10);
    return out;
}

} // namespace

TEST(FollowTest, RowsComeAsTheyAreWhole) {
    const TemporaryFolder folder;
    const auto file = folder.write("log.csv", "n;frame ms\n");
    Follower follower(file);
    ASSERT_TRUE(follower.poll().has_value());
    EXPECT_EQ(follower.capture().frames(), 0U) << "the columns are not clear yet";
    const std::string text = textRows(0, 3000);
    RandomStream s(1, "pieces");
    std::size_t at = 0, frames = 0;
    while (at < text.size()) {
        const std::size_t piece = std::min<std::size_t>(1 + s.below(400), text.size() - at);
        append(file, std::string_view(text).substr(at, piece));
        at += piece;
        const auto poll = follower.poll();
        ASSERT_TRUE(poll.has_value());
        EXPECT_TRUE(poll->grew);
        EXPECT_GE(follower.capture().frames(), frames);
        frames = follower.capture().frames();
    }
    EXPECT_EQ(follower.capture().framesMs, readLog(file)->framesMs);
    EXPECT_FALSE(follower.poll()->grew);
}

TEST(FollowTest, TheFirstFramesStartFollowsFromThePollThatLagsLeast) {
    const TemporaryFolder folder;
    const auto file = folder.write("log.csv", "frame ms\n");
    Follower follower(file);
    ASSERT_TRUE(follower.poll(0).has_value());
    EXPECT_FALSE(follower.startedMs());
    const auto frames = [](int count) {
        std::string out;
        for (int i = 0; i < count; ++i) out += "10.0\n";
        return out;
    };
    // It started at 1000 and writes late: 700, 120 and 400 ms after the last frame of each piece.
    append(file, frames(100));
    ASSERT_TRUE(follower.poll(2700).has_value());
    EXPECT_NEAR(follower.startedMs().value_or(0), 1700, 1e-6);
    append(file, frames(100));
    ASSERT_TRUE(follower.poll(3120).has_value());
    EXPECT_NEAR(follower.startedMs().value_or(0), 1120, 1e-6);
    append(file, frames(100));
    ASSERT_TRUE(follower.poll(4400).has_value());
    ASSERT_TRUE(follower.poll(9000).has_value()); // nothing was added
    EXPECT_NEAR(follower.startedMs().value_or(0), 1120, 1e-6);
    static_cast<void>(folder.write("log.csv", "frame ms\n" + frames(50))); // another run under its name
    ASSERT_TRUE(follower.poll(20600)->restarted);
    EXPECT_NEAR(follower.startedMs().value_or(0), 20100, 1e-6);
}

TEST(FollowTest, ACutOrReplacedFileIsReadAnew) {
    const TemporaryFolder folder;
    const auto file = folder.write("log.csv", "n;frame ms\n" + textRows(0, 500));
    Follower follower(file);
    ASSERT_TRUE(follower.poll().has_value());
    EXPECT_EQ(follower.capture().frames(), 500U);
    static_cast<void>(folder.write("log.csv", "n;frame ms\n" + textRows(0, 100))); // cut
    EXPECT_TRUE(follower.poll()->restarted);
    EXPECT_EQ(follower.capture().frames(), 100U);
    const auto other = folder.write("new", "n;frame ms\n" + textRows(0, 200));
    std::filesystem::rename(other, file);
    EXPECT_TRUE(follower.poll()->restarted);
    EXPECT_EQ(follower.capture().frames(), 200U);
    std::filesystem::remove(file);
    EXPECT_EQ(follower.poll().error().code, ErrorCode::CannotRead);
    EXPECT_EQ(follower.capture().frames(), 200U) << "what was read stays";
}

TEST(FollowTest, ABadRowIsSaidWithItsLine) {
    const TemporaryFolder folder;
    const auto file = folder.write("log.csv", "n;frame ms\n" + textRows(0, 300));
    Follower follower(file);
    ASSERT_TRUE(follower.poll().has_value());
    append(file, "300;16,1\n301;oops\n302;16,2\n");
    const auto bad = follower.poll();
    ASSERT_FALSE(bad.has_value());
    EXPECT_EQ(bad.error().code, ErrorCode::BadNumber);
    EXPECT_EQ(bad.error().where.line, 303U);
    EXPECT_EQ(bad.error().kept, Kept::FramesUntilHere);
    EXPECT_EQ(follower.capture().frames(), 301U);
    // Text without a column of times is no log, once there is enough of it.
    Follower prose(folder.write("prose.txt", std::string(1U << 17U, 'x') + "\n"));
    EXPECT_FALSE(prose.poll().has_value());
}

TEST(FollowTest, OnlyTheNewBytesAreRead) {
    const TemporaryFolder folder;
    const auto file = folder.write("log.csv", "n;frame ms\n" + textRows(0, 50000));
    Follower follower(file);
    for (int i = 0; i < 200 && follower.poll(4096)->grew; ++i) {
    }
    EXPECT_EQ(follower.capture().framesMs, readLog(file)->framesMs) << "in pieces of 4 KiB";
}
