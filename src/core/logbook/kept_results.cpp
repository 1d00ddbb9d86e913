// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/logbook/kept_results.h>

#include <SQLiteCpp/SQLiteCpp.h>
#include <fcntl.h>
#include <impasto/base/fingerprint.h>
#include <mutex>
#include <sqlite3.h>
#include <unistd.h>
#include <utility>

#include "rows.h"

namespace impasto::logbook {
namespace {

namespace fs = std::filesystem;

/// Of a row as a whole: a disk that gave other bytes is noticed.
std::int64_t checkOf(std::string_view stage, const RunId& run, std::uint64_t mark, std::string_view bytes) {
    return static_cast<std::int64_t>(Fingerprint().add(stage).add(run.hex()).add(mark).add(bytes).value());
}

bool isBroken(const SQLite::Exception& e) {
    const int code = e.getErrorCode() & 0xff;
    return code == SQLITE_CORRUPT || code == SQLITE_NOTADB ||
           code == SQLITE_ERROR; // the last: another table stands there
}

/// Nothing where it cannot be had now; `broken`: nor ever, as it stands.
std::unique_ptr<SQLite::Database> opened(const fs::path& file, bool& broken) {
    const int made = ::open(file.c_str(), O_RDWR | O_CREAT | O_NOFOLLOW | O_CLOEXEC, 0600); // SQLite's would be for all
    if (made < 0) return nullptr;
    ::close(made);
    try {
        auto db = std::make_unique<SQLite::Database>(file.string(), SQLite::OPEN_READWRITE, 2000);
        db->exec("PRAGMA journal_mode = WAL; PRAGMA synchronous = OFF; PRAGMA trusted_schema = OFF");
        db->exec("CREATE TABLE IF NOT EXISTS kept(run BLOB NOT NULL, stage TEXT NOT NULL, mark INTEGER NOT NULL, "
                 "checked INTEGER NOT NULL, data BLOB NOT NULL, PRIMARY KEY(run, stage)) STRICT");
        SQLite::Statement ours(*db, "SELECT run, stage, mark, checked, data FROM kept LIMIT 1");
        ours.executeStep();
        return db;
    } catch (const SQLite::Exception& e) {
        broken = isBroken(e);
        return nullptr;
    }
}

void removeAll(const fs::path& file) {
    std::error_code ignored;
    for (const char* beside : {"", "-wal", "-shm"}) fs::remove(file.string() + beside, ignored);
}

} // namespace

struct KeptResults::State {
    fs::path file;
    std::int64_t mostBytes = 0;
    std::mutex mutex;
    bool asked = false;
    std::unique_ptr<SQLite::Database> db; // none: nothing is kept

    void open() {
        if (std::exchange(asked, true)) return;
        std::error_code failed;
        if (fs::create_directories(file.parent_path(), failed))
            fs::permissions(file.parent_path(), fs::perms::owner_all, failed);
        bool broken = false;
        db = opened(file, broken);
        if (broken) beginAnew();
    }
    void beginAnew() {
        bool broken = false;
        db.reset();
        removeAll(file);
        db = opened(file, broken);
    }
    template <class Work>
    void guarded(const Work& work) {
        const std::lock_guard lock(mutex);
        open();
        if (!db) return;
        try {
            work(*db);
        } catch (const SQLite::Exception& e) {
            if (isBroken(e)) beginAnew(); // else the disk is full, or another writes
        }
    }
};

KeptResults::KeptResults(const fs::path& file, std::int64_t mostBytes) : m_state(std::make_unique<State>()) {
    m_state->file = file;
    m_state->mostBytes = mostBytes;
}

KeptResults::~KeptResults() = default;

std::optional<std::string> KeptResults::find(std::string_view stage, const RunId& run, std::uint64_t mark) const {
    std::optional<std::string> out;
    m_state->guarded([&](SQLite::Database& db) {
        SQLite::Statement s(db, "SELECT checked, data FROM kept WHERE run = ? AND stage = ? AND mark = ?");
        bindId(s, 1, run.bytes);
        s.bind(2, std::string(stage));
        s.bind(3, static_cast<std::int64_t>(mark));
        if (!s.executeStep()) return;
        std::string bytes = s.getColumn(1).getString();
        if (s.getColumn(0).getInt64() == checkOf(stage, run, mark, bytes)) out = std::move(bytes);
    });
    return out;
}

void KeptResults::keep(const std::vector<Entry>& entries) {
    m_state->guarded([&](SQLite::Database& db) {
        SQLite::Transaction transaction(db, SQLite::TransactionBehavior::IMMEDIATE);
        SQLite::Statement s(db, "INSERT OR REPLACE INTO kept(run, stage, mark, checked, data) VALUES(?, ?, ?, ?, ?)");
        for (const auto& entry : entries) {
            s.reset();
            bindId(s, 1, entry.run.bytes);
            s.bind(2, std::string(entry.stage));
            s.bind(3, static_cast<std::int64_t>(entry.mark));
            s.bind(4, checkOf(entry.stage, entry.run, entry.mark, entry.bytes));
            s.bind(5, entry.bytes.data(), static_cast<int>(entry.bytes.size()));
            s.exec();
        }
        // The oldest rows have the lowest numbers.
        SQLite::Statement bytes(db, "SELECT coalesce(sum(length(data)), 0), count(*) FROM kept");
        bytes.executeStep();
        const std::int64_t all = bytes.getColumn(0).getInt64(), rows = bytes.getColumn(1).getInt64();
        if (all > m_state->mostBytes) {
            SQLite::Statement drop(db,
                                   "DELETE FROM kept WHERE rowid IN (SELECT rowid FROM kept ORDER BY rowid LIMIT ?)");
            const double over = 1 - 0.8 * static_cast<double>(m_state->mostBytes) / static_cast<double>(all);
            drop.bind(1, static_cast<std::int64_t>(static_cast<double>(rows) * over) + 1);
            drop.exec();
        }
        transaction.commit();
    });
}

void KeptResults::forget() {
    const std::lock_guard lock(m_state->mutex);
    m_state->open();
    m_state->beginAnew();
}

} // namespace impasto::logbook
