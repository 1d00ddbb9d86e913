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

enum class LeftOut { WarmUp, Interrupted, Damaged, Mismatch, Beside, ByHand };
std::string_view keyOf(LeftOut reason);
std::optional<LeftOut> leftOutOf(std::string_view key);

struct RunMarks {
    std::map<RunId, LeftOut> leftOut;
    std::set<RunId> counted;                           // by hand, though the recording itself says otherwise
    std::map<RunId, std::vector<capture::Span>> trims; // joined; never an empty list
    std::set<RunId> hidden;                            // deleted by hand: not shown, still a fact
    std::map<RunId, RunId> readings;                   // of a log that was read several ways: the one in use
    frames::HitchRule hitchRule;
    std::set<OrderId> withdrawn; // orders that were skipped: never wanted again
    double followRestS = 15;     // a log that did not grow for so long is finished, though it may still be open
    friend bool operator==(const RunMarks&, const RunMarks&) = default;
};

Edit leaveOut(RunId run, LeftOut reason);
Edit countRun(RunId run);
/// The stretches of the run that do not count, in place of those before; none: all of it counts.
Edit trimRun(RunId run, std::vector<capture::Span> spans);
Edit hideRun(RunId run);
/// Of the readings of one log, this one; `first` is the run that the log first became.
Edit useReading(RunId first, RunId reading);
/// Errors: OutOfRange, BadValue; see frames::HitchRule.
Edit setHitchRule(frames::HitchRule rule);
/// Errors: OutOfRange outside 0.2 to 3600 s.
Edit setFollowRest(double seconds);
/// An order that cannot, or shall not, be played.
Edit withdrawOrder(OrderId order);

} // namespace impasto::document
