// SPDX-License-Identifier: GPL-3.0-or-later
// What was said to be saved is there, or it is said that it is not: damaged logs beside the file, folders that may not
// be written, runs that ended the program, changes that could not be stored.
#include "support/support.h"

#include <fstream>
#include <impasto/logbook/computing.h>
#include <impasto/logbook/writer.h>
#include <unistd.h>

using namespace impasto;
using namespace impasto::support;
using logbook::Logbook;

namespace {

/// A session that is written to a logbook by hand, change by change.
struct Written {
    explicit Written(const std::filesystem::path& file) : path(file), book(std::move(*Logbook::open(file))) {
        store.onChange([this](const document::Change& c) {
            last = book->store(c, Logbook::wordsOf(c, store, originals()), 1780000000);
        });
        start();
    }
    void start() {
        const auto all = Logbook::wholeOf(store);
        auto words = Logbook::wordsOf(all, store, originals());
        words.stepsFrom = 0;
        last = book->store(all, words, 1780000000);
    }
    void note(int n) { EXPECT_TRUE(store.apply(document::writeNote(std::to_string(n))).has_value()); }
    RunId run() {
        run::Run r;
        r.id = {seededIdSource(5)()};
        r.capture = std::make_shared<const capture::Capture>(flatCapture(16, 300));
        store.addRuns({r});
        return r.id;
    }
    std::filesystem::path path;
    document::SessionStore store = demoStore();
    Result<void> last;
    std::unique_ptr<Logbook> book;
};

void flip(const std::filesystem::path& file, std::streamoff at) {
    std::fstream f(file, std::ios::in | std::ios::out | std::ios::binary);
    f.seekg(at);
    const char byte = static_cast<char>(f.get());
    f.seekp(at);
    f.put(static_cast<char>(byte ^ 1));
}

void copyWithLog(const std::filesystem::path& from, const std::filesystem::path& to) {
    for (const char* end : {"", "-wal"})
        std::filesystem::copy_file(from.string() + end, to.string() + end,
                                   std::filesystem::copy_options::overwrite_existing);
}

/// While it lives, files are opened as one who may write nothing of root's.
class AsNobody {
  public:
    AsNobody() : m_root(::geteuid() == 0) {
        if (m_root) m_became = ::seteuid(65534) == 0;
    }
    ~AsNobody() {
        if (m_root) m_became = ::seteuid(0) == 0;
    }
    AsNobody(const AsNobody&) = delete;
    AsNobody& operator=(const AsNobody&) = delete;

  private:
    bool m_root, m_became = false;
};

} // namespace

TEST(SafeTest, ADamagedLogBesideTheFileIsTold) {
    const TemporaryFolder folder;
    Written kept(folder.path("b"));
    for (int i = 0; i < 6; ++i) kept.note(i);
    const auto copy = folder.path("copy");
    copyWithLog(kept.path, copy);
    {
        const auto sound = Logbook::open(copy);
        ASSERT_TRUE(sound.has_value());
        EXPECT_FALSE((*sound)->lost().has_value());
        EXPECT_EQ((*sound)->load(kept.store.session().id)->session.edits->record.note, "5");
    }
    const auto size = static_cast<std::streamoff>(std::filesystem::file_size(kept.path.string() + "-wal"));
    std::size_t told = 0, damaged = 0;
    for (std::streamoff at = 8; at < size; at += size / 40) {
        copyWithLog(kept.path, copy);
        flip(copy.string() + "-wal", at);
        const auto book = Logbook::open(copy);
        ASSERT_TRUE(book.has_value()) << at;
        const auto stored = (*book)->load(kept.store.session().id);
        const bool whole = stored && stored->session.edits->record.note == "5";
        EXPECT_TRUE(whole || (*book)->lost()) << at << ": what was saved is gone, and nothing is said";
        damaged += whole ? 0 : 1;
        if (!(*book)->lost()) continue;
        ++told;
        EXPECT_EQ((*book)->lost()->code, ErrorCode::DamagedLogbookLog);
        EXPECT_TRUE(std::filesystem::exists(copy.string() + "-wal.damaged"));
    }
    EXPECT_GT(damaged, 30U);
    EXPECT_LE(told, damaged + 2) << "a log that is whole is not blamed";
}

TEST(SafeTest, ALogThatIsCutTakesNothingBackThatWasSaved) {
    const TemporaryFolder folder;
    Written kept(folder.path("b"));
    for (int i = 0; i < 3; ++i) kept.note(i);
    const auto copy = folder.path("copy");
    copyWithLog(kept.path, copy);
    std::filesystem::resize_file(copy.string() + "-wal", std::filesystem::file_size(copy.string() + "-wal") - 100);
    const auto book = Logbook::open(copy); // as a program leaves it that is killed amid a save
    ASSERT_TRUE(book.has_value());
    EXPECT_FALSE((*book)->lost().has_value());
    EXPECT_EQ((*book)->load(kept.store.session().id)->session.edits->record.note, "1");
}

TEST(SafeTest, WhatMayNotBeWrittenIsOpenedForReading) {
    const TemporaryFolder folder;
    SessionId id;
    {
        Written kept(folder.path("b"));
        kept.note(4);
        id = kept.store.session().id;
        kept.book->settle();
    }
    using std::filesystem::perms;
    const auto file = folder.path("b");
    std::filesystem::remove(file.string() + ".lock");
    std::filesystem::permissions(file, perms::owner_read | perms::group_read | perms::others_read);
    std::filesystem::permissions(folder.root(), perms::owner_read | perms::owner_exec | perms::group_read |
                                                    perms::group_exec | perms::others_read | perms::others_exec);
    {
        const AsNobody nobody;
        EXPECT_EQ(Logbook::open(file).error().code, ErrorCode::CannotWrite);
        const auto book = Logbook::openToRead(file);
        ASSERT_TRUE(book.has_value()) << book.error().what;
        EXPECT_TRUE((*book)->readingOnly());
        EXPECT_EQ((*book)->load(id)->session.edits->record.note, "4");
    }
    std::filesystem::permissions(folder.root(), perms::owner_all);
}

TEST(SafeTest, ARunThatEndedTheProgramIsLeftAloneUntilItIsTriedAgain) {
    const TemporaryFolder folder;
    const auto file = folder.path("b");
    SessionId id;
    RunId bad;
    {
        Written kept(file);
        id = kept.store.session().id;
        bad = kept.run();
        logbook::Computing computing(file);
        const RunId other{seededIdSource(77)()};
        computing.begin(other);
        computing.begin(bad);
        computing.end(other); // and then the program ends
    }
    {
        auto book = std::move(*Logbook::open(file));
        const auto stored = book->load(id);
        ASSERT_TRUE(stored.has_value());
        ASSERT_EQ(stored->damage.size(), 1U);
        EXPECT_EQ(stored->damage[0].code, ErrorCode::CrashedOnRun);
        EXPECT_EQ(stored->damage[0].what, "run 1");
        const auto& run = stored->session.facts->runs.at(0);
        EXPECT_EQ(stored->session.leftOut(run), document::LeftOut::Crashed);
        EXPECT_EQ(run.capture->frames(), 0U) << "nothing can be computed of it";
    }
    auto book = std::move(*Logbook::open(file));
    EXPECT_TRUE(book->load(id)->session.facts->runs.at(0).crashed) << "at every start";
    ASSERT_TRUE(book->storeTried(bad).has_value());
    const auto stored = book->load(id);
    EXPECT_TRUE(stored->damage.empty());
    EXPECT_EQ(stored->session.facts->runs.at(0).capture->frames(), 300U) << "its frames were kept";
}

TEST(SafeTest, NothingIsLeftOfRunsThatWereComputed) {
    const TemporaryFolder folder;
    const auto file = folder.path("b");
    {
        logbook::Computing computing(file);
        const auto ids = seededIdSource(3);
        std::vector<RunId> runs(5);
        for (auto& run : runs) computing.begin(run = RunId{ids()});
        for (const auto& run : runs) computing.end(run);
    }
    EXPECT_TRUE(logbook::Computing::left(file).empty());
    std::ofstream(file.string() + ".computing") << "nonsense\n\n" << std::string(100000, 'f');
    EXPECT_TRUE(logbook::Computing::left(file).empty());
}

TEST(SafeTest, AChangeThatCannotBeStoredIsStoredWithTheNext) {
    const TemporaryFolder folder;
    const auto file = folder.path("b"), away = folder.path("away");
    auto store = demoStore();
    std::atomic<int> errors{0};
    std::atomic<std::uint64_t> saved{0};
    logbook::LogbookWriter::Hooks hooks;
    hooks.onError = [&](const Error&) { ++errors; };
    hooks.onSaved = [&](SessionId, std::uint64_t revision) { saved = revision; };
    std::optional<logbook::LogbookWriter> writer;
    writer.emplace(std::move(*Logbook::open(file)), hooks, fixedClock());
    store.onChange([&](const document::Change& c) { writer->post(c, store, originals()); });
    writer->postWhole(store, originals());
    writer->waitIdle();
    const auto before = saved.load();
    std::filesystem::rename(file, away);
    const auto ids = seededIdSource(5);
    const auto addRun = [&] {
        run::Run run;
        run.id = {ids()};
        run.capture = std::make_shared<const capture::Capture>(flatCapture(16, 40));
        store.addRuns({run});
    };
    addRun();
    ASSERT_TRUE(store.apply(document::writeNote("one")).has_value());
    addRun();
    ASSERT_TRUE(store.apply(document::writeNote("two")).has_value());
    store.undo();
    writer->waitIdle();
    writer->retry();
    writer->waitIdle();
    EXPECT_EQ(saved, before);
    EXPECT_EQ(errors, 1) << "told once";
    std::filesystem::rename(away, file);
    writer->retry();
    writer->waitIdle();
    EXPECT_EQ(saved, store.session().revision);
    writer.reset();
    const auto stored = (*Logbook::open(file))->load(store.session().id);
    ASSERT_TRUE(stored.has_value());
    EXPECT_EQ(stored->session.facts->runs.size(), 2U);
    EXPECT_EQ(stored->session.edits->record.note, "one");
    EXPECT_EQ(stored->steps.back().after->record.note, "two") << "what was undone can be redone";
}

TEST(SafeTest, AWholeSessionGoesIntoAnotherLogbookAndNeverOverALaterState) {
    const TemporaryFolder folder;
    auto store = demoStore();
    ASSERT_TRUE(store.apply(document::writeNote("first")).has_value());
    run::Run run;
    run.id = {seededIdSource(5)()};
    run.capture = std::make_shared<const capture::Capture>(flatCapture(16, 40));
    store.addRuns({run});
    const auto put = [&](const document::SessionStore& s) {
        auto book = std::move(*Logbook::open(folder.path("other")));
        const auto all = Logbook::wholeOf(s);
        auto words = Logbook::wordsOf(all, s, originals());
        words.stepsFrom = 0;
        words.whole = true;
        return book->store(all, words, 1780000000);
    };
    const auto earlier = store;
    ASSERT_TRUE(put(store).has_value());
    ASSERT_TRUE(store.apply(document::writeNote("second")).has_value());
    ASSERT_TRUE(put(store).has_value()) << "it takes the place of what it grew from";
    EXPECT_EQ(put(earlier).error().code, ErrorCode::NewerSession);
    auto otherWay = earlier; // fewer runs, and yet more changes
    for (int i = 0; i < 9; ++i) ASSERT_TRUE(otherWay.apply(document::writeNote(std::to_string(i))).has_value());
    document::Facts fewer = *otherWay.session().facts;
    fewer.runs.clear();
    auto without = otherWay.session();
    without.facts = std::make_shared<const document::Facts>(std::move(fewer));
    EXPECT_EQ(put({without, otherWay.first(), otherWay.steps(), otherWay.depth()}).error().code,
              ErrorCode::NewerSession)
        << "its runs would be lost";
    // A run whose frames are not in memory keeps those that the file has.
    document::Facts crashed = *store.session().facts;
    crashed.runs.at(0).crashed = true;
    crashed.runs.at(0).capture = std::make_shared<const capture::Capture>();
    auto hurt = store.session();
    hurt.facts = std::make_shared<const document::Facts>(std::move(crashed));
    ASSERT_TRUE(put({hurt, store.first(), store.steps(), store.depth()}).has_value());
    const auto stored = (*Logbook::open(folder.path("other")))->load(store.session().id);
    ASSERT_TRUE(stored.has_value());
    EXPECT_EQ(*stored->session.edits, *store.session().edits);
    EXPECT_EQ(stored->session.facts->runs.size(), 1U);
    EXPECT_EQ(stored->session.facts->runs[0].capture->framesMs, run.capture->framesMs);
    EXPECT_EQ(stored->depth, store.depth());
}
