// SPDX-License-Identifier: GPL-3.0-or-later
// What a cap draws: watts by what was measured, and what follows from them in heat, fan, hours and energy.
#pragma once

#include <impasto/pace/predict.h>

namespace impasto::pace {

/// Whose power a log tells: the whole machine's, CPU and GPU together, or the GPU's alone.
enum class PowerOf { System, Chips, Gpu };

/// What a recording drew: means over it.
struct Drawn {
    PowerOf of = PowerOf::System;
    Fps rate; // average
    double watts = 0;
    std::optional<double> celsius; // of the GPU, once it has settled: mean of the last third
    std::optional<double> fan;     // share of its highest speed, with the temperature
};
/// Nothing without a reading of power.
std::optional<Drawn> drawnIn(const capture::Capture& capture);
/// The mean of recordings that tell the same; nothing of none.
std::optional<Drawn> meanOf(std::span<const Drawn> all);

/// What one set of values drew, without a cap and with those that were proven.
struct Power {
    struct Point {
        std::optional<CapPlan> plan; // none: without a cap
        Drawn drawn;
    };
    std::vector<Point> points; // never empty; all tell the same
    Clocks clocks = Clocks::Free;
    std::optional<double> batteryWh = {};
    [[nodiscard]] const Drawn& uncapped() const { return points.front().drawn; }
    [[nodiscard]] const Drawn* provenAt(const CapPlan& plan) const;
};

/// What recordings without a cap drew; nothing where they tell none, or not the same.
std::optional<Power> uncappedPower(std::span<const std::shared_ptr<const capture::Capture>> recordings, Clocks clocks,
                                   std::optional<double> batteryWh);

/// At a rate: between two that were measured on the line through them, beyond them as the exponents of the rules have
/// it.
Band wattsAt(const Power& power, Fps rate, const PowerRules& rules);
struct Draws {
    Band watts;
    std::optional<Band> celsius; // of the GPU where it settles
    std::optional<Band> fan;     // share of its highest speed
    std::optional<Band> hours;   // of a battery, where the whole machine's power is known
};
/// At a rate, as predicted. Temperature and fan share what is saved: from a fan that turns as before to one that slows
/// until nothing is cooler; neither where the temperature had not settled, or more is drawn than without a cap.
Draws drawsAt(const Power& power, Fps rate, const PowerRules& rules);
/// As it was measured.
Draws drawsOf(const Power& power, const Drawn& drawn);

/// Wh; none: the machine has no battery, or it is not known.
std::optional<double> batteryOf(const machine::Machine* machine);
/// With a plan: as proven, else as predicted for its average; nothing of invented frames before a proof.
std::optional<Draws> drawsWith(const Power& power, const CapPlan& plan, Fps average, const PowerRules& rules);

/// What a recording says of what a brief may ask besides rates. `batteryWh`: none where the machine has no battery.
run::BoundFigures boundFigures(const capture::Capture& capture, std::optional<double> batteryWh);
/// The middles of what is predicted.
run::BoundFigures boundFigures(const CapPrediction& prediction, const std::optional<Draws>& draws);

/// What a brief asks of power, heat, fan and battery, as a share of the time: frames that take more of it at the rate
/// that they are capped to do not keep that, with what has to be to spare, even at the favourable end of what is
/// predicted; a proof says the rest. 1: nothing of it is asked, or told, or it may be kept without a cap. Nothing where
/// it would have to be under `leastFill`.
std::optional<double> fillFor(const run::BoundFigures& asked, const Power& power, const PowerRules& rules);
/// Under it the exponents of the rules say nothing.
inline constexpr double leastFill = 0.1;

/// How much the noise of a fan changes from one speed to another, dB: 50 log10 of the ratio, the usual fan law (from
/// memory); of a whole machine it is rough.
double fanNoiseDb(double from, double to);

/// 52 weeks; W, h, kWh.
double kwhAYear(double watts, double hoursAWeek);

/// What paces a picture in which nothing moves: the slowest rate from 30 fps up that the panel shows evenly.
Fps restingCap(const std::optional<display::Panel>& panel);
/// A low cap while nothing moves, for a share of the play.
struct Resting {
    Band watts;        // saved on average
    double backMs = 0; // until the high rate is back, at most: the low cap's frame that is under way
};
/// `playing`: watts while it is played; nothing where resting draws no less.
std::optional<Resting> atRest(const Power& power, double playing, Fps resting, double share, const PowerRules& rules);

} // namespace impasto::pace
