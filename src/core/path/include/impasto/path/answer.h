// SPDX-License-Identifier: GPL-3.0-or-later
// Which order a log answers, and what becomes of logs that were read: the same for the window and the command line.
#pragma once

#include <impasto/base/context.h>
#include <impasto/document/store.h>

namespace impasto::path {

/// Nothing when the log fits the order, else OrderMismatch with how it differs: its length under 60% or over 160% of
/// the order's; of another program than the runs that count; a rate 30% off those of the same values; capped or synced
/// where the order says neither.
std::optional<Error> mismatch(const document::Session& session, const run::Order& order,
                              const capture::Capture& capture);

/// A log that was read.
struct ReadLog {
    run::Run run;                             // with its frames; its order is not known yet
    std::optional<capture::Span> counts = {}; // what lies outside is trimmed
    std::optional<OrderId> wants = {};        // the order it is meant for; none: found by its name, else the oldest
    std::optional<RunId> instead = {}; // the run whose log was read another way; the capture's note says its first
};
struct Answered {
    std::vector<RunId> runs;          // of all logs, in their order; of one that was here already, that run
    std::size_t beside = 0;           // logs that answer no order where runs are ordered: shown, not counted
    std::vector<RunId> known;         // runs that a log is word for word: it was not added again
    std::optional<Error> mismatch;    // the first log that does not fit the order it should answer
    std::size_t variants = 1;         // that logs given together fall in: those beside the first are named so
    std::optional<run::Purpose> last; // the purpose of the last order, where none is open any more
};
/// Adds the runs as one revision and all that is said of them as one step of undo. By hand, each log takes the order it
/// is meant for; one that does not fit it is left out and leaves it open, and answers it once it is counted; a log that
/// was read another way answers the order that its first reading answered. Where runs were ordered, a log that answers
/// none never counts unasked. Errors: the edits'.
/// Logs that are given together and answer none are never pooled where their averages fall in groups.
Result<Answered> answer(document::SessionStore& store, std::vector<ReadLog> logs);

/// Figures that were read off a counter, as the answer of an open order: one step of undo. Where they lie 30% off other
/// runs of the same values they are added, left out, and the order stays open; `mismatch` says so then. Errors:
/// OutOfRange (with the figure as key), UnknownName (no such order waits), the edits'.
/// Without an order they stand like a log that answers none: beside the others where runs were ordered, else they
/// count. `name`: of the file that they came from, where they did.
Result<Answered> answer(document::SessionStore& store, std::optional<OrderId> order, const run::ReadOff& figures,
                        const IdSource& ids, const Clock& clock, const std::string& name = {});

/// What a log is of, in the user's words: an open order by its level ("shadows low"), or a variant by its name; empty:
/// the baseline's. Errors: the edits'.
Result<void> sayVariant(document::SessionStore& store, const RunId& run, const std::string& words);

} // namespace impasto::path
