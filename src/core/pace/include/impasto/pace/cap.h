// SPDX-License-Identifier: GPL-3.0-or-later
// Cap schools side by side, each computed from the run's own frames, and what a replay of those frames can and cannot
// say.
#pragma once

#include <impasto/base/context.h>
#include <impasto/frames/parts.h>
#include <impasto/frames/summary.h>
#include <impasto/pace/pipeline.h>
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

enum class CapSchool { Steady, Headroom, BottomOfRange, Even, Window, None };
std::string_view keyOf(CapSchool school);
std::optional<CapSchool> capSchoolOf(std::string_view key);

struct Band {
    double low = 0, high = 0;
};

struct CapPrediction {
    std::optional<Fps> cap;
    Fps average;
    std::optional<Band> onePercentLow, tenthPercentLow; // fps; nothing without lane times: run it
    std::optional<double> latencyMs;
    std::optional<double> gpuBusy; // share of time
};

struct CapOffer {
    CapSchool school = CapSchool::None;
    std::optional<Fps> cap; // none for school None; or where the school has no value here
    bool applies = true;    // false: this panel or this run gives the school nothing to say
    CapPrediction prediction;
};

/// A run's work, ready to be replayed with other caps. Three frames in flight and three images are assumed.
struct Replay {
    std::vector<double> frameMs;
    std::vector<double> cpuMs, gpuMs; // empty without both lanes
    Pipeline pipeline;
    stats::LowRule lowRule = stats::LowRule::WorstMean;
};
Replay replayOf(const capture::Capture& capture, const std::optional<display::Panel>& panel, run::Sync sync,
                stats::LowRule lowRule);

/// With lane times: a replay through the pipeline. The band of a low runs from "no slow frame can be deferred" (each
/// costs its whole excess) to "the brake's background work is served by idle time". Without: average = min(cap,
/// average).
CapPrediction predict(const Replay& replay, std::optional<Fps> cap, const CapRules& rules);
/// The frames of the replay where nothing is deferred; empty without lane times.
std::vector<Stages> replayedFrames(const Replay& replay, std::optional<Fps> cap);

/// One offer a school, the one to take unless asked first: steady; none for a headset.
std::vector<CapOffer> offers(const Replay& replay, Fps target, const std::optional<display::Panel>& panel,
                             const CapRules& rules, const Context& context = {});
/// Average and both bands over a range of caps, for the picture.
std::vector<CapPrediction> curve(const Replay& replay, Fps from, Fps to, std::size_t points, const CapRules& rules,
                                 const Context& context);

} // namespace impasto::pace
