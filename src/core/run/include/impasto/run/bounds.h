// SPDX-License-Identifier: GPL-3.0-or-later
// What a brief may ask besides rates and picture: how late, hungry, warm, busy or loud a run may be, and how long a
// battery has to last.
#pragma once

#include <array>
#include <optional>
#include <string_view>
#include <utility>

namespace impasto::run {

/// Latency: ms from a frame's CPU start to its being shown. Power: W, of what the log tells. GpuTemperature: °C, the
/// highest reading. GpuLoad: a mean share. Fan: share of its highest speed, the highest reading.
enum class Bound { Latency, Power, BatteryHours, GpuTemperature, GpuLoad, Fan };
inline constexpr std::array<Bound, 6> allBounds{Bound::Latency,        Bound::Power,   Bound::BatteryHours,
                                                Bound::GpuTemperature, Bound::GpuLoad, Bound::Fan};
/// As files and JSON write what is asked: "most_latency_ms", "least_battery_h".
std::string_view keyOf(Bound bound);
/// As it is called where it is asked: "GPU temperature".
const char* nameOf(Bound bound);
/// What may be asked, in the bound's unit.
std::pair<double, double> rangeOf(Bound bound);
/// A battery has to last so long at the least; of everything else there may be so much at most.
constexpr bool isLeast(Bound bound) {
    return bound == Bound::BatteryHours;
}

/// A figure for each; none: not asked, or not told.
struct BoundFigures {
    std::array<std::optional<double>, allBounds.size()> all{};
    std::optional<double>& operator[](Bound bound) { return all[static_cast<std::size_t>(bound)]; }
    const std::optional<double>& operator[](Bound bound) const { return all[static_cast<std::size_t>(bound)]; }
    friend bool operator==(const BoundFigures&, const BoundFigures&) = default;
};
/// By how much a figure misses what is asked, as the logarithm of their ratio; 0 where it is kept.
double missOf(Bound bound, double asked, double is);
/// What is expected has to keep what is asked with so much to spare: a few runs can tell no less.
inline constexpr double spared = 1.02;
/// The same of all that is asked and told, together, with what has to be to spare.
double missOf(const BoundFigures& asked, const BoundFigures& is);

} // namespace impasto::run
