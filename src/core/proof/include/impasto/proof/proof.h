// SPDX-License-Identifier: GPL-3.0-or-later
// Before and after: the difference of the two sides with its interval, and whether each goal is met.
#pragma once

#include <impasto/frames/parts.h>
#include <impasto/frames/summary.h>
#include <impasto/run/run.h>
#include <impasto/stats/stats.h>

namespace impasto::proof {

enum class Wish { Target, LowestLow, Picture };
enum class WishState { Met, NotMet, NotEnoughRuns };
struct WishOutcome {
    Wish wish = Wish::Target;
    double wanted = 0;                         // fps, or share
    stats::Interval before, after, difference; // 95%; the state rests on the confidence of a look
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

/// A run of one side, its figures owned elsewhere for the call.
struct Side {
    RunId id;
    bool after = false;
    const frames::Summary* summary = nullptr;
    const std::vector<frames::PartMeans>* parts = nullptr;
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
/// Nothing without a run.
std::optional<Proof> prove(std::span<const Side> runs, const run::Brief& brief,
                           const std::optional<Pictures>& pictures);

} // namespace impasto::proof
