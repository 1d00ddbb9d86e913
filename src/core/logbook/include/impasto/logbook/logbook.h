// SPDX-License-Identifier: GPL-3.0-or-later
// The file that holds sessions: one SQLite database (docs/formats.md, Logbook). A file that is newer, foreign, empty or
// damaged is refused before SQLite may write to it. One process holds a logbook at a time (flock on FILE.lock).
// Not thread-safe: the writer's thread owns it after start.
#pragma once

#include <filesystem>
#include <impasto/description/originals.h>
#include <impasto/document/store.h>

namespace impasto::logbook {

inline constexpr int currentVersion = 2;

/// What a row says of a session that is not open.
struct About {
    std::string machine; // its name
    std::optional<double> targetFps;
    std::string verdict; // "met", "not-met", "open"; empty: nothing was proven
    friend bool operator==(const About&, const About&) = default;
};
struct SessionHead {
    SessionId id;
    std::string name;
    std::uint64_t revision = 0;
    std::int64_t changedSeconds = 0;
    About about;
    bool deleted = false; // by hand; it stays in the file and can be brought back
    friend bool operator==(const SessionHead&, const SessionHead&) = default;
};

/// A session as stored, with what its undo needs.
struct Stored {
    document::Session session;
    std::shared_ptr<const document::Edits> first;
    std::vector<document::Step> steps;
    std::size_t depth = 0;
    description::Originals originals; // of its machines and games
    // DamagedCapture or CrashedOnRun, one a run; DamagedLogbook of a step, where those before are open
    std::vector<Error> damage;
    std::vector<RunId> foundRecording; // runs that a killed program left half recorded
};

class Logbook {
  public:
    /// Opens or makes the file and its folder. Runs that were being computed when the program ended are marked: they
    /// load without their frames (CrashedOnRun). Errors: EmptyFile, ForeignLogbook, NewerLogbook, DamagedLogbook,
    /// LogbookBusy, CannotWrite.
    static Result<std::unique_ptr<Logbook>> open(const std::filesystem::path& file);
    /// Beside a process that writes it, or where nothing may be written: nothing can be stored. Errors: EmptyFile,
    /// ForeignLogbook, NewerLogbook, DamagedLogbook, CannotRead; LogbookBusy of an older version, which its writer has
    /// yet to bring up.
    static Result<std::unique_ptr<Logbook>> openToRead(const std::filesystem::path& file);
    [[nodiscard]] bool readingOnly() const;
    [[nodiscard]] const std::filesystem::path& file() const;
    /// What was lost of the file as it was found, to be told: DamagedLogbookLog.
    [[nodiscard]] const std::optional<Error>& lost() const;
    ~Logbook();
    Logbook(const Logbook&) = delete;
    Logbook& operator=(const Logbook&) = delete;

    Result<std::vector<SessionHead>> sessions(); // the newest change first
    /// Errors: UnknownName; DamagedLogbook where a row no longer parses. Never damage of one run, or of a step of undo:
    /// the last good one is opened (Stored::damage).
    Result<Stored> load(const SessionId& id);
    /// What a change stores besides the session itself.
    struct Words {
        std::shared_ptr<const document::Edits> first;
        std::vector<document::Step> steps;
        std::size_t stepsFrom = 0;                // those before are stored already
        std::vector<std::string> machines, games; // whole descriptions of the facts that the change added
        bool whole = false;                       // all of the session; what the file holds of it is replaced
    };
    static Words wordsOf(const document::Change& change, const document::SessionStore& store,
                         const description::Originals& originals);
    /// All of a session as one change, for a file that does not know it.
    static document::Change wholeOf(const document::SessionStore& store);
    /// Stores a change in one transaction; returns after COMMIT. Errors: DiskFull, CannotWrite, DamagedLogbook; of a
    /// whole session NewerSession. Nothing of the change is stored then.
    Result<void> store(const document::Change& change, const Words& words, std::int64_t atSeconds);
    /// Errors as for store.
    Result<void> storeAbout(const SessionId& id, const About& about);
    Result<void> storeDeleted(const SessionId& id, bool deleted);
    /// A run that was marked after a crash is loaded with its frames again.
    Result<void> storeTried(const RunId& run);
    /// Brings all that is stored into the one file, so that a copy of it is whole; where another process reads, later.
    void settle();
    /// The frames so far of a run that is being recorded.
    Result<void> storeRecording(const document::Session& session, const run::Run& soFar);

    struct State;

  private:
    explicit Logbook(std::unique_ptr<State> state);
    std::unique_ptr<State> m_state;
};

} // namespace impasto::logbook
