// SPDX-License-Identifier: GPL-3.0-or-later
// Which runs count for what, and what each of them is by itself.
#pragma once

#include <impasto/capture/pyramid.h>
#include <impasto/frames/doubt.h>
#include <impasto/frames/examine.h>
#include <impasto/frames/held.h>
#include <impasto/frames/measured.h>
#include <impasto/frames/parts.h>
#include <impasto/frames/shape.h>
#include <impasto/frames/summary.h>
#include <impasto/limits/causes.h>
#include <impasto/results/stage.h>

namespace impasto::results {

/// Runs in the order in which they were made.
template <class Tag>
struct RunList {
    std::vector<RunId> ids;
};
template <class Tag>
std::size_t bytesOf(const RunList<Tag>& list) {
    return list.ids.size() * sizeof(RunId);
}
std::uint64_t markOf(const std::vector<RunId>& ids);
template <class Tag>
std::optional<std::uint64_t> contentOf(const RunList<Tag>& list) {
    return markOf(list.ids);
}

using ShownRuns = RunList<struct ShownTag>;       // with frames, whether they count or not
using BaselineRuns = RunList<struct BaselineTag>; // this and the following count, for the values in use now
using CostRuns = RunList<struct CostTag>;         // that change levels of the baseline, to tell what they cost
using AfterRuns = RunList<struct AfterTag>;       // of proofs, with whatever choice and cap
using CheckRuns = RunList<struct CheckTag>;       // of the accepted choice
using EarlierChecks = RunList<struct EarlierTag>; // of choices that were accepted before
using ProofRuns = RunList<struct ProofTag>;
using DecidingRuns = RunList<struct DecidingTag>; // that change one thing of the baseline to tell what limits it

// Of which figures were read off, and nothing was recorded:
using ReadBaseline = RunList<struct ReadBaselineTag>; // for the values in use now
using ReadCosts = RunList<struct ReadCostTag>;
using ReadChecks = RunList<struct ReadCheckTag>;
using ReadEarlier = RunList<struct ReadEarlierTag>; // checks of choices that were accepted before
using ReadProofs = RunList<struct ReadProofTag>;

/// What a deciding run of the session's baseline tests; nothing for other orders, and where the baseline has changed.
std::optional<limits::DecidingTest> decidedBy(const document::Session& session, const run::Order& order);

/// The runs of a list; none before it is there.
template <class List>
const std::vector<RunId>& idsOf(const Results& results) {
    static const std::vector<RunId> none;
    const auto* list = results.get<List>();
    return list == nullptr ? none : list->ids;
}

/// Recorded and read off together.
template <class Recorded, class ReadOff>
std::size_t countOf(const Results& results) {
    return idsOf<Recorded>(results).size() + idsOf<ReadOff>(results).size();
}

/// A run's recording with its parts: those that it marks, or that a column names, or else the route's by their seconds.
struct RunParts {
    std::shared_ptr<const capture::Capture> capture;
    bool own = true; // the recording's
};
std::size_t bytesOf(const RunParts& parts);
std::optional<std::uint64_t> contentOf(const RunParts& parts);

/// A run's frames without what was trimmed from it.
struct RunFrames {
    std::shared_ptr<const capture::Capture> capture;
    bool trimmed = false;
};
std::size_t bytesOf(const RunFrames& frames);

/// The whole recording, whatever of it counts.
struct RunShape {
    std::shared_ptr<const capture::Capture> whole; // what the pyramid is of
    capture::Pyramid pyramid;
    std::vector<frames::Second> seconds;
    std::vector<capture::Span> pollution; // what looks unlike the route, by itself
};
std::size_t bytesOf(const RunShape& shape);

/// The ends at which runs of the route lose something, by what each proposes of itself.
struct ExpectedCuts {
    frames::Ends ends;
    std::vector<RunId> elsewhere; // runs of other routes
};
std::optional<std::uint64_t> contentOf(const ExpectedCuts& cuts);

/// What is proposed to be trimmed: what the run says of itself, and what it says less clearly where its siblings do.
struct RunCuts {
    std::vector<capture::Span> spans;
};

struct RunFigures {
    RunId id;
    frames::Summary summary;
    std::vector<frames::PartMeans> parts;
    std::vector<frames::PartHeld> held; // by part; empty without a target
    std::vector<frames::Examined> examined;
    frames::Distribution distribution;
    frames::AllMeasured measured;
    std::shared_ptr<const RunShape> shape;
};
std::size_t bytesOf(const RunFigures& figures);

/// Of the frames of a run that end in the span and count; nothing without one.
std::optional<frames::Summary> spanSummary(const document::Session& session, const RunId& run, capture::Span span);

std::vector<Stage> runStages();

} // namespace impasto::results
