// SPDX-License-Identifier: GPL-3.0-or-later
// Cap schools side by side, each computed from the run's own frames, and which cap is worth most for the goals.
#pragma once

#include <impasto/pace/power.h>

namespace impasto::pace {

/// Generation: no school, but a plan with frames that are invented (pace/generate.h).
enum class CapSchool { Target, Even, Steady, Headroom, BottomOfRange, Window, None, Own, Best, Generation };
std::string_view keyOf(CapSchool school);
std::optional<CapSchool> capSchoolOf(std::string_view key);

/// What a limiter's place means for latency and evenness: means over replayed frames.
struct HeldAt {
    run::LimiterPlace place = run::LimiterPlace::Engine;
    double latencyMs = 0; // CPU start to shown
    double swingMs = 0;   // by how much one shown interval differs from the next
};

struct CapOffer {
    CapSchool school = CapSchool::None;
    CapPlan plan;
    bool applies = true;                      // false: this panel or this run gives the school nothing to say
    std::optional<CapConflict> conflict = {}; // with the panel: never recommended then
    CapPrediction prediction = {};
    bool held =
        false; // the target in every part, and the lowest bearable low kept, as the prediction's middles have it
    run::BoundFigures bounds = {}; // as expected, or as proven: what the brief may ask besides rates
    double worth = 0;              // for the goals: a logarithm, so that 0.05 is 5%; of what was run, by its proof
    std::optional<Figures> measured = {};       // by its proof
    std::optional<CapPrediction> foretold = {}; // before any proof; where it was run
    std::vector<HeldAt> places = {};            // with a cap and lane times: at every place of a limiter
};

/// Every school's cap, the one to take unless asked first, and how much it is worth over the best that was run.
struct CapOffers {
    std::vector<CapOffer> all;
    std::optional<double> gain = {}; // none: nothing was run yet
};

/// What the figures of a cap are worth for the goals: what the style asks for, and less where a goal is missed. Watts
/// as a rate's root. `latencyMs`: where it is known.
double worthOf(const run::Brief& brief, const Figures& figures, std::optional<double> latencyMs);
/// The expectation over a prediction: its middle counts half, and a quarter each what lies half its band below and
/// above.
double worthOf(const run::Brief& brief, const CapPrediction& prediction);

/// What speaks against a plan: the panel, or a rate that it shows unevenly where the style wants it even.
std::optional<CapConflict> conflictFor(const Replay& replay, const CapPlan& plan, const CapRules& rules);

/// A cap that is worth 2% more than every one that was run is to be run too; a smaller gain is not.
inline constexpr double worthAProof = 0.02;

/// The first is of greatest worth of all that suit the panel, candidates between the schools among them; what was run
/// counts as it was measured, and another is first only where it is worth 2% more. None for a headset. `power`: what
/// the runs drew; without it the brief's bounds on it weigh nothing.
CapOffers offers(const Replay& replay, const CapRules& rules, const Context& context = {},
                 const std::optional<Power>& power = {});
/// A cap of one's own, as the schools' are.
CapOffer ownOffer(const Replay& replay, const CapPlan& plan, const CapRules& rules,
                  const std::optional<Power>& power = {});
/// Predictions over a range of caps, for the picture.
std::vector<CapPrediction> curve(const Replay& replay, Fps from, Fps to, std::size_t points, const CapRules& rules,
                                 const Context& context);
/// Frames of the first run, replayed as deferred work is expected to be served; empty without lane times. `limiter`:
/// elsewhere than in the replay.
Played replayedFrames(const Replay& replay, const CapPlan& plan, std::optional<run::LimiterPlace> limiter = {});

HeldAt heldAt(const Played& played, run::LimiterPlace place);
/// A cap at every place where a limiter can hold frames back; nothing without a cap or without lane times.
std::vector<HeldAt> atEveryPlace(const Replay& replay, const CapPlan& plan);

} // namespace impasto::pace
