// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/capture/check.h>
#include <impasto/logbook/logbook.h>

#include <impasto/logbook/edits_json.h>

#include "chunk.h"
#include "facts_json.h"
#include "open.h"

namespace impasto::logbook {

struct Logbook::State {
    std::filesystem::path file;
    std::unique_ptr<Lock> lock;
    SQLite::Database db;
};

namespace {

using document::Change;
using document::Edits;
using document::Session;
using document::Step;

constexpr Migration migrations[]{{1, "ALTER TABLE session ADD COLUMN about TEXT NOT NULL DEFAULT '{}'; "
                                     "ALTER TABLE session ADD COLUMN deleted INTEGER NOT NULL DEFAULT 0"}};

void bindId(SQLite::Statement& s, int index, const IdBytes& id) {
    s.bind(index, id.data(), static_cast<int>(id.size()));
}

IdBytes idFrom(const SQLite::Column& column) {
    IdBytes id{};
    if (static_cast<std::size_t>(column.getBytes()) == id.size())
        std::copy_n(static_cast<const std::uint8_t*>(column.getBlob()), id.size(), id.begin());
    return id;
}

std::int64_t asSigned(std::uint64_t v) {
    return static_cast<std::int64_t>(v);
}

void putText(SQLite::Database& db, const char* sql, const SessionId& session, std::size_t position,
             const std::string& text) {
    SQLite::Statement s(db, sql);
    bindId(s, 1, session.bytes);
    s.bind(2, static_cast<std::int64_t>(position));
    s.bind(3, text);
    s.exec();
}

void putChunks(SQLite::Database& db, const run::Run& run) {
    SQLite::Statement s(
        db,
        "INSERT OR REPLACE INTO capture_chunk(run, column_name, chunk, rows, type, data) VALUES(?, ?, ?, ?, 'f64', ?)");
    SQLite::Statement known(db, "SELECT rows FROM capture_chunk WHERE run = ? AND column_name = ? AND chunk = ?");
    for (const auto& column : columnsOf(*run.capture)) {
        const std::size_t all = std::visit([](auto values) { return values.size(); }, column.values);
        for (std::size_t chunk = 0; chunk * chunkRows < all; ++chunk) {
            const std::size_t rows = std::min(chunkRows, all - chunk * chunkRows);
            known.reset();
            bindId(known, 1, run.id.bytes);
            known.bind(2, column.name);
            known.bind(3, static_cast<std::int64_t>(chunk));
            if (known.executeStep() && known.getColumn(0).getInt64() == static_cast<std::int64_t>(chunkRows))
                continue; // full and stored
            const std::string blob =
                std::visit([&](auto values) { return packed(values.subspan(chunk * chunkRows, rows)); }, column.values);
            s.reset();
            bindId(s, 1, run.id.bytes);
            s.bind(2, column.name);
            s.bind(3, static_cast<std::int64_t>(chunk));
            s.bind(4, static_cast<std::int64_t>(rows));
            s.bindNoCopy(5, blob.data(), static_cast<int>(blob.size()));
            s.exec();
        }
    }
}

void putRun(SQLite::Database& db, const SessionId& session, std::optional<std::size_t> position, const run::Run& run,
            const char* state) {
    SQLite::Statement s(db, "INSERT OR REPLACE INTO run(id, session, position, order_id, maker, state, name, "
                            "rig_state, made_s, head) VALUES(?,?,?,?,?,?,?,?,?,?)");
    bindId(s, 1, run.id.bytes);
    bindId(s, 2, session.bytes);
    if (position) s.bind(3, static_cast<std::int64_t>(*position));
    if (run.order) bindId(s, 4, run.order->bytes);
    s.bind(5, std::string(run::keyOf(run.maker)));
    s.bind(6, state);
    s.bind(7, run.name);
    s.bind(8, run.rigState);
    s.bind(9, std::int64_t{run.made.time_since_epoch().count()});
    s.bind(10, headJson(*run.capture));
    s.exec();
    putChunks(db, run);
}

void putSession(SQLite::Database& db, const Change& change, const std::shared_ptr<const Edits>& first,
                std::int64_t atSeconds) {
    const Session& session = change.session;
    SQLite::Statement s(
        db, "INSERT INTO session(id, seed, revision, changed_s, name, first_edits, depth) VALUES(?,?,?,?,?,?,?) "
            "ON CONFLICT(id) DO UPDATE SET revision = excluded.revision, changed_s = excluded.changed_s, name = "
            "excluded.name, depth = excluded.depth");
    bindId(s, 1, session.id.bytes);
    s.bind(2, asSigned(session.facts->seed));
    s.bind(3, asSigned(session.revision));
    s.bind(4, atSeconds);
    s.bind(5, session.name());
    s.bind(6, toJson(*first));
    s.bind(7, static_cast<std::int64_t>(change.undoDepth));
    s.exec();
}

void putSteps(SQLite::Database& db, const Change& change, std::span<const Step> steps) {
    if (!change.edit || change.stackChanged) return;
    SQLite::Statement drop(db, "DELETE FROM edits WHERE session = ? AND step >= ?");
    bindId(drop, 1, change.session.id.bytes);
    drop.bind(2, static_cast<std::int64_t>(change.undoDepth - 1));
    drop.exec();
    SQLite::Statement s(db, "INSERT INTO edits(session, step, name, json) VALUES(?,?,?,?)");
    bindId(s, 1, change.session.id.bytes);
    s.bind(2, static_cast<std::int64_t>(change.undoDepth - 1));
    s.bind(3, *change.edit);
    s.bind(4, toJson(*steps[change.undoDepth - 1].after));
    s.exec();
}

void putFacts(SQLite::Database& db, const Change& change, const Logbook::Words& words) {
    const auto& facts = *change.session.facts;
    const auto& id = change.session.id;
    for (std::size_t i = facts.machines.size() - change.machines; i < facts.machines.size(); ++i)
        putText(db, "INSERT INTO machine(session, position, text) VALUES(?,?,?)", id, i,
                words.machines[i + change.machines - facts.machines.size()]);
    for (std::size_t i = facts.games.size() - change.games; i < facts.games.size(); ++i)
        putText(db, "INSERT INTO game(session, position, text) VALUES(?,?,?)", id, i,
                words.games[i + change.games - facts.games.size()]);
    for (std::size_t i = facts.orders.size() - change.orders; i < facts.orders.size(); ++i)
        putText(db, "INSERT INTO run_order(session, position, json) VALUES(?,?,?)", id, i, toJson(facts.orders[i]));
    for (std::size_t i = facts.runs.size() - change.runs; i < facts.runs.size(); ++i)
        putRun(db, id, i, facts.runs[i], facts.runs[i].interrupted ? "interrupted" : "complete");
}

/// The texts of one table of a session, in order.
std::vector<std::string> texts(SQLite::Database& db, const char* sql, const SessionId& id) {
    SQLite::Statement s(db, sql);
    bindId(s, 1, id.bytes);
    std::vector<std::string> out;
    while (s.executeStep()) out.push_back(s.getColumn(0).getString());
    return out;
}

/// Room for what is stored, so that nothing is copied while it is read.
void reserveColumns(SQLite::Database& db, const RunId& id, capture::Capture& capture) {
    SQLite::Statement s(db, "SELECT column_name, count(*) FROM capture_chunk WHERE run = ? GROUP BY column_name");
    bindId(s, 1, id.bytes);
    while (s.executeStep()) {
        const auto chunks = static_cast<std::size_t>(s.getColumn(1).getInt64());
        if (const auto to = columnIn(capture, s.getColumn(0).getString()))
            std::visit([&](auto* column) { column->reserve(chunks * chunkRows); }, *to);
    }
}

/// The stored frames; nothing when a chunk is damaged or missing, or they make no sense.
std::optional<capture::Capture> readCapture(SQLite::Database& db, const RunId& id, const std::string& head) {
    auto capture = captureFromHead(head);
    if (!capture) return std::nullopt;
    reserveColumns(db, id, *capture);
    SQLite::Statement s(db,
                        "SELECT column_name, rows, data FROM capture_chunk WHERE run = ? ORDER BY column_name, chunk");
    bindId(s, 1, id.bytes);
    while (s.executeStep()) {
        const auto data = s.getColumn(2);
        const std::string_view blob(static_cast<const char*>(data.getBlob()),
                                    static_cast<std::size_t>(data.getBytes()));
        const auto rows = static_cast<std::size_t>(s.getColumn(1).getInt64());
        const auto to = columnIn(*capture, s.getColumn(0).getString());
        if (!to || !std::visit([&](auto* column) { return unpack(blob, rows, *column); }, *to)) return std::nullopt;
    }
    // Of a recording that was killed, parts lie ahead.
    std::erase_if(capture->marks, [&](const capture::PartMark& m) { return m.firstFrame >= capture->frames(); });
    if (capture::faultOf(*capture)) return std::nullopt; // another program's hand, or damage that no checksum saw
    return std::move(*capture);
}

void readRuns(SQLite::Database& db, const SessionId& id, document::Facts& facts, Stored& stored) {
    SQLite::Statement s(db, "SELECT id, order_id, maker, state, name, rig_state, made_s, head FROM run WHERE session = "
                            "? ORDER BY position IS NULL, position, made_s");
    bindId(s, 1, id.bytes);
    while (s.executeStep()) {
        run::Run run;
        run.id = {idFrom(s.getColumn(0))};
        if (!s.getColumn(1).isNull()) run.order = OrderId{idFrom(s.getColumn(1))};
        run.maker = run::makerOf(s.getColumn(2).getString()).value_or(run::Maker::Dropped);
        const std::string state = s.getColumn(3).getString();
        run.interrupted = state != "complete";
        run.name = s.getColumn(4).getString();
        run.rigState = s.getColumn(5).getString();
        run.made = std::chrono::sys_seconds(std::chrono::seconds(s.getColumn(6).getInt64()));
        auto capture = readCapture(db, run.id, s.getColumn(7).getString());
        run.damaged = !capture;
        run.capture = std::make_shared<const capture::Capture>(capture ? std::move(*capture) : capture::Capture{});
        facts.runs.push_back(run);
        if (run.damaged)
            stored.damage.push_back(
                {ErrorCode::DamagedCapture, fmt::format("run {}", facts.runs.size()), {}, Kept::RestOfLogbook});
        if (state == "recording") stored.foundRecording.push_back(run.id);
    }
}

/// A run that a killed program left half recorded takes its place behind the others.
void closeRecordings(SQLite::Database& db, const document::Facts& facts, const Stored& stored) {
    SQLite::Statement s(db, "UPDATE run SET state = 'interrupted', position = ? WHERE id = ?");
    for (std::size_t i = 0; i < facts.runs.size(); ++i) {
        if (std::find(stored.foundRecording.begin(), stored.foundRecording.end(), facts.runs[i].id) ==
            stored.foundRecording.end())
            continue;
        s.reset();
        s.bind(1, static_cast<std::int64_t>(i));
        bindId(s, 2, facts.runs[i].id.bytes);
        s.exec();
    }
}

/// The texts of one table of a session, each parsed. All were valid when stored; one that is not is damage.
template <class Parse, class Take>
Result<void> readThings(SQLite::Database& db, const char* sql, const SessionId& id, Parse parse, Take take) {
    for (const auto& text : texts(db, sql, id)) {
        auto thing = parse(text);
        if (!thing) {
            Error error = thing.error();
            return fail(ErrorCode::DamagedLogbook, error.what, std::move(error.where), Kept::RestOfLogbook);
        }
        take(std::move(*thing));
    }
    return {};
}

Result<void> readEdits(SQLite::Database& db, const SessionId& id, Stored& stored) {
    SQLite::Statement s(db, "SELECT name, json FROM edits WHERE session = ? ORDER BY step");
    bindId(s, 1, id.bytes);
    while (s.executeStep()) {
        auto edits = editsFromJson(s.getColumn(1).getString());
        if (!edits) { // what came before it is whole
            stored.damage.push_back(
                {ErrorCode::DamagedLogbook,
                 fmt::format("change {} and what follows it, {}", stored.steps.size() + 1, edits.error().what),
                 {},
                 Kept::RestOfLogbook});
            return {};
        }
        stored.steps.push_back({s.getColumn(0).getString(), std::make_shared<const Edits>(std::move(*edits))});
    }
    return {};
}

Result<Stored> readSession(SQLite::Database& db, const SessionId& id) {
    SQLite::Statement s(db, "SELECT seed, revision, first_edits, depth FROM session WHERE id = ?");
    bindId(s, 1, id.bytes);
    if (!s.executeStep()) return fail(ErrorCode::UnknownName, id.hex());
    Stored stored;
    document::Facts facts;
    facts.seed = static_cast<std::uint64_t>(s.getColumn(0).getInt64());
    stored.session.id = id;
    stored.session.revision = static_cast<std::uint64_t>(s.getColumn(1).getInt64());
    auto first = editsFromJson(s.getColumn(2).getString());
    if (!first) return tl::unexpected(first.error());
    stored.first = std::make_shared<const Edits>(std::move(*first));
    stored.depth = static_cast<std::size_t>(s.getColumn(3).getInt64());
    Result<void> done = readThings(
        db, "SELECT text FROM machine WHERE session = ? ORDER BY position", id,
        [&](const std::string& text) {
            stored.originals.add(text);
            return machine::parseMachine(text, {});
        },
        [&](auto m) { facts.machines.push_back(std::make_shared<const machine::Machine>(std::move(m))); });
    if (done)
        done = readThings(
            db, "SELECT text FROM game WHERE session = ? ORDER BY position", id,
            [&](const std::string& text) {
                stored.originals.add(text);
                return game::parseGame(text, {});
            },
            [&](auto g) { facts.games.push_back(std::make_shared<const game::Game>(std::move(g))); });
    if (done)
        done = readThings(db, "SELECT json FROM run_order WHERE session = ? ORDER BY position", id, orderFromJson,
                          [&](auto order) { facts.orders.push_back(std::move(order)); });
    if (done) done = readEdits(db, id, stored);
    if (!done) return tl::unexpected(done.error());
    readRuns(db, id, facts, stored);
    closeRecordings(db, facts, stored);
    stored.depth = std::min(stored.depth, stored.steps.size());
    stored.session.facts = std::make_shared<const document::Facts>(std::move(facts));
    stored.session.edits = stored.depth == 0 ? stored.first : stored.steps[stored.depth - 1].after;
    return stored;
}

} // namespace

Logbook::Logbook(std::unique_ptr<State> state) : m_state(std::move(state)) {}
Logbook::~Logbook() = default;

Result<std::unique_ptr<Logbook>> Logbook::open(const std::filesystem::path& file) {
    if (const auto made = makeFolder(file); !made) return tl::unexpected(made.error());
    auto lock = Lock::take(file);
    if (!lock) return tl::unexpected(lock.error());
    if (!std::filesystem::exists(file))
        if (const auto made = create(file); !made) return tl::unexpected(made.error());
    const auto version = examine(file, currentVersion);
    if (!version) return tl::unexpected(version.error());
    if (*version < currentVersion)
        if (const auto done = migrate(file, *version, migrations); !done) return tl::unexpected(done.error());
    try {
        auto state = std::make_unique<State>(
            State{file, std::move(*lock), SQLite::Database(file.string(), SQLite::OPEN_READWRITE)});
        if (const auto ours = mistrust(state->db, file); !ours) return tl::unexpected(ours.error());
        state->db.exec("PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;");
        return std::unique_ptr<Logbook>(new Logbook(std::move(state)));
    } catch (const SQLite::Exception& e) {
        return tl::unexpected(errorOf(e, file));
    }
}

Result<std::unique_ptr<Logbook>> Logbook::openToRead(const std::filesystem::path& file) {
    const auto version = examine(file, currentVersion);
    if (!version) return tl::unexpected(version.error());
    if (*version < currentVersion)
        return fail(ErrorCode::LogbookBusy, "an older version", {file.string(), {}, {}, {}}, Kept::AllAsBefore);
    try {
        auto state =
            std::make_unique<State>(State{file, nullptr, SQLite::Database(file.string(), SQLite::OPEN_READONLY)});
        if (const auto ours = mistrust(state->db, file); !ours) return tl::unexpected(ours.error());
        return std::unique_ptr<Logbook>(new Logbook(std::move(state)));
    } catch (const SQLite::Exception& e) {
        return tl::unexpected(errorOf(e, file));
    }
}

bool Logbook::readingOnly() const {
    return m_state->lock == nullptr;
}

Result<std::vector<SessionHead>> Logbook::sessions() {
    try {
        SQLite::Statement s(
            m_state->db,
            "SELECT id, name, revision, changed_s, about, deleted FROM session ORDER BY changed_s DESC, rowid DESC");
        std::vector<SessionHead> out;
        while (s.executeStep())
            out.push_back({{idFrom(s.getColumn(0))},
                           s.getColumn(1).getString(),
                           static_cast<std::uint64_t>(s.getColumn(2).getInt64()),
                           s.getColumn(3).getInt64(),
                           aboutFromJson(s.getColumn(4).getString()),
                           s.getColumn(5).getInt() != 0});
        return out;
    } catch (const SQLite::Exception& e) {
        return tl::unexpected(errorOf(e, m_state->file));
    }
}

Result<Stored> Logbook::load(const SessionId& id) {
    try {
        auto stored = readSession(m_state->db, id);
        if (stored) {
            for (auto& damage : stored->damage) damage.where.file = m_state->file.string();
            return stored;
        }
        Error error = stored.error();
        error.where.file = m_state->file.string();
        return tl::unexpected(error);
    } catch (const SQLite::Exception& e) {
        return tl::unexpected(errorOf(e, m_state->file));
    }
}

Logbook::Words Logbook::wordsOf(const Change& change, const document::SessionStore& store,
                                const description::Originals& originals) {
    Words words{store.first(), store.steps(), {}, {}};
    const auto& facts = *change.session.facts;
    const auto textOf = [&originals](const auto& thing) {
        const auto* text = originals.find(thing.mark);
        return text == nullptr ? toToml(thing) : *text; // described in the program
    };
    for (std::size_t i = facts.machines.size() - change.machines; i < facts.machines.size(); ++i)
        words.machines.push_back(textOf(*facts.machines[i]));
    for (std::size_t i = facts.games.size() - change.games; i < facts.games.size(); ++i)
        words.games.push_back(textOf(*facts.games[i]));
    return words;
}

Result<void> Logbook::store(const Change& change, const Words& words, std::int64_t atSeconds) {
    if (const auto there = stillThere(m_state->db, m_state->file); !there) return there;
    try {
        SQLite::Transaction transaction(m_state->db);
        putSession(m_state->db, change, words.first, atSeconds);
        putSteps(m_state->db, change, words.steps);
        putFacts(m_state->db, change, words);
        transaction.commit();
        return {};
    } catch (const SQLite::Exception& e) {
        return tl::unexpected(errorOf(e, m_state->file));
    }
}

namespace {

/// One text or number of a session's row.
template <class Value>
Result<void> storeColumn(SQLite::Database& db, const std::filesystem::path& file, const char* sql, const SessionId& id,
                         const Value& value) {
    try {
        SQLite::Statement s(db, sql);
        s.bind(1, value);
        bindId(s, 2, id.bytes);
        s.exec();
        return {};
    } catch (const SQLite::Exception& e) {
        return tl::unexpected(errorOf(e, file));
    }
}

} // namespace

Result<void> Logbook::storeAbout(const SessionId& id, const About& about) {
    return storeColumn(m_state->db, m_state->file, "UPDATE session SET about = ? WHERE id = ?", id, toJson(about));
}

Result<void> Logbook::storeDeleted(const SessionId& id, bool deleted) {
    return storeColumn(m_state->db, m_state->file, "UPDATE session SET deleted = ? WHERE id = ?", id, deleted ? 1 : 0);
}

void Logbook::settle() {
    m_state->db.tryExec("PRAGMA wal_checkpoint(TRUNCATE)"); // while another process reads, later
}

Result<void> Logbook::storeRecording(const Session& session, const run::Run& soFar) {
    if (const auto there = stillThere(m_state->db, m_state->file); !there) return there;
    try {
        SQLite::Transaction transaction(m_state->db);
        putRun(m_state->db, session.id, std::nullopt, soFar, "recording");
        transaction.commit();
        return {};
    } catch (const SQLite::Exception& e) {
        return tl::unexpected(errorOf(e, m_state->file));
    }
}

} // namespace impasto::logbook
