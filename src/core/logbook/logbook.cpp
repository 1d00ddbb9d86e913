// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/logbook/computing.h>
#include <impasto/logbook/logbook.h>

#include "facts_json.h"
#include "open.h"
#include "rows.h"

namespace impasto::logbook {

struct Logbook::State {
    std::filesystem::path file;
    std::unique_ptr<Lock> lock;
    SQLite::Database db;
    std::optional<Error> lost = {};
};

namespace {

using document::Change;
using document::Session;

constexpr Migration migrations[]{{1, "ALTER TABLE session ADD COLUMN about TEXT NOT NULL DEFAULT '{}'; "
                                     "ALTER TABLE session ADD COLUMN deleted INTEGER NOT NULL DEFAULT 0"}};

/// Runs that a program had begun to compute when it ended.
void markCrashed(SQLite::Database& db, const std::filesystem::path& file) {
    SQLite::Statement s(db, "UPDATE run SET state = 'crashed ' || state WHERE id = ? AND state NOT LIKE 'crashed %'");
    for (const auto& run : Computing::left(file)) {
        s.reset();
        bindId(s, 1, run.bytes);
        s.exec();
    }
    std::error_code ignored;
    std::filesystem::remove(file.string() + ".computing", ignored);
}

/// A later state of the session, or one that went another way: it has runs that this one does not know.
bool holdsOther(SQLite::Database& db, const Session& session) {
    SQLite::Statement head(db, "SELECT revision FROM session WHERE id = ?");
    bindId(head, 1, session.id.bytes);
    if (head.executeStep() && static_cast<std::uint64_t>(head.getColumn(0).getInt64()) > session.revision) return true;
    SQLite::Statement runs(db, "SELECT id FROM run WHERE session = ?");
    bindId(runs, 1, session.id.bytes);
    while (runs.executeStep())
        if (session.facts->run({idFrom(runs.getColumn(0))}) == nullptr) return true;
    return false;
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
    const bool logBeside = hasLog(file);
    const auto lost = lostInLog(file);
    if (*version < currentVersion)
        if (const auto done = migrate(file, *version, migrations); !done) return tl::unexpected(done.error());
    try {
        auto state = std::make_unique<State>(
            State{file, std::move(*lock), SQLite::Database(file.string(), SQLite::OPEN_READWRITE), lost});
        if (const auto ours = mistrust(state->db, file); !ours) return tl::unexpected(ours.error());
        if (logBeside)
            if (const auto sound = checkPages(state->db, file); !sound) return tl::unexpected(sound.error());
        state->db.exec("PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL;");
        markCrashed(state->db, file);
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
        auto state = std::make_unique<State>(State{file, nullptr, openReadOnly(file)});
        if (const auto ours = mistrust(state->db, file); !ours) return tl::unexpected(ours.error());
        return std::unique_ptr<Logbook>(new Logbook(std::move(state)));
    } catch (const SQLite::Exception& e) {
        return tl::unexpected(errorOf(e, file));
    }
}

bool Logbook::readingOnly() const {
    return m_state->lock == nullptr;
}

const std::filesystem::path& Logbook::file() const {
    return m_state->file;
}

const std::optional<Error>& Logbook::lost() const {
    return m_state->lost;
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
            if (!readingOnly()) closeRecordings(m_state->db, *stored);
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
    Words words{store.first(), store.steps(), store.steps().size(), {}, {}};
    if (change.edit && !change.stackChanged) words.stepsFrom = change.undoDepth - 1;
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

Change Logbook::wholeOf(const document::SessionStore& store) {
    const auto& facts = *store.session().facts;
    Change all;
    all.session = store.session();
    all.machines = facts.machines.size();
    all.games = facts.games.size();
    all.orders = facts.orders.size();
    all.runs = facts.runs.size();
    all.undoDepth = store.depth();
    return all;
}

Result<void> Logbook::store(const Change& change, const Words& words, std::int64_t atSeconds) {
    if (const auto there = stillThere(m_state->db, m_state->file); !there) return there;
    try {
        SQLite::Transaction transaction(m_state->db);
        if (words.whole && holdsOther(m_state->db, change.session))
            return fail(ErrorCode::NewerSession, {}, {m_state->file.string(), {}, {}, {}});
        putChange(m_state->db, change, words, atSeconds);
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
    if (const auto there = stillThere(db, file); !there) return there;
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

Result<void> Logbook::storeTried(const RunId& run) {
    try {
        SQLite::Statement s(m_state->db,
                            "UPDATE run SET state = substr(state, 9) WHERE id = ? AND state LIKE 'crashed %'");
        bindId(s, 1, run.bytes);
        s.exec();
        return {};
    } catch (const SQLite::Exception& e) {
        return tl::unexpected(errorOf(e, m_state->file));
    }
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
