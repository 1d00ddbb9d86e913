// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <atomic>
#include <cmath>
#include <csignal>
#include <impasto/base/random.h>
#include <impasto/logbook/writer.h>
#include <sys/resource.h>

using namespace impasto;
using namespace impasto::support;
using logbook::Logbook;

namespace {

std::unique_ptr<Logbook> opened(const std::filesystem::path& file) {
    auto book = Logbook::open(file);
    EXPECT_TRUE(book.has_value()) << (book ? "" : wording::error(wording::Words(), book.error()).all());
    return book ? std::move(*book) : nullptr;
}

/// A walked session whose every change is stored.
SessionId storedWalk(const std::filesystem::path& file, path::Action until, document::Session* out = nullptr) {
    auto book = opened(file);
    Walk walk(demoStore());
    // The demo's edits were made before anyone listened: tell them once more as one store.
    document::Session start;
    start.id = {seededIdSource(21)()};
    auto facts = std::make_shared<document::Facts>();
    facts->seed = 5;
    start.facts = facts;
    walk.store = document::SessionStore(start);
    walk.store.onChange([&](const document::Change& change) {
        EXPECT_TRUE(book->store(change, Logbook::wordsOf(change, walk.store, originals()), 1780000000).has_value());
    });
    description::Originals texts;
    EXPECT_TRUE(document::applyRecipe(walk.store, *document::readRecipe(dataFile("demo.toml"), texts)).has_value());
    EXPECT_TRUE(walk.until(until));
    if (out != nullptr) *out = walk.store.session();
    return walk.store.session().id;
}

} // namespace

TEST(LogbookTest, ASessionReadsBackWhole) {
    const TemporaryFolder folder;
    const auto file = folder.path("book.impasto");
    document::Session wanted;
    const auto id = storedWalk(file, path::Action::Done, &wanted);
    auto book = opened(file);
    const auto heads = book->sessions();
    ASSERT_EQ(heads->size(), 1U);
    EXPECT_EQ(heads->front().name, "Saltmarsh Courier");
    const auto stored = book->load(id);
    ASSERT_TRUE(stored.has_value());
    const auto& got = stored->session;
    EXPECT_EQ(got.revision, wanted.revision);
    EXPECT_EQ(*got.edits, *wanted.edits);
    EXPECT_EQ(got.facts->orders, wanted.facts->orders);
    ASSERT_EQ(got.facts->runs.size(), wanted.facts->runs.size());
    for (std::size_t i = 0; i < got.facts->runs.size(); ++i) {
        EXPECT_EQ(got.facts->runs[i].id, wanted.facts->runs[i].id);
        EXPECT_EQ(capture::fingerprintOf(*got.facts->runs[i].capture),
                  capture::fingerprintOf(*wanted.facts->runs[i].capture));
    }
    document::SessionStore store(got, stored->first, stored->steps, stored->depth);
    while (store.undoable()) store.undo();
    EXPECT_FALSE(store.session().edits->goal.brief) << "undo goes back to the beginning after a restart";
    while (store.redoable()) store.redo();
    EXPECT_EQ(*store.session().edits, *wanted.edits);
}

TEST(LogbookTest, ColumnsThatCameAlongReadBack) {
    const TemporaryFolder folder;
    const auto file = folder.path("book.impasto");
    auto book = opened(file);
    document::Session start;
    start.id = {seededIdSource(3)()};
    document::SessionStore store(start);
    store.onChange([&](const document::Change& change) {
        EXPECT_TRUE(book->store(change, Logbook::wordsOf(change, store, originals()), 1780000000).has_value());
    });
    capture::Capture log = flatCapture(16, 70000); // more than a chunk
    capture::OtherColumn scene{"a = \"scene\"", std::vector<float>(log.frames(), 1.0F), {"hill", "sh\xc3\xb6re"}};
    scene.values[5] = 0;
    log.others = {scene, {"quality", std::vector<float>(log.frames(), 0.25F)}};
    run::Run run;
    run.id = {seededIdSource(4)()};
    run.capture = std::make_shared<const capture::Capture>(log);
    store.addRuns({run});
    const auto stored = book->load(start.id);
    ASSERT_TRUE(stored.has_value());
    EXPECT_EQ(stored->session.facts->runs.front().capture->others, log.others);
}

TEST(LogbookTest, FiguresThatWereReadOffReadBackAndThoseThatCannotBeAreDamage) {
    const TemporaryFolder folder;
    const auto file = folder.path("book.impasto");
    const auto stored = [&](const run::ReadOff& figures, std::uint64_t seed) {
        auto book = opened(file);
        document::Session start;
        start.id = {seededIdSource(seed)()};
        document::SessionStore store(start);
        store.onChange([&](const document::Change& change) {
            EXPECT_TRUE(book->store(change, Logbook::wordsOf(change, store, originals()), 1780000000).has_value());
        });
        run::Run run;
        run.id = {seededIdSource(seed + 100)()};
        run.capture = std::make_shared<const capture::Capture>();
        run.readOff = figures;
        store.addRuns({run});
        book = nullptr;
        return opened(file)->load(start.id);
    };
    const run::ReadOff all{Fps(61.5), Fps(48), Fps(75), Fps(40.25), Mebibytes(6100), {48, 61.5, 75}};
    const auto back = stored(all, 1);
    ASSERT_TRUE(back.has_value());
    EXPECT_EQ(back->session.facts->runs.front().readOff, all);
    EXPECT_TRUE(back->session.readOff(back->session.facts->runs.front()));
    EXPECT_TRUE(back->damage.empty());
    const run::ReadOff one{Fps(30), {}, {}, {}, {}};
    EXPECT_EQ(stored(one, 2)->session.facts->runs.front().readOff, one);
    const auto bad = stored({Fps(-5), {}, {}, {}, {}}, 3);
    ASSERT_TRUE(bad.has_value());
    EXPECT_FALSE(bad->session.facts->runs.front().readOff.has_value());
    EXPECT_TRUE(bad->session.facts->runs.front().damaged);
    EXPECT_EQ(bad->damage.size(), 1U);
}

TEST(LogbookTest, OneAbsurdFrameLeavesThatRunOutAndTheRestOpens) {
    const TemporaryFolder folder;
    for (const double absurd : {1e21, -5.0, std::numeric_limits<double>::infinity(), std::nan("")}) {
        const auto file = folder.path(fmt::format("book{}.impasto", absurd));
        document::SessionStore store(document::Session{});
        auto book = opened(file);
        store.onChange([&](const document::Change& change) {
            EXPECT_TRUE(book->store(change, Logbook::wordsOf(change, store, originals()), 1780000000).has_value());
        });
        for (const double ms : {16.5, absurd, 17.5}) {
            run::Run run;
            run.id = {seededIdSource(static_cast<std::uint64_t>(store.session().facts->runs.size() + 3))()};
            auto frames = flatCapture(16, 500);
            frames.framesMs[77] = ms;
            run.capture = std::make_shared<const capture::Capture>(std::move(frames));
            store.addRuns({run});
        }
        const auto stored = book->load(store.session().id);
        ASSERT_TRUE(stored.has_value()) << absurd;
        const auto& runs = stored->session.facts->runs;
        ASSERT_EQ(runs.size(), 3U);
        EXPECT_FALSE(runs[0].damaged);
        EXPECT_TRUE(runs[1].damaged) << absurd;
        EXPECT_FALSE(runs[2].damaged);
        EXPECT_EQ(stored->damage.size(), 1U) << "it is told";
        results::ResultsCache cache;
        EXPECT_EQ(results::compute(stored->session, cache, {}).get<results::ShownRuns>()->ids.size(), 2U);
    }
}

TEST(LogbookTest, UndoIsStoredAndANewEditCutsTheRest) {
    const TemporaryFolder folder;
    auto book = opened(folder.path("b"));
    document::Session start;
    start.id = {seededIdSource(2)()};
    document::SessionStore store(start);
    store.onChange([&](const document::Change& c) {
        ASSERT_TRUE(book->store(c, Logbook::wordsOf(c, store, originals()), 0).has_value());
    });
    for (const char* note : {"a", "b", "c"}) ASSERT_TRUE(store.apply(document::writeNote(note)).has_value());
    store.undo();
    store.undo();
    EXPECT_EQ(book->load(start.id)->session.edits->record.note, "a");
    EXPECT_EQ(book->load(start.id)->steps.size(), 3U);
    ASSERT_TRUE(store.apply(document::writeNote("d")).has_value());
    EXPECT_EQ(book->load(start.id)->session.edits->record.note, "d");
    EXPECT_EQ(book->load(start.id)->steps.size(), 2U);
}

TEST(LogbookTest, ARunFoundHalfRecordedIsInterrupted) {
    const TemporaryFolder folder;
    document::Session session;
    const auto id = storedWalk(folder.path("b"), path::Action::RecordBaseline, &session);
    run::Run half;
    half.id = {seededIdSource(77)()};
    half.capture = std::make_shared<const capture::Capture>(flatCapture(16, 2500, 8, 12));
    ASSERT_TRUE(opened(folder.path("b"))->storeRecording(session, half).has_value());
    for (int opening = 0; opening < 2; ++opening) {
        const auto stored = opened(folder.path("b"))->load(id);
        ASSERT_EQ(stored->session.facts->runs.size(), 2U);
        EXPECT_TRUE(stored->session.facts->runs[1].interrupted);
        EXPECT_EQ(stored->session.facts->runs[1].capture->frames(), 2500U);
        EXPECT_EQ(stored->foundRecording.size(), opening == 0 ? 1U : 0U);
    }
}

TEST(LogbookTest, AFlipInAChunkIsFoundAndTheRestOpens) {
    const TemporaryFolder folder;
    document::Session session;
    const auto id = storedWalk(folder.path("b"), path::Action::RecordCosts, &session);
    std::string bytes = textOf(folder.path("b"));
    // Frames of zstd begin with this magic; flip a byte in the middle of the second one.
    const std::string magic = "\x28\xb5\x2f\xfd";
    const auto at = bytes.find(magic, bytes.find(magic) + 4);
    ASSERT_NE(at, std::string::npos);
    bytes[at + 2000] = static_cast<char>(bytes[at + 2000] ^ 0x10);
    static_cast<void>(folder.write("b", bytes));
    const auto stored = opened(folder.path("b"))->load(id);
    ASSERT_TRUE(stored.has_value());
    ASSERT_EQ(stored->damage.size(), 1U);
    EXPECT_EQ(stored->damage[0].code, ErrorCode::DamagedCapture);
    EXPECT_EQ(stored->damage[0].kept, Kept::RestOfLogbook);
    std::size_t damaged = 0;
    for (const auto& run : stored->session.facts->runs) damaged += run.damaged ? 1 : 0;
    EXPECT_EQ(damaged, 1U);
    EXPECT_EQ(stored->session.facts->runs.size(), session.facts->runs.size());
}

TEST(LogbookTest, AFullDiskIsSaidAndSavingGoesOn) {
    const TemporaryFolder folder;
    std::signal(SIGXFSZ, SIG_IGN);
    auto store = demoStore();
    std::atomic<int> errors{0};
    std::atomic<std::uint64_t> saved{0};
    logbook::LogbookWriter::Hooks hooks;
    hooks.onError = [&](const Error& error) {
        EXPECT_EQ(error.code, ErrorCode::DiskFull);
        EXPECT_EQ(error.kept, Kept::SavedRevisions);
        ++errors;
    };
    hooks.onSaved = [&](SessionId, std::uint64_t revision) { saved = revision; };
    logbook::LogbookWriter writer(opened(folder.path("b")), hooks, fixedClock());
    store.onChange([&](const document::Change& c) { writer.post(c, store, originals()); });
    ASSERT_TRUE(store.apply(document::writeNote("before")).has_value());
    writer.waitIdle();
    const auto before = saved.load();
    EXPECT_EQ(before, store.session().revision);
    rlimit old{};
    ::getrlimit(RLIMIT_FSIZE, &old);
    const rlimit tight{64 * 1024, old.rlim_max};
    ::setrlimit(RLIMIT_FSIZE, &tight);
    run::Run run;
    run.id = {seededIdSource(5)()};
    auto noisy = flatCapture(16, 60000);
    RandomStream s(1, "noise");
    for (double& v : noisy.framesMs) v += s.uniform();
    run.capture = std::make_shared<const capture::Capture>(noisy);
    store.addRuns({run});
    while (errors == 0) std::this_thread::yield();
    EXPECT_EQ(saved, before);
    ::setrlimit(RLIMIT_FSIZE, &old);
    writer.waitIdle();
    EXPECT_EQ(saved, store.session().revision);
    EXPECT_EQ(errors, 1) << "told once";
}
