// SPDX-License-Identifier: GPL-3.0-or-later
// Where hitches come from: at a steady period, at the same places of the route in every run, more and more, or at
// random.
#pragma once

#include <impasto/stats/stats.h>

namespace impasto::stats {

/// Normalised power, 0 to 1, at each frequency (Lomb 1976, Scargle 1982): [(sum y c)^2 / sum c^2 + (sum y s)^2 / sum
/// s^2] / sum y^2 with y without its mean and c, s = cos, sin(w (t - tau)). Times in seconds, frequencies in Hz above
/// 0. All 0 where the values do not vary.
std::vector<double> lombScargle(std::span<const double> seconds, std::span<const double> values,
                                std::span<const double> frequencies);

/// How strongly moments gather at a phase of a frequency: |mean of exp(2 pi i f t)|, 0 to 1 (Rayleigh).
double gathering(std::span<const double> seconds, double frequency);

enum class HitchPattern {
    TooFew,    // to say anything
    Periodic,  // one every so many ms
    SamePlace, // where other runs of the route have one too
    FirstRun,  // far more than in the runs after it
    Growing,   // far more in the second half of the run than in the first
    Random
};
struct HitchOrigin {
    HitchPattern pattern = HitchPattern::TooFew;
    double periodMs = 0; // of Periodic
    double strength = 0; // Periodic: its gathering; SamePlace: share of the hitches; Growing: share in the second half;
                         // FirstRun: share that the runs after it have not
};
/// A run and its hitches; both outlive the call they are given to.
struct HitchedRun {
    const capture::Capture* capture = nullptr;
    std::span<const Hitch> hitches;
};
/// Of one run's hitches; `siblings` are other runs of the same route, all made after it where it is the `first`.
/// Rules: docs/method.md.
HitchOrigin originOf(const HitchedRun& run, std::span<const HitchedRun> siblings = {}, bool first = false);

} // namespace impasto::stats
