// SPDX-License-Identifier: GPL-3.0-or-later
// A power limit: the power stands at one value while the clock goes with what every frame asks of the chip.
#include "evidence.h"

#include <impasto/stats/stats.h>

namespace impasto::limits {
namespace {

using capture::Sensor;

/// Distance of the 10% and the 90% quantile, a share of the median.
double middleSpread(const std::vector<double>& values) {
    const double median = *stats::quantile(values, 0.5);
    return median > 0 ? (*stats::quantile(values, 0.9) - *stats::quantile(values, 0.1)) / median : 0;
}

} // namespace

std::optional<Suspicion> powerOf(const Scene& scene) {
    constexpr std::size_t fewest = 10;
    constexpr double flat = 0.035, moves = 0.02, warm = 2; // shares; °C under the ceiling
    if (scene.verdict.brake != Brake::Gpu) return std::nullopt;
    const auto watts = scene.within(Sensor::GpuPower), clocks = scene.within(Sensor::GpuClock);
    const auto highest = stats::quantile(scene.over(Sensor::GpuPower), 0.95);
    if (watts.size() < fewest || clocks.size() < fewest || !(*highest > 0)) return std::nullopt;
    const double median = *stats::quantile(watts, 0.5), spread = middleSpread(watts);
    const double clockSpread = middleSpread(clocks);
    const double fastest = *stats::quantile(scene.over(Sensor::GpuClock), 0.98);
    if (spread > flat || median < 0.97 * *highest || *stats::quantile(clocks, 0.5) > 0.985 * fastest)
        return std::nullopt;
    Suspicion out{Cause::Power, run::Lane::Gpu, 0.45, {{Sign::PowerFlat, median, spread}}};
    if (clockSpread >= moves) {
        out.evidence.push_back({Sign::ClockMoves, clockSpread, 0});
        out.sure = 0.7;
    }
    // Where it is at its hottest too, heat may hold the power.
    const auto ceiling = stats::quantile(scene.over(Sensor::GpuTemperature), 0.99);
    const auto here = scene.meanWithin(Sensor::GpuTemperature);
    if (ceiling && here && *here >= *ceiling - warm && *ceiling >= 80) {
        out.against.push_back({Sign::AtCeiling, *ceiling, 1});
        out.sure -= 0.3;
    }
    return out;
}

} // namespace impasto::limits
