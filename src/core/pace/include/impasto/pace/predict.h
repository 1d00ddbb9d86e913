// SPDX-License-Identifier: GPL-3.0-or-later
// What a cap will do to a set's frames, with bands that proofs fall into as often as they say (docs/method.md, Caps).
#pragma once

#include <impasto/pace/replay.h>

namespace impasto::pace {

/// Widths of a band, in scales of the prediction, below and above its middle.
struct Reach {
    double below = 2, above = 2;
    friend bool operator==(const Reach&, const Reach&) = default;
};
/// By figure; the lows by how they are counted (stats::LowRule).
struct Reaches {
    Reach average, leastPart, slowestSecond, onTime;
    std::array<Reach, 3> onePercentLow, tenthPercentLow;
    [[nodiscard]] const Reach& of(Figure figure, stats::LowRule rule) const;
    friend bool operator==(const Reaches&, const Reaches&) = default;
};

/// Watts go as the rate to this power, and within these bounds in 94 of 100 proofs.
struct PowerRule {
    double exponent = 0, least = 0, most = 0;
    friend bool operator==(const PowerRule&, const PowerRule&) = default;
};
struct PowerRules {
    std::array<PowerRule, 3> machine{{{0.49, 0.39, 0.55}, {0.78, 0.44, 1.35}, {0.91, 0.46, 1.5}}}; // by Clocks
    std::array<PowerRule, 3> gpu{{{0.75, 0.40, 0.84}, {1, 0.5, 2.2}, {1.85, 0.4, 3}}};
    double noise = 0.03; // of the same cap, from recording to recording
    double roomC = 22;
    [[nodiscard]] const PowerRule& of(bool gpuAlone, Clocks clocks) const {
        return (gpuAlone ? gpu : machine)[static_cast<std::size_t>(clocks)];
    }
    friend bool operator==(const PowerRules&, const PowerRules&) = default;
};

/// Numbers of the rules; data/cap_rules.toml holds them with their reasons.
struct CapRules {
    double headroomShare = 0.82;    // of the average, without lane times
    double headroomQuantile = 0.97; // of the smoothed GPU work, with lane times
    double switchLossMs = 0.2;      // idle time lost before background work gets going
    int smoothingFrames = 25;
    double bottomQuantile = 0.05; // of the rates of single seconds
    double evenShare = 0.95;      // an even cap lies at most here under the average
    double limiterErrorMs = 0.3;  // measured p99 of a limiter
    // Of bands: with CPU and GPU work, frame times alone, and both on a small machine.
    std::array<Reaches, 4> reaches = usualReaches();
    PowerRules power;
    static std::array<Reaches, 4> usualReaches();
    [[nodiscard]] const Reaches& reachesOf(const Replay& replay) const;
    friend bool operator==(const CapRules&, const CapRules&) = default;
};
/// Errors name file, line and key.
Result<CapRules> parseCapRules(std::string_view text, std::string fileName);

struct Band {
    double low = 0, middle = 0, high = 0;
    friend bool operator==(const Band&, const Band&) = default;
};

struct CapPrediction {
    CapPlan plan;
    std::array<Band, figureCount> bands{}; // 94% of proofs lie inside
    std::optional<double> latencyMs, gpuBusy;
    [[nodiscard]] const Band& of(Figure figure) const { return bands[static_cast<std::size_t>(figure)]; }
    [[nodiscard]] Band& of(Figure figure) { return bands[static_cast<std::size_t>(figure)]; }
    [[nodiscard]] Fps average() const { return Fps(of(Figure::Average).middle); }
};

/// The middle and the scales of a prediction, in the figure's own measure: rates as their logarithm, a share s as
/// -sqrt(1 - s).
struct Expected {
    std::array<double, figureCount> middle{}, below{}, above{};
    std::optional<double> latencyMs, gpuBusy;
};
double measureOf(Figure figure, double value);
double valueOf(Figure figure, double measure);

/// Without what proofs have taught.
Expected expectedOf(const Replay& replay, const CapPlan& plan);
/// The same with it: a cap's proof moves what is expected of others near it.
Expected learntOf(const Replay& replay, const CapPlan& plan);
/// Adds the proof of a cap: its figures are the means over the proof's runs.
void learn(Replay& replay, const CapPlan& plan, const Figures& measured);

enum class Taught { ByProofs, Nothing };
CapPrediction predict(const Replay& replay, const CapPlan& plan, const CapRules& rules,
                      Taught taught = Taught::ByProofs);
/// The target held in every part, as the middle of the prediction has it, and any lowest bearable low kept.
bool wouldHold(const run::Brief& brief, const CapPrediction& prediction);
bool keepsFloor(const run::Brief& brief, const CapPrediction& prediction);

} // namespace impasto::pace
