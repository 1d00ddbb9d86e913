// SPDX-License-Identifier: GPL-3.0-or-later
// Heat: the clock is lower where the temperature stands at its ceiling than it was on the way there.
#include "evidence.h"

#include <cmath>
#include <impasto/stats/stats.h>

namespace impasto::limits {
namespace {

using capture::Sensor;

constexpr double nearCeiling = 8, cooler = 12;           // °C: readings follow slowly, and overshoot
constexpr double warmEnough = 70, hotEnough = 80;        // °C: below the first nothing throttles
constexpr double busyPercent = 85;                       // load: below it clocks fall because there is nothing to do
constexpr double clearlyFell = 0.04, hardlyFell = 0.015; // shares of the clock
constexpr std::size_t fewest = 4;                        // samples on either side

struct Chip {
    Sensor temperature, clock, load;
};

Chip chipOf(const Scene& scene, run::Lane lane) {
    const auto clock = scene.clockOf(lane);
    return lane == run::Lane::Gpu ? Chip{Sensor::GpuTemperature, clock, Sensor::GpuLoad}
                                  : Chip{Sensor::CpuTemperature, clock, Sensor::CpuLoad};
}

/// A slow track at the time of another's sample.
std::optional<double> valueAt(const capture::Track* track, double ms) {
    if (track == nullptr || track->values.empty()) return std::nullopt;
    const auto it = std::lower_bound(track->timeMs.begin(), track->timeMs.end(), ms);
    const auto i = std::min(static_cast<std::size_t>(it - track->timeMs.begin()), track->values.size() - 1);
    if (std::abs(track->timeMs[i] - ms) > 3000 || !std::isfinite(track->values[i])) return std::nullopt;
    return track->values[i];
}

struct Clocks {
    std::vector<double> cool, hot; // hot: within the part
};

void addClocks(Clocks& out, const capture::Capture& run, const Stretch* part, const Chip& chip, double ceiling) {
    const auto* clock = run.track(chip.clock);
    const auto* heat = run.track(chip.temperature);
    if (clock == nullptr || heat == nullptr) return;
    const auto* load = chip.load == Sensor::GpuLoad ? run.track(chip.load) : nullptr;
    for (std::size_t i = 0; i < clock->values.size(); ++i) {
        const double ms = clock->timeMs[i];
        const auto celsius = valueAt(heat, ms), busy = valueAt(load, ms);
        if (!celsius || !std::isfinite(clock->values[i]) || (busy && *busy < busyPercent)) continue;
        const bool here = part != nullptr && ms >= part->fromMs && ms < part->toMs;
        if (*celsius <= ceiling - cooler) out.cool.push_back(clock->values[i]);
        if (here && *celsius >= ceiling - nearCeiling) out.hot.push_back(clock->values[i]);
    }
}

} // namespace

std::optional<Suspicion> heatOf(const Scene& scene, run::Lane lane) {
    const Chip chip = chipOf(scene, lane);
    // The other chip's clock costs nothing while this one has all the work.
    const Brake other = lane == run::Lane::Gpu ? Brake::Cpu : Brake::Gpu;
    if (scene.verdict.brake == other || scene.verdict.brake == Brake::Cap || scene.verdict.brake == Brake::Refresh)
        return std::nullopt;
    const auto temperatures = scene.over(chip.temperature);
    const auto ceiling = stats::quantile(temperatures, 0.99);
    if (!ceiling || *ceiling < warmEnough) return std::nullopt;
    Clocks clocks;
    for (const auto& s : scene.stretches) addClocks(clocks, *s.capture, &s, chip, *ceiling);
    for (const auto& run : scene.around.others) addClocks(clocks, *run, nullptr, chip, *ceiling);
    const auto here = scene.within(chip.temperature);
    const auto near = static_cast<double>(
        std::count_if(here.begin(), here.end(), [&](double c) { return c >= *ceiling - nearCeiling; }));
    const double nearShare = here.empty() ? 0 : near / static_cast<double>(here.size());
    if (nearShare < 0.3) return std::nullopt;
    Suspicion out{Cause::Heat, lane, 0, {{Sign::AtCeiling, *ceiling, nearShare}}};
    if (clocks.cool.size() < fewest || clocks.hot.size() < fewest) {
        // Nothing to hold it against: that it is hot is all that is known.
        if (*ceiling < hotEnough || nearShare < 0.9) return std::nullopt;
        out.sure = 0.35;
        out.evidence.push_back({Sign::HotAllAlong, *ceiling, 0});
        return out;
    }
    const double before = *stats::quantile(clocks.cool, 0.5), now = *stats::mean(clocks.hot);
    const double fell = 1 - now / before;
    if (fell < hardlyFell) return std::nullopt;
    out.evidence.push_back({Sign::ClockFell, before, now});
    out.sure = fell < clearlyFell ? 0.4 : std::min(0.95, 0.7 + 2 * (fell - clearlyFell));
    // A clock that may rest falls by itself; and what is not hot by itself is only the warmest that was seen.
    if (scene.gpuMayRest() || *ceiling < hotEnough) out.sure = std::min(out.sure, 0.5);
    return out;
}

} // namespace impasto::limits
