// SPDX-License-Identifier: GPL-3.0-or-later
// Everything that follows from a session: pure functions of it, recomputed, never edited, never loaded as truth.
#pragma once

#include <impasto/capture/pyramid.h>
#include <impasto/limits/limits.h>
#include <impasto/session/session.h>
#include <impasto/stats/compare.h>
#include <impasto/stats/examine.h>
#include <impasto/stats/patterns.h>
#include <impasto/stats/shape.h>

namespace impasto::session {

/// Of the whole recording, whatever of it counts.
struct RunShape {
    capture::Pyramid pyramid;
    std::vector<stats::Second> seconds;
    std::vector<capture::Span> pollution; // proposed to be trimmed
};

struct RunFigures {
    RunId id;
    stats::Summary summary;
    std::vector<stats::PartMeans> parts;
    std::vector<stats::Examined> examined;
    stats::Distribution distribution;
    std::shared_ptr<const RunShape> shape;
};

/// The baseline runs as one.
struct BaselineFamily {
    std::map<stats::Figure, stats::Family> figures; // those that every run has
    std::map<RunId, std::shared_ptr<const stats::RunDoubt>> doubt;
    std::map<RunId, stats::HitchOrigin> hitches;
    std::map<RunId, std::vector<stats::Examined>> examined; // against other runs; cost runs too
};

/// Which lanes the runs tell: CPU and GPU, or the frame alone. Where a headset paces the frames, one lane says more
/// than they do.
std::vector<run::Lane> lanesOf(std::span<const stats::PartMeans> parts, bool paced);

struct Costs {
    std::vector<choose::LaneCosts> lanes; // empty until the baseline repeats
    std::optional<cost::Fit> gpuMemory, systemMemory;
    std::vector<cost::LevelKey> planned;
    std::vector<cost::LevelKey> toMeasure; // planned and not yet measured
    cost::Need need;
    [[nodiscard]] const choose::LaneCosts* of(run::Lane lane) const;
};

/// What runs of the accepted set without a cap say against the choice.
struct Check {
    std::size_t runs = 0;
    std::vector<choose::LaneOutcome> measured; // means in the worst part, standard errors between runs
    bool holds = true;
};

struct CapView {
    choose::Replay replay;
    RunId run; // whose frames
    std::vector<choose::CapOffer> offers;
    std::vector<choose::CapPrediction> curve;
};

enum class Wish { Target, LowestLow, Picture };
enum class WishState { Met, NotMet, NotEnoughRuns };
struct WishOutcome {
    Wish wish = Wish::Target;
    double wanted = 0; // fps, or share
    stats::Interval before, after, difference;
    WishState state = WishState::NotEnoughRuns;
    std::string worstPart; // for the target
};
struct ProofRun {
    RunId id;
    bool after = false;
    double onePercentLow = 0; // fps
    double worstPartRate = 0; // fps
};
struct Proof {
    std::vector<ProofRun> runs; // in the order they were made
    std::vector<WishOutcome> wishes;
    stats::Interval averageBefore, averageAfter, averageDifference;
    std::size_t before = 0, after = 0;
};

/// A decision's basis names whose fingerprints differ now, in the order of the basis.
using Stale = std::vector<std::string>;

struct Results {
    std::uint64_t revision = 0;
    std::map<RunId, std::shared_ptr<const RunFigures>> runs;           // of every run with frames
    std::map<RunId, std::shared_ptr<const capture::Capture>> captures; // of the same runs, trimmed
    std::vector<RunId> baselineRuns, costRuns, checkRuns, proofRuns;   // that count, for the values now in use
    std::vector<RunId> earlierChecks;                                  // of choices that were taken before
    BaselineFamily baseline;
    std::vector<limits::PartVerdict> limits;
    std::shared_ptr<const Costs> costs;
    std::optional<choose::Proposal> proposal;
    std::optional<Error> proposalError;
    std::optional<Check> check;
    std::shared_ptr<const CapView> cap;
    std::optional<Proof> proof;
    Basis basisNow;
    Stale choiceStale, capStale, keptStale;

    [[nodiscard]] const RunFigures* figures(const RunId& id) const;
    /// The ground of a choice, for drags that solve again; nothing without costs. The session must outlive it.
    [[nodiscard]] std::optional<choose::Ground> ground(const Session& session) const;
    [[nodiscard]] Basis choiceBasis() const;
    [[nodiscard]] Basis capBasis() const;
    [[nodiscard]] Basis keptBasis() const;
};

/// Of the frames of a run that end in the span and count; nothing without one.
std::optional<stats::Summary> spanSummary(const Session& session, const RunId& run, capture::Span span);
/// The averages of all runs with the one run's values against those with the other's; nothing where both are of one
/// variant, or a run does not count.
std::optional<stats::FigureComparison> compareVariants(const Session& session, const Results& results,
                                                       const RunId& before, const RunId& after);

/// Stages remembered by the fingerprint of what they read. Not thread-safe: one a thread.
class ResultsCache {
  public:
    ResultsCache();
    ~ResultsCache();
    ResultsCache(const ResultsCache&) = delete;
    ResultsCache& operator=(const ResultsCache&) = delete;
    struct Stages;
    Stages& stages() { return *m_stages; }

  private:
    std::unique_ptr<Stages> m_stages;
};

/// All results. When cancelled, what was ready by then.
Results compute(const Session& session, ResultsCache& cache, const choose::CapRules& rules,
                const Context& context = {});

} // namespace impasto::session
