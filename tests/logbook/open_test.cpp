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
                                        {2, "ALTER TABLE run ADD COLUMN later INTEGER"}};
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

namespace {

/// A logbook with some steps, open; what happens to it meanwhile is up to the test.
struct Book {
    explicit Book(const std::filesystem::path& file) : path(file), book(std::move(*Logbook::open(file))) {
        document::Session start;
        start.id = {seededIdSource(9)()};
        store = std::make_unique<document::SessionStore>(start);
        store->onChange(
            [this](const document::Change& c) { last = book->store(c, Logbook::wordsOf(c, *store, {}), 0); });
        for (int i = 0; i < 5; ++i) note(i);
    }
    bool note(int i) { return store->apply(document::writeNote(std::to_string(i))).has_value() && last.has_value(); }

    std::filesystem::path path;
    std::unique_ptr<Logbook> book;
    std::unique_ptr<document::SessionStore> store;
    Result<void> last;
};

/// What another program does to the file.
void meddle(const std::filesystem::path& file, const char* sql) {
    SQLite::Database db(file.string(), SQLite::OPEN_READWRITE);
    db.exec(sql);
}

constexpr const char* trigger = "CREATE TRIGGER harmless AFTER INSERT ON edits BEGIN DELETE FROM session; END";

} // namespace

TEST(OpenTest, AReceivedLogbookMayHoldNothingThatActs) {
    for (const char* sql : {trigger, "CREATE VIEW harmless AS SELECT * FROM edits", "CREATE TABLE harmless(x)",
                            "CREATE INDEX harmless ON edits(name)", "CREATE VIRTUAL TABLE harmless USING fts5(x)"}) {
        const TemporaryFolder folder;
        const auto file = folder.path("b");
        { const Book kept(file); }
        try {
            meddle(file, sql);
        } catch (const SQLite::Exception&) { // that module is not there
            continue;
        }
        const auto book = Logbook::open(file);
        ASSERT_FALSE(book.has_value()) << sql;
        EXPECT_EQ(book.error().code, ErrorCode::DamagedLogbook);
        EXPECT_NE(book.error().what.find("harmless"), std::string::npos) << book.error().what;
        EXPECT_FALSE(Logbook::openToRead(file).has_value());
    }
}

TEST(OpenTest, WhatLiesInTheLogBesideTheFileIsSeenToo) {
    const TemporaryFolder folder;
    {
        const Book kept(folder.path("b"));
        meddle(kept.path, trigger);
        for (const char* end : {"", "-wal"}) // before it is brought into the file
            std::filesystem::copy_file(kept.path.string() + end, folder.path("copy").string() + end);
    }
    ASSERT_TRUE(std::filesystem::exists(folder.path("copy-wal")));
    const auto book = Logbook::open(folder.path("copy"));
    ASSERT_FALSE(book.has_value());
    EXPECT_NE(book.error().what.find("harmless"), std::string::npos) << book.error().what;
}

TEST(OpenTest, ATriggerThatComesLaterNeverRuns) {
    const TemporaryFolder folder;
    Book kept(folder.path("b"));
    meddle(kept.path, trigger);
    ASSERT_TRUE(kept.note(7));
    EXPECT_EQ(kept.book->sessions()->size(), 1U);
}

TEST(OpenTest, NothingIsSavedInAFileThatIsNoLongerThere) {
    const TemporaryFolder folder;
    Book kept(folder.path("b"));
    std::filesystem::rename(kept.path, folder.path("elsewhere"));
    EXPECT_FALSE(kept.note(7));
    EXPECT_EQ(kept.last.error().code, ErrorCode::CannotWrite);
    EXPECT_EQ(kept.last.error().kept, impasto::Kept::SavedRevisions);
    std::filesystem::copy_file(folder.path("elsewhere"), kept.path); // another one in its place
    const auto mark = fileMark(kept.path);
    EXPECT_FALSE(kept.note(8));
    EXPECT_EQ(fileMark(kept.path), mark) << "it is not written over";
}

TEST(OpenTest, TheOneFileIsOneFile) {
    const TemporaryFolder folder;
    Book kept(folder.path("b"));
    kept.book->settle();
    std::filesystem::copy_file(kept.path, folder.path("copy"));
    const auto copy = Logbook::open(folder.path("copy"));
    ASSERT_TRUE(copy.has_value());
    EXPECT_EQ((*copy)->load(kept.store->session().id)->session.edits->record.note, "4");
}

TEST(OpenTest, ABadStepLeavesThoseBeforeIt) {
    const TemporaryFolder folder;
    const auto file = folder.path("b");
    SessionId id;
    {
        const Book kept(file);
        id = kept.store->session().id;
    }
    meddle(file, "UPDATE edits SET json = '{' WHERE step = 3");
    const auto stored = (*Logbook::open(file))->load(id);
    ASSERT_TRUE(stored.has_value());
    EXPECT_EQ(stored->steps.size(), 3U);
    EXPECT_EQ(stored->session.edits->record.note, "2");
    ASSERT_EQ(stored->damage.size(), 1U) << "and it is told";
    EXPECT_EQ(stored->damage[0].code, ErrorCode::DamagedLogbook);
    EXPECT_NE(stored->damage[0].what.find("change 4"), std::string::npos);
}

TEST(OpenTest, WhatIsMadeIsItsOwnersAlone) {
    using std::filesystem::perms;
    const TemporaryFolder folder;
    const auto file = folder.path("new") / "b";
    const Book kept(file);
    const auto modeOf = [](const std::filesystem::path& path) { return std::filesystem::status(path).permissions(); };
    EXPECT_EQ(modeOf(file.parent_path()), perms::owner_all);
    for (const char* end : {"", "-wal", ".lock"})
        EXPECT_EQ(modeOf(file.string() + end), perms::owner_read | perms::owner_write) << end;
}
