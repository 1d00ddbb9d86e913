// SPDX-License-Identifier: GPL-3.0-or-later
// A session as rows: written change by change, read whole. They throw what SQLite throws.
#pragma once

#include <SQLiteCpp/SQLiteCpp.h>
#include <impasto/logbook/logbook.h>

namespace impasto::logbook {

void bindId(SQLite::Statement& s, int index, const IdBytes& id);
IdBytes idFrom(const SQLite::Column& column);

/// What a change adds and makes different; everything of its session anew, where its words are whole.
void putChange(SQLite::Database& db, const document::Change& change, const Logbook::Words& words,
               std::int64_t atSeconds);
/// A run with its frames; no position while it is being recorded.
void putRun(SQLite::Database& db, const SessionId& session, std::optional<std::size_t> position, const run::Run& run,
            const char* state);

/// Errors: UnknownName, DamagedLogbook.
Result<Stored> readSession(SQLite::Database& db, const SessionId& id);
/// A run that a killed program left half recorded takes its place behind the others.
void closeRecordings(SQLite::Database& db, const Stored& stored);

} // namespace impasto::logbook
