// SPDX-License-Identifier: GPL-3.0-or-later
// Before and after: the difference of the two sides with its interval, and whether each goal is met.
#pragma once

#include <impasto/frames/held.h>
#include <impasto/frames/summary.h>
#include <impasto/run/run.h>
#include <impasto/stats/stats.h>

namespace impasto::proof {

enum class Wish { Target, LowestLow, Picture, Shown, Bound };
enum class WishState { Met, NotMet, NotEnoughRuns };

/// One figure that a held rate asks for, on both sides.
struct HeldOutcome {
    double least = 0;                          // fps, or share
    stats::Interval before, after, difference; // 95%; the state rests on the confidence of a look
    WishState state = WishState::NotEnoughRuns;
};
/// One part of the route, before and after: never the worst one of each side.
struct PartOutcome {
    std::string part;
    std::array<HeldOutcome, 3> figures; // by frames::HeldFigure
    WishState state = WishState::NotEnoughRuns;
    [[nodiscard]] const HeldOutcome& of(frames::HeldFigure figure) const {
        return figures[static_cast<std::size_t>(figure)];
    }
    /// The figure that decides the state: of those that miss, else of those that are open, the worst against its bound.
    [[nodiscard]] frames::HeldFigure worst() const;
};
/// A goal. That of the target: the average in the part that keeps worst to it, before and after.
struct WishOutcome {
    Wish wish = Wish::Target;
    double wanted = 0;                         // fps, share, or in the unit of its bound
    stats::Interval before, after, difference; // 95%; the state rests on the confidence of a look
    WishState state = WishState::NotEnoughRuns;
    std::string worstPart;                              // for the target
    run::FloorOf floorOf = run::FloorOf::OnePercentLow; // for the lowest low
    bool overRoute = false;                             // of the target: nothing tells the parts apart
    std::optional<run::Bound> bound = {};               // which, in its unit; there may be several
    bool untold = false; // of a bound: not every run after tells it, so more of them decide nothing
    /// Less is better.
    [[nodiscard]] bool atMost() const { return bound && !run::isLeast(*bound); }
    /// How far a figure keeps to what is wanted, as a share: 1 just does, more is better.
    [[nodiscard]] double keeps(double value) const;
};
struct ProofRun {
    RunId id;
    bool after = false;
    double low = 0;           // fps, what the lowest bearable low is a low of
    double worstPartRate = 0; // fps
};
struct Proof {
    std::vector<ProofRun> runs; // in the order they were made
    std::vector<WishOutcome> wishes;
    std::vector<PartOutcome> parts; // what the target's goal rests on, in route order
    stats::Interval averageBefore, averageAfter, averageDifference;
    std::size_t before = 0, after = 0;
    bool readOff = false; // from a counter: what share of the frames came on time is not known, and not asked
    [[nodiscard]] std::size_t met() const;
    [[nodiscard]] std::size_t open() const;
    /// Some goal is open that more runs may decide.
    [[nodiscard]] bool wantsRuns() const;
    /// The target's: the part that fails it, or comes nearest to that; nullptr without runs after.
    [[nodiscard]] const PartOutcome* worst() const;
};

/// A run of one side, its figures owned elsewhere for the call.
struct Side {
    RunId id;
    bool after = false;
    const frames::Summary* summary = nullptr;
    const std::vector<frames::PartHeld>* parts = nullptr;
    Fps shown{0}; // invented frames among them
    run::BoundFigures bounds = {};
};
/// Figures of one side that were read off; what was not read is no figure.
struct ReadSide {
    RunId id;
    bool after = false;
    const run::ReadOff* figures = nullptr;
};
/// Share of the picture, before and after.
struct Pictures {
    double before = 1, after = 1;
};
/// How many runs a side has at the first look, and at the last one.
inline constexpr std::size_t firstLook = 3, lastLook = 6;
/// The confidence of each look: the same at all of them (Pocock 1977's boundary, with Student's t), so that a rate
/// which lies just at its bound is called met in at most 2.5% of proofs although there are up to four looks.
double confidenceOfLook();
/// The low that the brief's lowest bearable low is held against, fps.
double lowOf(const frames::Summary& summary, const run::Brief& brief);
/// Nothing without a run. The target is met where every part holds it (frames/held.h), not met where one does not.
std::optional<Proof> prove(std::span<const Side> runs, const run::Brief& brief,
                           const std::optional<Pictures>& pictures);
/// What a counter's average has to reach, as a share of the target: it shows whole numbers, and some cut them off.
inline constexpr double heldCounter = 0.98;
/// The same of a route as a whole, from a counter: its average, and the least that it showed in place of the slowest
/// second. A low or a least that not every run after has is not enough runs.
std::optional<Proof> prove(std::span<const ReadSide> runs, const run::Brief& brief,
                           const std::optional<Pictures>& pictures);

} // namespace impasto::proof
