// SPDX-License-Identifier: GPL-3.0-or-later
// Every error, provoked where it arises, and its four parts as a person reads them.
#include "support/support.h"

#include <impasto/path/answer.h>

#include <csignal>
#include <impasto/base/file.h>
#include <impasto/choose/knapsack.h>
#include <impasto/config/files.h>
#include <impasto/logbook/computing.h>
#include <impasto/logbook/logbook.h>
#include <impasto/logs/import.h>
#include <set>
#include <sys/resource.h>

using namespace impasto;
using namespace impasto::support;
using logbook::Logbook;

namespace {

/// Error of what must fail.
template <class T>
Error errorOf(const Result<T>& result) {
    EXPECT_FALSE(result.has_value());
    return result ? Error{ErrorCode::Cancelled, "did not fail", {}, Kept::Nothing} : result.error();
}

std::string rowsWith(const std::string& heading, const std::string& third, int factor = 1) {
    std::string text = heading + "\n";
    for (int i = 0; i < 100; ++i) text += i == 2 ? third + "\n" : fmt::format("{}\n", factor * (16 + i % 3));
    return text;
}

std::string stampsRunningBack() {
    std::string text = "time_s\n";
    for (int i = 0; i < 3000; ++i) text += fmt::format("{:.3f}\n", i == 2500 ? 1.0 : 0.016 * i);
    return text;
}

std::string twoColumnsAlike() {
    std::string text = "first,second\n";
    for (int i = 0; i < 50; ++i) text += fmt::format("{}.5,{}.5\n", 16 + i % 3, 16 + (i + 1) % 3);
    return text;
}

std::string shortRows() { // behind the rows that the columns are guessed from
    std::string text = "index,frame_ms\n";
    for (int i = 0; i < 6000; ++i) text += i >= 2500 ? "20\n" : fmt::format("{},{}\n", i, 16 + i % 3);
    return text;
}

std::string ratesBySecond() {
    std::string text = "time_s,fps\n";
    for (int i = 0; i < 50; ++i) text += fmt::format("{},{}\n", i, 58 + i % 5);
    return text;
}

/// A logbook with one run; the session's id.
SessionId oneRun(const std::filesystem::path& file, const RunId& id) {
    auto book = std::move(*Logbook::open(file));
    document::SessionStore store = demoStore();
    run::Run run;
    run.id = id;
    run.capture = std::make_shared<const capture::Capture>(flatCapture(16, 50));
    store.addRuns({run});
    auto words = Logbook::wordsOf(Logbook::wholeOf(store), store, originals());
    words.whole = true;
    EXPECT_TRUE(book->store(Logbook::wholeOf(store), words, 0).has_value());
    return store.session().id;
}

/// A setting that lives in game.ini as it is, then as it is `meanwhile`.
Error ofConfig(const TemporaryFolder& folder, const std::string& text, const std::string& meanwhile = {}) {
    const auto file = folder.path("game.ini");
    if (!text.empty()) static_cast<void>(folder.write("game.ini", text));
    const auto game =
        game::parseGame("name = \"x\"\n[[config]]\nformat = \"ini\"\npath = \"" + file.string() +
                            "\"\n[[setting]]\nid = \"shadows\"\nlevels = [\"0\", \"1\"]\nkey = \"v/shadows\"\n",
                        "g");
    const auto plan = config::planOf(*game, {{"shadows", "0"}}, folder.root());
    if (!plan || meanwhile.empty()) return errorOf(plan);
    static_cast<void>(folder.write("game.ini", meanwhile));
    return errorOf(config::write(*plan));
}

Error ofLinkedConfig(const TemporaryFolder& folder) {
    const TemporaryFolder elsewhere;
    std::filesystem::create_symlink(elsewhere.write("other.ini", "[v]\nshadows=1\n"), folder.path("game.ini"));
    return ofConfig(folder, {});
}

Error ofCrashedRun(const TemporaryFolder& folder) {
    const RunId run{seededIdSource(4)()};
    const auto session = oneRun(folder.path("book"), run);
    logbook::Computing(folder.path("book")).begin(run); // and the program ends
    const auto stored = std::move(*Logbook::open(folder.path("book")))->load(session);
    return stored && !stored->damage.empty() ? stored->damage[0] : Error{ErrorCode::Cancelled, "no damage", {}};
}

Error ofDamagedLog(const TemporaryFolder& folder) {
    const auto file = folder.path("book");
    auto kept = std::move(*Logbook::open(folder.path("kept")));
    document::SessionStore store = demoStore();
    auto words = Logbook::wordsOf(Logbook::wholeOf(store), store, originals());
    words.whole = true;
    EXPECT_TRUE(kept->store(Logbook::wholeOf(store), words, 0).has_value());
    for (const std::string end : {"", "-wal"})
        std::filesystem::copy_file(folder.path("kept").string() + end, file.string() + end);
    std::string log = textOf(file.string() + "-wal");
    log[600] = static_cast<char>(log[600] ^ 1);
    static_cast<void>(folder.write("book-wal", log));
    const auto book = std::move(*Logbook::open(file));
    return book->lost().value_or(Error{ErrorCode::Cancelled, "nothing lost", {}});
}

Error ofLaterSession(const TemporaryFolder& folder) {
    oneRun(folder.path("book"), {seededIdSource(4)()});
    auto book = std::move(*Logbook::open(folder.path("book")));
    auto words = Logbook::wordsOf(Logbook::wholeOf(demoStore()), demoStore(), originals());
    words.whole = true;
    return errorOf(book->store(Logbook::wholeOf(demoStore()), words, 0));
}

Error ofLog(const TemporaryFolder& folder, const std::string& text) {
    return errorOf(logs::readLog(folder.write("log.csv", text)));
}

Error ofGame(const std::string& text) {
    return errorOf(game::parseGame(text, "game.toml"));
}

Error ofLogbook(const TemporaryFolder& folder, const std::string& bytes) {
    return errorOf(Logbook::open(folder.write("book", bytes)));
}

/// A logbook with one session: a note and one run. Its file is closed.
SessionId storedSession(const std::filesystem::path& file) {
    auto book = Logbook::open(file);
    document::Session start;
    start.id = {seededIdSource(2)()};
    document::SessionStore store(start);
    store.onChange([&](const document::Change& c) {
        EXPECT_TRUE((*book)->store(c, logbook::Logbook::wordsOf(c, store, originals()), 0).has_value());
    });
    EXPECT_TRUE(store.apply(document::writeNote("a note")).has_value());
    run::Run run;
    run.id = {seededIdSource(5)()};
    run.capture = std::make_shared<const capture::Capture>(flatCapture(16, 9000, 8, 12));
    store.addRuns({run});
    return start.id;
}

std::string storedBytes(const TemporaryFolder& folder) {
    storedSession(folder.path("made"));
    return textOf(folder.path("made"));
}

Error ofFullDisk(const TemporaryFolder& folder) {
    const auto old = std::signal(SIGXFSZ, SIG_IGN);
    rlimit limit{};
    ::getrlimit(RLIMIT_FSIZE, &limit);
    const rlimit tight{1000, limit.rlim_max};
    ::setrlimit(RLIMIT_FSIZE, &tight);
    const auto written = writeFileAtomically(folder.path("run.csv"), std::string(5000, 'x'));
    ::setrlimit(RLIMIT_FSIZE, &limit);
    std::signal(SIGXFSZ, old);
    return errorOf(written);
}

Error ofDamagedRun(const TemporaryFolder& folder) {
    const auto id = storedSession(folder.path("book"));
    std::string bytes = textOf(folder.path("book"));
    const auto chunk = bytes.find("\x28\xb5\x2f\xfd"); // a zstd frame begins
    bytes.at(chunk + 12) = static_cast<char>(bytes.at(chunk + 12) ^ 0x10);
    auto book = Logbook::open(folder.write("book", bytes));
    const auto stored = (*book)->load(id);
    EXPECT_TRUE(stored.has_value() && stored->damage.size() == 1);
    return stored->damage.front();
}

Error ofSecondHolder(const TemporaryFolder& folder) {
    const auto first = Logbook::open(folder.path("book"));
    EXPECT_TRUE(first.has_value());
    Error error = errorOf(Logbook::open(folder.path("book")));
    EXPECT_EQ(error.what, "process " + std::to_string(::getpid()));
    error.what = "process 7";
    return error;
}

/// What a session that has these alone is told by its primary action.
Error ofStep(bool machine, bool game, bool brief) {
    document::SessionStore store{document::Session{}};
    const auto small = smallGame();
    if (machine) EXPECT_TRUE(store.apply(document::useMachine(store.addMachine(tower()))).has_value());
    if (game) EXPECT_TRUE(store.apply(document::useGame(store.addGame(small), small)).has_value());
    if (brief) EXPECT_TRUE(store.apply(document::setBrief({})).has_value());
    results::ResultsCache cache;
    const auto results = results::compute(store.session(), cache, {});
    return errorOf(
        path::perform(store, results, path::nextStep(store.session(), results), seededIdSource(1), fixedClock()));
}

Error ofCancelledRecording() {
    std::stop_source stop;
    stop.request_stop();
    auto rig = rig_sim::simulatedRig(originals(), tower(), saltmarsh());
    run::Order order;
    order.route = saltmarsh().routes.front().name;
    order.variant.values = saltmarsh().presets.front().values;
    order.seconds = 60;
    return errorOf((*rig)->record(order, {true}, {}, {stop.get_token(), {}}));
}

Error ofWrongLength() {
    run::Order order;
    order.seconds = 60;
    const auto error = path::mismatch(demoStore().session(), order, flatCapture(20, 500));
    EXPECT_TRUE(error.has_value());
    return error.value_or(Error{ErrorCode::Cancelled, {}, {}, {}});
}

Error ofTightKnapsack() {
    choose::Problem problem;
    problem.groups = {{{5, {3}}, {9, {4}}}};
    problem.capacity = {2};
    return errorOf(choose::solve(problem));
}

Error ofCrash() {
    const auto game =
        gameWith("rainmarket.toml", {{"[[rig.part]]", "[[rig.crash]]\nsetting = \"traced_light\"\nlevel = "
                                                      "\"on\"\n\n[[rig.part]]"}});
    run::Order order;
    order.variant.values = game.preset("traced")->values;
    order.route = game.routes.front().name;
    order.seconds = game.routes.front().seconds();
    const auto rig = rig_sim::simulatedRig(originals(), tower(), game);
    return errorOf(path::recordAll(**rig, {&order, 1}, {}, {}, {}, seededIdSource(1), fixedClock()));
}

struct Case {
    ErrorCode code;
    std::function<Error(const TemporaryFolder&)> provoke;
    const char* what; // "..." at its end: whatever a library adds
    const char* where;
    const char* kept;
    const char* advice;
};

constexpr const char* nothingRead = "Nothing was read.";
constexpr const char* asItWas = "Everything is as it was.";
constexpr const char* framesKept = "The frames recorded so far are kept.";
constexpr const char* restOpen = "Everything else opens as usual.";
constexpr const char* correctCell = "Correct it, or delete the line.";
constexpr const char* seeFormats = "Correct it; docs/formats.md lists the fields.";

std::vector<Case> cases() {
    using enum ErrorCode;
    using F = const TemporaryFolder&;
    return {
        {Cancelled, [](F) { return ofCancelledRecording(); }, "Cancelled.", "", asItWas, ""},
        {CannotRead, [](F f) { return errorOf(logs::readLog(f.path("none.csv"))); },
         "The file cannot be read: No such file or directory.", "Where: DIR/none.csv.", nothingRead,
         "Check that it exists and that you may read it."},
        {CannotWrite, [](F f) { return errorOf(writeFileAtomically(f.path("none/run.csv"), "x")); },
         "The file cannot be written: No such file or directory.", "Where: DIR/none/run.csv.", asItWas,
         "Choose another folder, or make room for it."},
        {FileTooLarge, [](F f) { return errorOf(readFile(f.write("log.csv", "frame_ms"), 4)); },
         "The file holds more than 4 bytes.", "Where: DIR/log.csv.", nothingRead,
         "Keep what is needed of it: a shorter recording, fewer columns. Or start with --most-rows and --most-gib, "
         "which say how much is read."},
        {EmptyFile, [](F f) { return ofLog(f, ""); }, "The file is empty.", "Where: DIR/log.csv.", nothingRead,
         "Record again, or choose another file."},
        {NotText, [](F f) { return ofLog(f, std::string("frame_ms\n16\0", 12)); }, "This is not plain text: binary.",
         "Where: DIR/log.csv, line 2, column 3.", nothingRead, "Save it as UTF-8 text and drop it again."},
        {DamagedPacking, [](F f) { return ofLog(f, "\x1f\x8b rubbish"); },
         "What is packed as gzip is damaged from the start.", "Where: DIR/log.csv.", nothingRead,
         "Copy it again from where it was recorded, or drop the log unpacked."},
        {NoTable, [](F f) { return ofLog(f, R"({"name": "a", "frames": 3})"); }, "The JSON holds no table of frames.",
         "Where: DIR/log.csv.", nothingRead,
         "A list of objects is read, one a frame, or an object of lists of one length."},
        {LineTooLong, [](F f) { return ofLog(f, "frame_ms\n" + std::string(2'000'000, '7')); },
         "A line is longer than 1048576 bytes.", "Where: DIR/log.csv, line 2, column 1048577.", nothingRead,
         "Check that this is a frame log with one frame per line."},
        {NoFrames, [](F f) { return ofLog(f, "hello\nworld\n"); }, "No line holds a frame.",
         "Where: DIR/log.csv, line 3, column 1.", nothingRead, "A log needs a column of frame times or time stamps."},
        {NoTimeColumn, [](F f) { return ofLog(f, "level,name\n3,a\n3,b\n-3,c\n-2,d\n"); },
         "No column looks like frame times or time stamps.", "Where: DIR/log.csv, line 2, column 1.", nothingRead,
         "Name the column \"frame_ms\" or \"time_s\" in a heading."},
        {AmbiguousColumns, [](F f) { return ofLog(f, twoColumnsAlike()); },
         "Several columns could be the frame times: first, second.", "Where: DIR/log.csv, line 2, column 1.",
         nothingRead, "Name the right one \"frame_ms\" in a heading."},
        {BadNumber, [](F f) { return ofLog(f, rowsWith("frame_ms", "sixteen")); }, "\"sixteen\" is not a number.",
         "Where: DIR/log.csv, line 4, column 1.", nothingRead, correctCell},
        {NegativeTime, [](F f) { return ofLog(f, rowsWith("frame_ms", "-16")); }, "A frame cannot take -16.",
         "Where: DIR/log.csv, line 4, column 1.", nothingRead, correctCell},
        {TimeRunsBackwards, [](F f) { return ofLog(f, stampsRunningBack()); },
         "The time stamp 1.000 is earlier than the one before it.", "Where: DIR/log.csv, line 2502, column 1.",
         nothingRead, "Split the log where the new recording starts."},
        {UnevenRow, [](F f) { return ofLog(f, shortRows()); }, "The line has 1 cells; the log has 2.",
         "Where: DIR/log.csv, line 2502, column 1.", nothingRead, "Correct or delete the line."},
        {NotFrames, [](F f) { return ofLog(f, ratesBySecond()); },
         "This is no list of frames: one rate every 1 s (average 60.0, 58.0 to 62.0 fps).",
         "Where: DIR/log.csv, line 2, column 2.", nothingRead,
         "Use a log with one line a frame; of such a table no low is known."},
        {UnclearUnit, [](F f) { return ofLog(f, rowsWith("frame_ms", "16000", 1000)); },
         "The times could be in ms or in us: heading and values do not settle it.",
         "Where: DIR/log.csv, line 2, column 1.", nothingRead, "Look at the log and say which it is (Ctrl+Alt+O)."},
        {BadSyntax, [](F) { return ofGame("name = \"Marsh\"\nroute = = 3\n"); }, "The text cannot be parsed: ...",
         "Where: game.toml, line 2, column 9.", nothingRead, "Correct it and try again."},
        {MissingKey, [](F) { return ofGame("[[setting]]\nid = \"fog\"\n"); }, "name is missing.",
         "Where: game.toml, line 1, name.", nothingRead, "Add it; docs/formats.md lists the fields."},
        {BadValue, [](F) { return ofGame("name = 3\n"); }, "The value is not text.", "Where: game.toml, line 1, name.",
         nothingRead, seeFormats},
        {UnknownName, [](F) { return errorOf(document::setRoute(smallGame(), "Nowhere").apply({})); },
         "Unknown name \"Nowhere\".", "Where: route.", asItWas, "Check the spelling."},
        {DuplicateName,
         [](F) {
             return ofGame("name = \"x\"\n[[setting]]\nid = \"fog\"\nlabel = \"Fog\"\nlevels = [\"low\", \"low\"]\n"
                           "picture = [0, 1]\n");
         },
         "\"low\" is used twice.", "Where: game.toml, line 5, setting[0].levels.", nothingRead,
         "Give one of them another name."},
        {NewerLogbook,
         [](F f) {
             std::string bytes = storedBytes(f);
             bytes[63] = 9;
             return ofLogbook(f, bytes);
         },
         "The logbook was written by a newer version (9).", "Where: DIR/book.", asItWas,
         "Open it with that version, or choose another file with --logbook."},
        {ForeignLogbook, [](F f) { return ofLogbook(f, "frame_ms\n16\n"); }, "This file is not an Impasto logbook.",
         "Where: DIR/book.", asItWas, "Choose another file with --logbook."},
        {DamagedLogbook,
         [](F f) {
             const std::string bytes = storedBytes(f);
             return ofLogbook(f, bytes.substr(0, bytes.size() / 2 + 700));
         },
         "The logbook is damaged: ...", "Where: DIR/book.", asItWas,
         "Move it away and restore it from a backup, or start a new one with --logbook."},
        {AlreadyThere,
         [](F f) { return errorOf(writeFileAtomically(f.write("run.csv", "old"), "new", Existing::Keep)); },
         "The file is there already.", "Where: DIR/run.csv.", asItWas, "Choose another name, or say --force."},
        {DamagedLogbookLog, ofDamagedLog,
         "The write-ahead log beside the logbook is damaged: the newest changes in it, 1, cannot be read.",
         "Where: DIR/book.", restOpen,
         "It was copied beside the logbook (.damaged). Look at what is missing, or restore a backup."},
        {CrashedOnRun, ofCrashedRun, "The program ended while it computed run 1.", "Where: DIR/book.", restOpen,
         "The run is left out, its frames are kept. \u201cCount it\u201d in Runs tries it again."},
        {NewerSession, ofLaterSession, "That file holds a later state of this session, or one that went another way.",
         "Where: DIR/book.", asItWas, "Choose another file."},
        {DamagedCapture, ofDamagedRun, "The stored frames of run 1 are damaged.", "Where: DIR/book.", restOpen,
         "The run is marked; record it again if you need it."},
        {LogbookBusy, ofSecondHolder, "The logbook is open elsewhere: process 7.", "Where: DIR/book.", asItWas,
         "Close it there, or choose another file with --logbook."},
        {DiskFull, ofFullDisk, "The disk is full: File too large.", "Where: DIR/run.csv.", asItWas,
         "Make room; saving continues by itself."},
        {LacksMachine, [](F) { return ofStep(false, true, true); }, "There is no machine yet.", "", asItWas,
         "Describe it in Bench."},
        {LacksGame, [](F) { return ofStep(true, false, true); }, "There is no game yet.", "", asItWas,
         "Choose or describe one."},
        {LacksBrief, [](F) { return ofStep(true, true, false); }, "No goal yet.", "", asItWas,
         "Set a target frame rate in Brief."},
        {LacksRuns, [](F) { return errorOf(choose::propose({}, Fps(60))); }, "More runs are needed: 1.", "", asItWas,
         "Record them first."},
        {OrderMismatch, [](F) { return ofWrongLength(); }, "The log does not fit the order: it lasts 10 s, not 60 s.",
         "", asItWas, "Play the whole route once more, from start to finish."},
        {NothingFits, [](F) { return ofTightKnapsack(); },
         "No combination of the settings fits the budget in every part.", "", asItWas,
         "Lower the target, or unlock a setting."},
        {OutOfRange, [](F) { return errorOf(document::setTarget(Fps(5)).apply({})); },
         "The value is outside its range, 10 to 1000.", "Where: target.", asItWas, "Choose one inside it."},
        {GameCrashed, [](F) { return ofCrash(); }, "The game ended while it was being recorded.", "", framesKept,
         "Start it again; if it ends at the same place, undo the value that was set last."},
        {NotInFile, [](F f) { return ofConfig(f, "[v]\nfog=1\n"); }, "The file holds no \"v/shadows\".",
         "Where: DIR/game.ini.", asItWas,
         "Change the value once in the game, so that it writes the file; or correct the key in the game's "
         "description."},
        {ChangedMeanwhile, [](F f) { return ofConfig(f, "[v]\nshadows=2\n", "[v]\nshadows=1\n"); },
         "The file was changed since it was looked at.", "Where: DIR/game.ini.", asItWas,
         "End the game first, then look at the differences again."},
        {LinkedElsewhere, ofLinkedConfig, "The file is a link to another folder: ...", "Where: DIR/game.ini.", asItWas,
         "Name the file itself in the game's description, if that is what you want changed."},
    };
}

/// The text with the folder's own name taken out.
std::string placeless(std::string text, const TemporaryFolder& folder) {
    const auto at = text.find(folder.root().string());
    return at == std::string::npos ? text : text.replace(at, folder.root().string().size(), "DIR");
}

} // namespace

TEST(ProvokedTest, EveryErrorSaysWhatWhereWhatWasKeptAndWhatToDo) {
    std::set<int> seen;
    for (const auto& c : cases()) {
        const TemporaryFolder folder;
        const Error error = c.provoke(folder);
        const auto text = wording::error(wording::Words(), error);
        EXPECT_EQ(static_cast<int>(error.code), static_cast<int>(c.code)) << text.all();
        std::string wanted = c.what;
        const bool open = wanted.ends_with("...");
        if (open) wanted.resize(wanted.size() - 3);
        EXPECT_EQ(open ? text.what.substr(0, wanted.size()) : text.what, wanted);
        if (open) EXPECT_GT(text.what.size(), wanted.size() + 5) << text.what;
        EXPECT_EQ(placeless(text.where, folder), c.where) << text.what;
        EXPECT_EQ(text.kept, c.kept) << text.what;
        EXPECT_EQ(text.advice, c.advice) << text.what;
        seen.insert(static_cast<int>(c.code));
    }
    EXPECT_EQ(seen.size(), static_cast<std::size_t>(ErrorCode::LinkedElsewhere) + 1) << "a code that nothing provokes";
}
