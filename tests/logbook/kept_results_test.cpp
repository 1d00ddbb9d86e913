// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <impasto/base/random.h>
#include <impasto/logbook/kept_results.h>
#include <sys/stat.h>

using namespace impasto;
using logbook::KeptResults;

namespace {

RunId runAt(unsigned char number) {
    RunId id{};
    id.bytes[0] = number;
    return id;
}

} // namespace

TEST(KeptResultsTest, BytesComeBackUnderTheirMark) {
    const support::TemporaryFolder folder;
    const auto file = folder.path("cache/impasto/results");
    const std::string bytes("a\0b", 3);
    {
        KeptResults kept(file);
        kept.keep(
            {{"shape", runAt(1), 5, bytes}, {"doubt", runAt(1), ~std::uint64_t{0}, "d"}, {"shape", runAt(2), 5, ""}});
        EXPECT_EQ(kept.find("shape", runAt(1), 5), bytes);
        EXPECT_FALSE(kept.find("shape", runAt(1), 6));
        EXPECT_FALSE(kept.find("figures", runAt(1), 5));
        EXPECT_FALSE(kept.find("shape", runAt(3), 5));
    }
    struct stat of {};
    ASSERT_EQ(::stat(file.c_str(), &of), 0);
    EXPECT_EQ(of.st_mode & 0777U, 0600U);
    KeptResults later(file);
    EXPECT_EQ(later.find("doubt", runAt(1), ~std::uint64_t{0}), "d");
    later.keep({{"shape", runAt(1), 6, "newer"}});
    EXPECT_FALSE(later.find("shape", runAt(1), 5));
    EXPECT_EQ(later.find("shape", runAt(1), 6), "newer");
    KeptResults beside(file); // another window
    EXPECT_EQ(beside.find("shape", runAt(1), 6), "newer");
    beside.keep({{"shape", runAt(9), 1, "x"}});
    EXPECT_EQ(later.find("shape", runAt(9), 1), "x");
    later.forget();
    EXPECT_FALSE(later.find("shape", runAt(9), 1));
}

TEST(KeptResultsTest, TheOldestGoWhereItGrowsTooLarge) {
    const support::TemporaryFolder folder;
    KeptResults kept(folder.path("results"), 10000);
    for (unsigned char i = 0; i < 100; ++i) kept.keep({{"shape", runAt(i), 1, std::string(300, 'a')}});
    std::size_t there = 0;
    for (unsigned char i = 0; i < 100; ++i) there += kept.find("shape", runAt(i), 1) ? 1 : 0;
    EXPECT_LE(there * 300, 10000U);
    EXPECT_GE(there, 20U);
    EXPECT_TRUE(kept.find("shape", runAt(99), 1));
    EXPECT_FALSE(kept.find("shape", runAt(0), 1));
}

TEST(KeptResultsTest, ADamagedOrForeignFileIsBegunAnew) {
    const support::TemporaryFolder folder;
    const auto file = folder.path("results");
    const std::string body(2000, 'b');
    for (const std::string& text : {std::string("not a database at all, but long enough to be looked at as one"),
                                    std::string(), std::string(5000, '\0')}) {
        static_cast<void>(folder.write("results", text));
        KeptResults kept(file);
        kept.keep({{"shape", runAt(1), 5, body}});
        EXPECT_EQ(kept.find("shape", runAt(1), 5), body);
    }
    {
        SQLite::Database other(file.string(), SQLite::OPEN_READWRITE);
        other.exec("DROP TABLE kept; CREATE TABLE kept(x)");
    }
    {
        KeptResults kept(file);
        kept.keep({{"shape", runAt(1), 5, body}});
        EXPECT_EQ(kept.find("shape", runAt(1), 5), body);
    }
    // Any bytes of it changed: what is found is what was kept, or nothing.
    const auto sound = support::textOf(file);
    RandomStream random(1, "flips");
    for (int i = 0; i < 200; ++i) {
        auto bytes = sound;
        for (int k = 0; k < 3; ++k) bytes[random.below(bytes.size())] ^= static_cast<char>(1 + random.below(255));
        for (const char* beside : {"results-wal", "results-shm"}) std::filesystem::remove(folder.path(beside));
        static_cast<void>(folder.write("results", bytes));
        KeptResults kept(file);
        if (const auto found = kept.find("shape", runAt(1), 5)) EXPECT_EQ(*found, body);
        kept.keep({{"doubt", runAt(2), 5, "d"}});
    }
}

TEST(KeptResultsTest, WhereNothingCanBeWrittenNothingIsKept) {
    const support::TemporaryFolder folder;
    static_cast<void>(folder.write("plain", "x"));
    KeptResults kept(folder.path("plain/results")); // no folder
    kept.keep({{"shape", runAt(1), 5, "b"}});
    EXPECT_FALSE(kept.find("shape", runAt(1), 5));
    std::filesystem::create_symlink(folder.path("plain"), folder.path("link"));
    KeptResults linked(folder.path("link")); // to another file
    linked.keep({{"shape", runAt(1), 5, "b"}});
    EXPECT_EQ(support::textOf(folder.path("plain")), "x");
}
