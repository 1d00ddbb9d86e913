// SPDX-License-Identifier: GPL-3.0-or-later
// What must never be written to: newer, foreign, empty, truncated and damaged files; who holds it; and migration.
#include "support/support.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <impasto/logbook/logbook.h>
#include <logbook/open.h>

using namespace impasto;
using namespace impasto::support;
using logbook::Logbook;

namespace {

std::string goodBytes() {
    const TemporaryFolder folder;
    {
        auto book = Logbook::open(folder.path("b"));
        document::Session start;
        start.id = {seededIdSource(2)()};
        document::SessionStore store(start);
        store.onChange([&](const document::Change& c) {
            EXPECT_TRUE((*book)->store(c, Logbook::wordsOf(c, store, {}), 0).has_value());
        });
        for (int i = 0; i < 300; ++i)
            EXPECT_TRUE(
                store.apply(document::writeNote(std::string(200, static_cast<char>('a' + i % 26)))).has_value());
    }
    return textOf(folder.path("b"));
}

void expectUntouched(const std::string& bytes, ErrorCode code, const char* what) {
    const TemporaryFolder folder;
    const auto file = folder.write("b", bytes);
    const auto mark = fileMark(file);
    const auto book = Logbook::open(file);
    ASSERT_FALSE(book.has_value()) << what;
    EXPECT_EQ(static_cast<int>(book.error().code), static_cast<int>(code)) << what;
    EXPECT_EQ(book.error().where.file, file.string());
    EXPECT_EQ(fileMark(file), mark) << what;
    std::size_t files = 0;
    for (const auto& entry : std::filesystem::directory_iterator(folder.root())) {
        ++files;
        EXPECT_TRUE(entry.path() == file || entry.path() == file.string() + ".lock") << entry.path();
    }
    EXPECT_LE(files, 2U);
}

std::string withBytes(std::string bytes, std::size_t at, const std::string& put) {
    return bytes.replace(at, put.size(), put);
}

} // namespace

TEST(OpenTest, WhatIsNotOursIsNeverWritten) {
    const std::string good = goodBytes();
    expectUntouched("", ErrorCode::EmptyFile, "empty");
    expectUntouched("time_s,frame_ms\n1,2\n", ErrorCode::ForeignLogbook, "a frame log");
    expectUntouched(withBytes(good, 68, std::string("\x01\x02\x03\x04", 4)), ErrorCode::ForeignLogbook,
                    "another application's");
    expectUntouched(withBytes(good, 60, std::string("\0\0\0\x09", 4)), ErrorCode::NewerLogbook, "newer");
    expectUntouched(good.substr(0, 60), ErrorCode::ForeignLogbook, "cut in the header");
    expectUntouched(good.substr(0, good.size() / 2 + 700), ErrorCode::DamagedLogbook, "cut in the middle");
}

TEST(OpenTest, FlipsInPageHeadersAreFound) {
    const std::string good = goodBytes();
    const std::size_t pages = good.size() / 4096;
    ASSERT_GT(pages, 10U);
    std::size_t found = 0;
    for (std::size_t page = 2; page < std::min<std::size_t>(pages, 12); ++page) {
        std::string bytes = good;
        for (std::size_t i = 0; i < 8; ++i) bytes[page * 4096 + i] = static_cast<char>(bytes[page * 4096 + i] ^ 0x55);
        const TemporaryFolder folder;
        const auto file = folder.write("b", bytes);
        const auto mark = fileMark(file);
        const auto book = Logbook::open(file);
        if (book) continue; // an overflow page's bytes are content, not structure
        ++found;
        EXPECT_EQ(book.error().code, ErrorCode::DamagedLogbook);
        EXPECT_EQ(fileMark(file), mark);
    }
    EXPECT_GE(found, 5U);
}

TEST(OpenTest, ASecondHolderIsTold) {
    const TemporaryFolder folder;
    const auto first = Logbook::open(folder.path("b"));
    ASSERT_TRUE(first.has_value());
    const auto second = Logbook::open(folder.path("b"));
    ASSERT_FALSE(second.has_value());
    EXPECT_EQ(second.error().code, ErrorCode::LogbookBusy);
    EXPECT_EQ(second.error().what, "process " + std::to_string(::getpid()));
    EXPECT_FALSE((*first)->readingOnly());
    // It may read all the same, and writes nothing.
    const auto reader = Logbook::openToRead(folder.path("b"));
    ASSERT_TRUE(reader.has_value()) << reader.error().what;
    EXPECT_TRUE((*reader)->readingOnly());
    EXPECT_TRUE((*reader)->sessions().has_value());
    EXPECT_FALSE((*reader)->storeDeleted({}, true).has_value());
    EXPECT_FALSE(Logbook::openToRead(folder.path("none")).has_value());
}

TEST(OpenTest, AFolderThatCannotBeMadeIsAnError) {
    const TemporaryFolder folder;
    const auto file = folder.write("file", "x");
    EXPECT_EQ(Logbook::open(file / "below/b").error().code, ErrorCode::CannotWrite);
}

TEST(OpenTest, EveryVersionsLogbookOpens) {
    for (int version = 1; version <= logbook::currentVersion; ++version) {
        const TemporaryFolder folder;
        const auto file =
            folder.write("b", textOf(testFile("logbooks/version-" + std::to_string(version) + ".impasto")));
        const auto book = Logbook::open(file);
        ASSERT_TRUE(book.has_value()) << version;
        const auto heads = (*book)->sessions();
        ASSERT_EQ(heads->size(), 1U);
        const auto stored = (*book)->load(heads->front().id);
        ASSERT_TRUE(stored.has_value());
        EXPECT_EQ(stored->session.edits->record.note, "one of every version is kept");
        EXPECT_EQ(stored->session.facts->runs.size(), 1U);
        EXPECT_TRUE(stored->damage.empty());
    }
}

TEST(OpenTest, AnOlderFileIsCopiedBesideAndMigrated) {
    const TemporaryFolder folder;
    const auto file = folder.write("b", textOf(testFile("logbooks/version-1.impasto")));
    const auto before = fileMark(file);
    const logbook::Migration steps[] = {{1, "ALTER TABLE session ADD COLUMN colour TEXT NOT NULL DEFAULT 'none'"},
                                        {2, "CREATE TABLE later(x INTEGER) STRICT"}};
    ASSERT_TRUE(logbook::migrate(file, 1, steps).has_value());
    EXPECT_EQ(fileMark(folder.path("b.v1")), before);
    SQLite::Database db(file.string());
    EXPECT_EQ(db.execAndGet("PRAGMA user_version").getInt(), 3);
    EXPECT_EQ(db.execAndGet("SELECT colour FROM session").getString(), "none");
    EXPECT_EQ(*logbook::examine(file, 3), 3);
    EXPECT_EQ(logbook::examine(file, 1).error().code, ErrorCode::NewerLogbook);
}

TEST(OpenTest, AFailedMigrationLeavesTheFileAsItWas) {
    const TemporaryFolder folder;
    const auto file = folder.write("b", textOf(testFile("logbooks/version-1.impasto")));
    const logbook::Migration steps[] = {{1, "CREATE TABLE fine(x INTEGER) STRICT; this is no sql"}};
    EXPECT_FALSE(logbook::migrate(file, 1, steps).has_value());
    EXPECT_EQ(*logbook::examine(file, 1), 1);
    SQLite::Database db(file.string());
    EXPECT_FALSE(db.tableExists("fine"));
}
