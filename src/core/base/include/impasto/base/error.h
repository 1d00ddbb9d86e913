// SPDX-License-Identifier: GPL-3.0-or-later
// Expected failures as data: what went wrong, where, what was kept. The advice follows from the code. wording/ makes
// the sentences; nothing else in core holds prose.
#pragma once

#include <optional>
#include <string>
#include <tl/expected.hpp>

namespace impasto {

enum class ErrorCode {
    Cancelled,
    CannotRead,        // what: the system's reason
    CannotWrite,       // what: the system's reason
    AlreadyThere,      // a file that is not to be replaced
    FileTooLarge,      // what: the limit
    EmptyFile,         //
    NotText,           // what: the encoding or "binary"
    DamagedPacking,    // what: how it is packed; nothing of it can be unpacked
    NoTable,           // a JSON document without a table of frames
    LineTooLong,       // what: the limit
    NoFrames,          // a log without one usable row
    NoTimeColumn,      // no column looks like a time
    AmbiguousColumns,  // what: the columns that look alike
    BadNumber,         // what: the cell as written
    NegativeTime,      // what: the cell as written
    TimeRunsBackwards, // what: the cell as written
    UnevenRow,         // what: cells found and wanted, as 2/3
    NotFrames,         // what: of what the table is
    UnclearUnit,       // what: the two that times could be in, as ms/us
    BadSyntax,         // what: the parser's words (TOML, JSON)
    MissingKey,        // what: the key
    BadValue,          // what: what was wanted there
    UnknownName,       // what: the name that nothing is called
    DuplicateName,     // what: the name
    NewerLogbook,      // what: its version
    ForeignLogbook,    // another program's file
    DamagedLogbook,    // what: the check's words
    DamagedLogbookLog, // the write-ahead log beside it; what: how many changes it takes back, at least
    CrashedOnRun,      // what: the run that was computed when the program ended
    NewerSession,      // the file holds a later state of the session
    DamagedCapture,    // what: the run whose chunk fails its checksum
    LogbookBusy,       // what: who holds it
    DiskFull,          // what: the system's words
    LacksMachine,      //
    LacksGame,         //
    LacksBrief,        //
    LacksRuns,         // what: how many more
    OrderMismatch,     // what: seconds of the log and of the order, as 10/60
    NothingFits,       // no variant fits the budget
    OutOfRange,        // what: the range
    GameCrashed,       // the game ended while it was recorded
    NotInFile,         // what: the key that a config does not hold
    ChangedMeanwhile,  // a file that is not any more what was looked at
    LinkedElsewhere,   // what: the file outside of its folder that a link stands for
    UnlikeKinds,       // logs of displayed frames and of started ones are held against each other
    OutOfMemory,       //
    Internal           // what: the words of the exception that a job threw; stays the last
};
inline constexpr std::size_t errorCodeCount = static_cast<std::size_t>(ErrorCode::Internal) + 1;

/// What the failed action left behind.
enum class Kept { Nothing, AllAsBefore, SavedRevisions, FramesUntilHere, RestOfLogbook };

struct Where {
    std::string file;
    std::optional<std::size_t> line;   // from 1
    std::optional<std::size_t> column; // from 1, in characters or cells as the format counts
    std::string key;                   // dotted path in TOML or JSON, or a setting's name
    friend bool operator==(const Where&, const Where&) = default;
};

struct Error {
    ErrorCode code;
    std::string what; // the name, value or system text the code speaks of
    Where where;
    Kept kept = Kept::AllAsBefore;
};

/// A value or an Error; must be looked at.
template <class T>
class [[nodiscard]] Result : public tl::expected<T, Error> {
  public:
    using tl::expected<T, Error>::expected;
    Result(tl::expected<T, Error> other) : tl::expected<T, Error>(std::move(other)) {}
};

inline tl::unexpected<Error> fail(ErrorCode code, std::string what = {}, Where where = {},
                                  Kept kept = Kept::AllAsBefore) {
    return tl::unexpected<Error>(Error{code, std::move(what), std::move(where), kept});
}

} // namespace impasto
