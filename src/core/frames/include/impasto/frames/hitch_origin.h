// SPDX-License-Identifier: GPL-3.0-or-later
// Where hitches come from: at a steady period, at the same places of the route in every run, more and more, or at
// random.
#pragma once

#include <impasto/frames/summary.h>
#include <impasto/run/run.h>

namespace impasto::frames {

enum class HitchPattern {
    TooFew,    // to say anything
    Periodic,  // one every so many ms
    SamePlace, // where other runs of the route have one too
    FirstRun,  // far more than in the runs after it
    Growing,   // far more in the second half of the run than in the first
    Random
};
std::string_view keyOf(HitchPattern pattern);
struct HitchOrigin {
    HitchPattern pattern = HitchPattern::TooFew;
    double periodMs = 0; // of Periodic
    double strength = 0; // Periodic: its gathering; SamePlace: share of the hitches; Growing: share in the second half;
                         // FirstRun: share that the runs after it have not
};
/// A run's hitches, and where its parts start, so that runs whose parts last differently can be laid over each other.
struct HitchedRun {
    std::span<const Hitch> hitches;  // in time order; outlive the call they are given to
    std::vector<double> partStartMs; // of each part, and the end of the run
};
std::vector<double> partStartsOf(const capture::Capture& capture);
/// Of one run's hitches; `siblings` are other runs of the same route, all made after it where it is the `first`.
/// Rules: docs/method.md. Time goes with the hitches; a steady period is looked for in 2,000 of them at most.
HitchOrigin originOf(const HitchedRun& run, std::span<const HitchedRun> siblings = {}, bool first = false);

} // namespace impasto::frames
