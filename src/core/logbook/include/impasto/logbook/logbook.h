// SPDX-License-Identifier: GPL-3.0-or-later
// The file that holds sessions: one SQLite database (docs/formats.md, Logbook). A file that is newer, foreign, empty or
// damaged is refused before SQLite may write to it. One process holds a logbook at a time (flock on FILE.lock).
// Not thread-safe: the writer's thread owns it after start.
#pragma once

#include <filesystem>
#include <impasto/session/store.h>

namespace impasto::logbook {

inline constexpr int currentVersion = 1;

struct SessionHead {
    SessionId id;
    std::string name;
    std::uint64_t revision = 0;
    std::int64_t changedSeconds = 0;
};

/// A session as stored, with what its undo needs.
struct Stored {
    session::Session session;
    std::shared_ptr<const session::Edits> first;
    std::vector<session::Step> steps;
    std::size_t depth = 0;
    std::vector<Error> damage;         // DamagedCapture, one a run; the rest is whole
    std::vector<RunId> foundRecording; // runs that a killed program left half recorded
};

class Logbook {
  public:
    /// Opens or makes the file and its folder. Errors: EmptyFile, ForeignLogbook, NewerLogbook, DamagedLogbook,
    /// LogbookBusy, CannotWrite.
    static Result<std::unique_ptr<Logbook>> open(const std::filesystem::path& file);
    ~Logbook();
    Logbook(const Logbook&) = delete;
    Logbook& operator=(const Logbook&) = delete;

    Result<std::vector<SessionHead>> sessions(); // the newest change first
    /// Errors: UnknownName; DamagedLogbook where a row no longer parses. Never damage of one run (Stored::damage).
    Result<Stored> load(const SessionId& id);
    /// Stores a change in one transaction; returns after COMMIT. Errors: DiskFull, CannotWrite, DamagedLogbook; nothing
    /// of the change is stored then.
    Result<void> store(const session::Change& change, const session::SessionStore& store, std::int64_t atSeconds);
    Result<void> store(const session::Change& change, const std::shared_ptr<const session::Edits>& first,
                       std::span<const session::Step> steps, std::int64_t atSeconds);
    /// The frames so far of a run that is being recorded.
    Result<void> storeRecording(const session::Session& session, const run::Run& soFar);

    struct State;

  private:
    explicit Logbook(std::unique_ptr<State> state);
    std::unique_ptr<State> m_state;
};

} // namespace impasto::logbook
