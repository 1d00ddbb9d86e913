// SPDX-License-Identifier: GPL-3.0-or-later
// Which runs count, and what of them.
#pragma once

#include <impasto/base/id.h>
#include <impasto/capture/trim.h>
#include <impasto/frames/summary.h>
#include <map>
#include <set>

namespace impasto::document {

struct Edit;

enum class LeftOut { WarmUp, Interrupted, Damaged, Crashed, Mismatch, Beside, Odd, ByHand };
std::string_view keyOf(LeftOut reason);
std::optional<LeftOut> leftOutOf(std::string_view key);

struct RunMarks {
    std::map<RunId, LeftOut> leftOut;
    std::set<RunId> counted;                           // by hand, though the recording itself says otherwise
    std::map<RunId, std::vector<capture::Span>> trims; // joined; never an empty list
    std::set<RunId> arrived;                           // logs that were read: a step of undo, unlike what a rig records
    std::set<RunId> hidden;                            // deleted by hand: not shown, still a fact
    std::map<RunId, RunId> readings;                   // of a log that was read several ways: the one in use
    std::map<RunId, OrderId> answers;                  // by hand: the order a run answers, in place of its own
    std::map<RunId, std::string> variants;             // of logs: the named variant they are of; none: the baseline's
    frames::HitchRule hitchRule;
    std::string partColumn;      // of logs, whose words name the parts; empty: none
    std::set<OrderId> withdrawn; // orders that were skipped: never wanted again
    double followRestS = 15;     // a log that did not grow for so long is finished, though it may still be open
    bool followSensors = true;   // this machine's sensors are read while a log is followed
    friend bool operator==(const RunMarks&, const RunMarks&) = default;
};

Edit leaveOut(RunId run, LeftOut reason);
Edit countRun(RunId run);
/// The stretches of the run that do not count, in place of those before; none: all of it counts.
Edit trimRun(RunId run, std::vector<capture::Span> spans);
/// Each in place of what is trimmed of it now.
Edit trimRuns(std::map<RunId, std::vector<capture::Span>> runs);
Edit hideRun(RunId run);
/// A log was read; before this step, or when it is undone, its run is not shown.
Edit arrive(RunId run);
/// Of the readings of one log, this one; `first` is the run that the log first became.
Edit useReading(RunId first, RunId reading);
/// Errors: OutOfRange, BadValue; see frames::HitchRule.
Edit setHitchRule(frames::HitchRule rule);
/// Errors: OutOfRange outside 0.2 to 3600 s.
Edit setFollowRest(double seconds);
/// Whether this machine's sensors are read while a log is followed: not where another machine writes it.
Edit setFollowSensors(bool read);
/// The run answers this order, and counts for it.
Edit answerOrder(RunId run, OrderId order);
/// The log is a run of a variant that is known by its name alone ("copy route off"); empty: of the baseline's. Where it
/// lay beside the others it counts from now on. Errors: OutOfRange over 60 characters.
Edit nameVariant(RunId run, std::string name);
/// Of the logs' other columns, the one that names the parts; empty: the route's seconds do.
Edit setPartColumn(std::string column);
/// An order that cannot, or shall not, be played.
Edit withdrawOrder(OrderId order);

} // namespace impasto::document
