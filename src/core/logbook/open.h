// SPDX-License-Identifier: GPL-3.0-or-later
// What is looked at before SQLite may write to a file, and the way from an older version to the present one.
#pragma once

#include <SQLiteCpp/SQLiteCpp.h>
#include <filesystem>
#include <impasto/base/error.h>

namespace impasto::logbook {

inline constexpr std::int32_t applicationId = 0x496d7073; // "Imps"

/// The exclusive hold on FILE.lock; released when destroyed.
class Lock {
  public:
    static Result<std::unique_ptr<Lock>> take(const std::filesystem::path& file);
    explicit Lock(int fd) : m_fd(fd) {}
    Lock(const Lock&) = delete;
    Lock& operator=(const Lock&) = delete;
    ~Lock();

  private:
    int m_fd;
};

/// One step from version `from` to `from + 1`.
struct Migration {
    int from;
    const char* sql;
};

/// Reads the first 100 bytes, and checks the pages where no write-ahead log stands beside (checkPages sees them through
/// it). The version. Errors:
/// EmptyFile, ForeignLogbook, NewerLogbook, DamagedLogbook, CannotRead. Writes nothing.
Result<int> examine(const std::filesystem::path& file, int newest);
/// The folder for a logbook, for its owner alone where it has to be made. Errors: CannotWrite.
Result<void> makeFolder(const std::filesystem::path& file);
/// Makes FILE.new with the schema and renames it to FILE.
Result<void> create(const std::filesystem::path& file);
/// Whether a write-ahead log with something in it stands beside.
bool hasLog(const std::filesystem::path& file);
/// What the log beside the file takes back of what was saved, to be told; the log is copied to FILE-wal.damaged first.
std::optional<Error> lostInLog(const std::filesystem::path& file);
/// How a file is opened that is not to be written: as it stands, where its folder allows no log beside it.
SQLite::Database openReadOnly(const std::filesystem::path& file);
/// Every page of an open database. Errors: DamagedLogbook.
Result<void> checkPages(SQLite::Database& db, const std::filesystem::path& file);
/// Copies the file to FILE.v<from> beside it, then migrates in one transaction. Errors: CannotWrite, DamagedLogbook.
Result<void> migrate(const std::filesystem::path& file, int from, std::span<const Migration> steps);

/// What a logbook from elsewhere may carry is not obeyed: no trigger or view runs, no extension is loaded, and the
/// schema cannot be written. For every connection, before its first statement. Errors: DamagedLogbook where it holds
/// anything but our own tables and their indices, also in the log beside the file.
Result<void> mistrust(SQLite::Database& db, const std::filesystem::path& file);
/// An error where the file was moved, deleted or replaced since it was opened: what is written then is lost.
Result<void> stillThere(SQLite::Database& db, const std::filesystem::path& file);

Error errorOf(const SQLite::Exception& exception, const std::filesystem::path& file);

} // namespace impasto::logbook
