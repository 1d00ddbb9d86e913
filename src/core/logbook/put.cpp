// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/logbook/edits_json.h>

#include "chunk.h"
#include "facts_json.h"
#include "rows.h"

namespace impasto::logbook {

using document::Change;
using document::Edits;
using document::Session;

void bindId(SQLite::Statement& s, int index, const IdBytes& id) {
    s.bind(index, id.data(), static_cast<int>(id.size()));
}

IdBytes idFrom(const SQLite::Column& column) {
    IdBytes id{};
    if (static_cast<std::size_t>(column.getBytes()) == id.size())
        std::copy_n(static_cast<const std::uint8_t*>(column.getBlob()), id.size(), id.begin());
    return id;
}

namespace {

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

/// The steps from the first that may differ from what is stored.
void putSteps(SQLite::Database& db, const SessionId& id, const Logbook::Words& words) {
    SQLite::Statement drop(db, "DELETE FROM edits WHERE session = ? AND step >= ?");
    bindId(drop, 1, id.bytes);
    drop.bind(2, static_cast<std::int64_t>(words.stepsFrom));
    drop.exec();
    SQLite::Statement s(db, "INSERT INTO edits(session, step, name, json) VALUES(?,?,?,?)");
    for (std::size_t i = words.stepsFrom; i < words.steps.size(); ++i) {
        s.reset();
        bindId(s, 1, id.bytes);
        s.bind(2, static_cast<std::int64_t>(i));
        s.bind(3, words.steps[i].name);
        s.bind(4, toJson(*words.steps[i].after));
        s.exec();
    }
}

bool isThere(SQLite::Database& db, const RunId& run) {
    SQLite::Statement s(db, "SELECT 1 FROM run WHERE id = ?");
    bindId(s, 1, run.bytes);
    return s.executeStep();
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
        if (!words.whole || !isThere(db, facts.runs[i].id))
            putRun(db, id, i, facts.runs[i], facts.runs[i].interrupted ? "interrupted" : "complete");
}

/// All rows of a session but its runs: a run never changes, and one that is damaged in memory may be whole there.
void dropAllButRuns(SQLite::Database& db, const SessionId& id) {
    for (const char* sql : {"DELETE FROM edits WHERE session = ?", "DELETE FROM run_order WHERE session = ?",
                            "DELETE FROM game WHERE session = ?", "DELETE FROM machine WHERE session = ?",
                            "DELETE FROM session WHERE id = ?"}) {
        SQLite::Statement s(db, sql);
        bindId(s, 1, id.bytes);
        s.exec();
    }
}

} // namespace

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
    s.bind(10, headJson(run));
    s.exec();
    putChunks(db, run);
}

void putChange(SQLite::Database& db, const Change& change, const Logbook::Words& words, std::int64_t atSeconds) {
    if (words.whole) dropAllButRuns(db, change.session.id);
    putSession(db, change, words.first, atSeconds);
    putSteps(db, change.session.id, words);
    putFacts(db, change, words);
}

} // namespace impasto::logbook
