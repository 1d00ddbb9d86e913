// SPDX-License-Identifier: GPL-3.0-or-later
#include "open.h"

#include "wal.h"

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <impasto/base/file.h>
#include <impasto/logbook/logbook.h>
#include <sqlite3.h>
#include <sys/file.h>
#include <unistd.h>

namespace impasto::logbook {
namespace {

namespace fs = std::filesystem;

Where at(const fs::path& file) {
    return {file.string(), {}, {}, {}};
}

constexpr const char* schema = R"(
CREATE TABLE session(id BLOB PRIMARY KEY, seed INTEGER NOT NULL, revision INTEGER NOT NULL, changed_s INTEGER NOT NULL,
                     name TEXT NOT NULL, first_edits TEXT NOT NULL, depth INTEGER NOT NULL, about TEXT NOT NULL DEFAULT '{}',
                     deleted INTEGER NOT NULL DEFAULT 0) STRICT;
CREATE TABLE machine(session BLOB NOT NULL, position INTEGER NOT NULL, text TEXT NOT NULL, PRIMARY KEY(session, position)) STRICT;
CREATE TABLE game(session BLOB NOT NULL, position INTEGER NOT NULL, text TEXT NOT NULL, PRIMARY KEY(session, position)) STRICT;
CREATE TABLE run_order(session BLOB NOT NULL, position INTEGER NOT NULL, json TEXT NOT NULL, PRIMARY KEY(session, position)) STRICT;
CREATE TABLE run(id BLOB PRIMARY KEY, session BLOB NOT NULL, position INTEGER, order_id BLOB, maker TEXT NOT NULL, state TEXT NOT NULL,
                 name TEXT NOT NULL, rig_state TEXT NOT NULL, made_s INTEGER NOT NULL, head TEXT NOT NULL) STRICT;
CREATE TABLE edits(session BLOB NOT NULL, step INTEGER NOT NULL, name TEXT NOT NULL, json TEXT NOT NULL, PRIMARY KEY(session, step)) STRICT;
CREATE TABLE capture_chunk(run BLOB NOT NULL, column_name TEXT NOT NULL, chunk INTEGER NOT NULL, rows INTEGER NOT NULL, type TEXT NOT NULL,
                           data BLOB NOT NULL, PRIMARY KEY(run, column_name, chunk)) STRICT;
)";

std::int32_t bigEndian(const unsigned char* p) {
    return static_cast<std::int32_t>((std::uint32_t{p[0]} << 24U) | (std::uint32_t{p[1]} << 16U) |
                                     (std::uint32_t{p[2]} << 8U) | p[3]);
}

/// Nothing but our own tables and their indices.
Result<void> schemaCheck(SQLite::Database& db, const fs::path& file) {
    constexpr std::array<std::string_view, 7> tables{"session", "machine", "game",         "run_order",
                                                     "run",     "edits",   "capture_chunk"};
    SQLite::Statement s(db, "SELECT type, name, coalesce(sql, '') FROM sqlite_schema");
    while (s.executeStep()) {
        const std::string type = s.getColumn(0).getString(), name = s.getColumn(1).getString();
        const bool isVirtual = s.getColumn(2).getString().find("VIRTUAL") != std::string::npos;
        const bool ours =
            type == "table" && !isVirtual && std::find(tables.begin(), tables.end(), name) != tables.end();
        if (ours || (type == "index" && name.rfind("sqlite_autoindex_", 0) == 0)) continue;
        return fail(ErrorCode::DamagedLogbook, fmt::format("it holds a {} \u201c{}\u201d that is not ours", type, name),
                    at(file), Kept::AllAsBefore);
    }
    return {};
}

/// As it stands: no log beside it is read or made, nothing is locked.
SQLite::Database openImmutable(const fs::path& file) {
    std::string escaped;
    for (const char c : fs::absolute(file).string())
        escaped += c == '%' ? "%25" : c == '?' ? "%3f" : c == '#' ? "%23" : std::string(1, c);
    return {"file:" + escaped + "?immutable=1", SQLite::OPEN_READONLY | SQLite::OPEN_URI};
}

Result<void> quickCheck(const fs::path& file) {
    try {
        auto db = openImmutable(file);
        if (const auto ours = mistrust(db, file); !ours) return ours;
        return checkPages(db, file);
    } catch (const SQLite::Exception& e) {
        return fail(ErrorCode::DamagedLogbook, e.what(), at(file), Kept::AllAsBefore);
    }
}

} // namespace

bool hasLog(const fs::path& file) {
    std::error_code none;
    return fs::file_size(file.string() + "-wal", none) > 0 && !none;
}

Result<void> mistrust(SQLite::Database& db, const fs::path& file) {
    for (const auto& [option, value] : {std::pair(SQLITE_DBCONFIG_DEFENSIVE, 1),
                                        {SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0},
                                        {SQLITE_DBCONFIG_ENABLE_TRIGGER, 0},
                                        {SQLITE_DBCONFIG_ENABLE_VIEW, 0},
                                        {SQLITE_DBCONFIG_ENABLE_LOAD_EXTENSION, 0}})
        sqlite3_db_config(db.getHandle(), option, value, nullptr);
    return schemaCheck(db, file);
}

Result<void> checkPages(SQLite::Database& db, const fs::path& file) {
    SQLite::Statement check(db, "PRAGMA quick_check(1)");
    if (!check.executeStep() || check.getColumn(0).getString() != "ok")
        return fail(ErrorCode::DamagedLogbook, check.getColumn(0).getString(), at(file), Kept::AllAsBefore);
    return {};
}

std::optional<Error> lostInLog(const fs::path& file) {
    const auto lost = lostTransactions(file);
    if (lost == 0) return std::nullopt;
    std::error_code ignored;
    fs::copy_file(file.string() + "-wal", file.string() + "-wal.damaged", fs::copy_options::overwrite_existing,
                  ignored);
    return Error{ErrorCode::DamagedLogbookLog, std::to_string(lost), at(file), Kept::RestOfLogbook};
}

SQLite::Database openReadOnly(const fs::path& file) {
    const fs::path folder = file.has_parent_path() ? file.parent_path() : fs::path(".");
    if (::faccessat(AT_FDCWD, folder.c_str(), W_OK, AT_EACCESS) != 0 && !hasLog(file)) return openImmutable(file);
    return {file.string(), SQLite::OPEN_READONLY};
}

Result<void> stillThere(SQLite::Database& db, const fs::path& file) {
    int moved = 0;
    sqlite3_file_control(db.getHandle(), "main", SQLITE_FCNTL_HAS_MOVED, &moved);
    if (moved == 0) return {};
    return fail(ErrorCode::CannotWrite, "it was moved, deleted or replaced", at(file), Kept::SavedRevisions);
}

Error errorOf(const SQLite::Exception& e, const fs::path& file) {
    const int code = e.getErrorCode() & 0xff;
    ErrorCode ours = ErrorCode::CannotWrite;
    if (code == SQLITE_FULL || code == SQLITE_IOERR) ours = ErrorCode::DiskFull;
    if (code == SQLITE_BUSY || code == SQLITE_LOCKED) ours = ErrorCode::LogbookBusy;
    if (code == SQLITE_CORRUPT || code == SQLITE_NOTADB) ours = ErrorCode::DamagedLogbook;
    return {ours, e.what(), at(file), Kept::SavedRevisions};
}

Result<std::unique_ptr<Lock>> Lock::take(const fs::path& file) {
    const std::string path = file.string() + ".lock";
    const int fd = ::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0600);
    if (fd < 0) return fail(ErrorCode::CannotWrite, std::strerror(errno), at(path));
    auto lock = std::make_unique<Lock>(fd);
    if (::flock(fd, LOCK_EX | LOCK_NB) != 0) {
        std::array<char, 64> holder{};
        const ssize_t n = ::pread(fd, holder.data(), holder.size() - 1, 0);
        return fail(ErrorCode::LogbookBusy,
                    "process " + std::string(holder.data(), n > 0 ? static_cast<std::size_t>(n) : 0), at(file));
    }
    const std::string pid = std::to_string(::getpid());
    if (::ftruncate(fd, 0) != 0 || ::pwrite(fd, pid.data(), pid.size(), 0) < 0)
        return fail(ErrorCode::CannotWrite, std::strerror(errno), at(path));
    return lock;
}

Lock::~Lock() {
    ::close(m_fd);
}

Result<int> examine(const fs::path& file, int newest) {
    std::ifstream in(file, std::ios::binary);
    std::array<char, 100> head{};
    if (!in) return fail(ErrorCode::CannotRead, std::strerror(errno), at(file));
    if (fs::is_directory(file)) return fail(ErrorCode::CannotRead, std::strerror(EISDIR), at(file));
    in.read(head.data(), head.size());
    if (in.gcount() == 0) return fail(ErrorCode::EmptyFile, {}, at(file));
    const auto* bytes = reinterpret_cast<const unsigned char*>(head.data());
    const bool sqlite = in.gcount() == 100 && std::memcmp(head.data(), "SQLite format 3", 16) == 0;
    if (!sqlite || bigEndian(bytes + 68) != applicationId) return fail(ErrorCode::ForeignLogbook, {}, at(file));
    const int version = bigEndian(bytes + 60);
    if (version > newest) return fail(ErrorCode::NewerLogbook, std::to_string(version), at(file));
    if (version < 1) return fail(ErrorCode::ForeignLogbook, {}, at(file));
    if (!hasLog(file))
        if (const auto sound = quickCheck(file); !sound) return tl::unexpected(sound.error());
    return version;
}

Result<void> create(const fs::path& file) {
    const fs::path fresh = file.string() + ".new";
    std::error_code ignored;
    fs::remove(fresh, ignored);
    try {
        SQLite::Database db(fresh.string(), SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE);
        SQLite::Transaction transaction(db);
        db.exec(schema);
        db.exec(fmt::format("PRAGMA application_id = {}; PRAGMA user_version = {};", applicationId, currentVersion));
        transaction.commit();
        fs::permissions(fresh, fs::perms::owner_read | fs::perms::owner_write, ignored); // the log beside it follows
    } catch (const SQLite::Exception& e) {
        fs::remove(fresh, ignored);
        return tl::unexpected(errorOf(e, file));
    }
    if (std::rename(fresh.c_str(), file.c_str()) != 0)
        return fail(ErrorCode::CannotWrite, std::strerror(errno), at(file));
    syncFolderOf(file);
    return {};
}

Result<void> makeFolder(const fs::path& file) {
    if (!file.has_parent_path() || fs::exists(file.parent_path())) return {};
    std::error_code failed;
    fs::create_directories(file.parent_path(), failed);
    if (failed) return fail(ErrorCode::CannotWrite, failed.message(), at(file));
    fs::permissions(file.parent_path(), fs::perms::owner_all, failed);
    return {};
}

Result<void> migrate(const fs::path& file, int from, std::span<const Migration> steps) {
    std::error_code failed;
    fs::copy_file(file, file.string() + ".v" + std::to_string(from), fs::copy_options::overwrite_existing, failed);
    if (failed) return fail(ErrorCode::CannotWrite, failed.message(), at(file));
    try {
        SQLite::Database db(file.string(), SQLite::OPEN_READWRITE);
        if (const auto ours = mistrust(db, file); !ours) return ours;
        SQLite::Transaction transaction(db);
        int version = from;
        for (const auto& step : steps)
            if (step.from == version) {
                db.exec(step.sql);
                ++version;
            }
        db.exec(fmt::format("PRAGMA user_version = {}", version));
        transaction.commit();
    } catch (const SQLite::Exception& e) {
        return tl::unexpected(errorOf(e, file));
    }
    return {};
}

} // namespace impasto::logbook
