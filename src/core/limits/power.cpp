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
    constexpr std::size_t fewestSamples = 10;
    constexpr double flat = 0.04, moves = 0.02; // shares
    constexpr double lowered = 0.95, warm = 2;  // share of the highest clock; °C under the ceiling
    const auto brake = scene.verdict.brake;
    if (brake != Brake::Gpu && brake != Brake::Cpu) return std::nullopt;
    const bool gpu = brake == Brake::Gpu;
    const auto chip = gpu ? run::Lane::Gpu : run::Lane::Cpu;
    const auto clocks = scene.within(scene.clockOf(chip));
    if (clocks.size() < fewestSamples || scene.clockShare(chip).value_or(1) > lowered || (gpu && scene.gpuMayRest()))
        return std::nullopt;
    // Its own power, or that of the machine where both chips share one.
    for (const auto sensor : {gpu ? Sensor::GpuPower : Sensor::CpuPower, Sensor::SystemPower}) {
        const auto watts = scene.within(sensor);
        const auto highest = stats::quantile(scene.over(sensor), 0.95);
        if (watts.size() < fewestSamples || !(*highest > 0)) continue;
        const double median = *stats::quantile(watts, 0.5), spread = middleSpread(watts);
        if (spread > flat || median < 0.9 * *highest) continue; // a burst at the start may be higher
        Suspicion out{Cause::Power, chip, 0.45, {{Sign::PowerFlat, median, spread}}};
        if (const double clockSpread = middleSpread(clocks); clockSpread >= moves) {
            out.evidence.push_back({Sign::ClockMoves, clockSpread, 0});
            out.sure = 0.7;
        }
        // Where it is at its hottest too, heat may hold the power.
        const Sensor heat = gpu ? Sensor::GpuTemperature : Sensor::CpuTemperature;
        const auto ceiling = stats::quantile(scene.over(heat), 0.99), here = scene.meanWithin(heat);
        if (ceiling && here && *here >= *ceiling - warm && *ceiling >= 80) {
            out.against.push_back({Sign::AtCeiling, *ceiling, 1});
            out.sure -= 0.3;
        }
        return out;
    }
    return std::nullopt;
}

} // namespace impasto::limits
