// SPDX-License-Identifier: GPL-3.0-or-later
// Cap schools side by side, each computed from the run's own frames, and what a replay of those frames can and cannot
// say.
#pragma once

#include <impasto/base/context.h>
#include <impasto/frames/held.h>
#include <impasto/frames/parts.h>
#include <impasto/pace/pipeline.h>
#include <impasto/pace/plan.h>
#include <impasto/stats/stats.h>

namespace impasto::pace {

/// Numbers of the rules; data/cap_rules.toml holds them with their reasons.
struct CapRules {
    double headroomShare = 0.82;    // of the average, without lane times
    double headroomQuantile = 0.97; // of the smoothed GPU work, with lane times
    double switchLossMs = 0.2;      // idle time lost before background work gets going
    int smoothingFrames = 25;
    double bottomQuantile = 0.05; // of the rates of single seconds
    double evenShare = 0.95;      // an even cap lies at most here under the average
    double limiterErrorMs = 0.3;  // measured p99 of a limiter
    friend bool operator==(const CapRules&, const CapRules&) = default;
};
/// Errors name file, line and key.
Result<CapRules> parseCapRules(std::string_view text, std::string fileName);

enum class CapSchool { Target, Even, Steady, Headroom, BottomOfRange, Window, None, Own };
std::string_view keyOf(CapSchool school);
std::optional<CapSchool> capSchoolOf(std::string_view key);

struct Band {
    double low = 0, high = 0;
    /// What it is taken for: the share of slow frames that idle time serves, as measured over simulated games (mean
    /// 0.78, docs/method.md).
    [[nodiscard]] double expected() const { return low + 0.78 * (high - low); }
};

struct CapPrediction {
    CapPlan plan;
    Fps average;
    std::optional<Band> onePercentLow, tenthPercentLow, slowestSecond; // fps; nothing without lane times: run it
    std::optional<double> latencyMs;
    std::optional<double> gpuBusy; // share of time
    bool held = false;             // the target, in every part, where no slow frame can be deferred
};

struct CapOffer {
    CapSchool school = CapSchool::None;
    CapPlan plan;
    bool applies = true;                      // false: this panel or this run gives the school nothing to say
    std::optional<CapConflict> conflict = {}; // with the panel: never recommended then
    CapPrediction prediction;
};

/// A run's work, ready to be replayed with other caps. Three frames in flight and three images are assumed.
struct Replay {
    std::vector<double> frameMs;
    std::vector<double> cpuMs, gpuMs; // empty without both lanes
    std::vector<capture::PartRange> parts;
    std::optional<display::Panel> panel;
    run::Brief brief;
    std::optional<Fps> refuted =
        {}; // a cap that was run and did not hold the target: this and lower ones are not first
};
Replay replayOf(const capture::Capture& capture, const std::optional<display::Panel>& panel, const run::Brief& brief);

/// With lane times: a replay through the pipeline, with a limiter as late as they usually are. The band of a low runs
/// from "no slow frame can be deferred" (each costs its whole excess) to "the brake's background work is served by idle
/// time". Without: each frame lasts its own time or the cap's, whichever is longer.
CapPrediction predict(const Replay& replay, const CapPlan& plan, const CapRules& rules);
/// The frames of the replay where nothing is deferred; empty without lane times.
std::vector<Stages> replayedFrames(const Replay& replay, const CapPlan& plan);

/// Whether the brief's lowest bearable low, if any, is predicted to be kept.
bool keepsFloor(const run::Brief& brief, const CapPrediction& prediction);

/// One offer a school, the one to take unless asked first: of those that suit the panel, reach the target and keep the
/// lowest bearable low, the first in the order of the style; none for a headset.
std::vector<CapOffer> offers(const Replay& replay, const CapRules& rules, const Context& context = {});
/// A cap of one's own, as the schools' are.
CapOffer ownOffer(const Replay& replay, std::optional<Fps> cap, const CapRules& rules);
/// Average and both bands over a range of caps, for the picture.
std::vector<CapPrediction> curve(const Replay& replay, Fps from, Fps to, std::size_t points, const CapRules& rules,
                                 const Context& context);

} // namespace impasto::pace
