// SPDX-License-Identifier: GPL-3.0-or-later
// Memory that is full: what is in use, against what the machine has.
#include "evidence.h"

#include <impasto/stats/stats.h>

namespace impasto::limits {
namespace {

double longFrames(const Scene& scene) {
    constexpr double longMs = 100;
    double count = 0;
    for (const auto& s : scene.stretches) {
        double at = 0;
        for (const double ms : s.capture->framesMs) {
            at += ms;
            count += ms > longMs && at > s.fromMs && at <= s.toMs ? 1 : 0;
        }
    }
    return count;
}

std::optional<Suspicion> full(const Scene& scene, Cause cause, capture::Sensor sensor, double mib, double nearlyFull,
                              double sureAt) {
    const auto used = stats::quantile(scene.within(sensor), 0.9);
    if (!used || !(mib > 0) || *used < nearlyFull * mib) return std::nullopt;
    constexpr double clearlyOver = 1.02;
    Suspicion out{cause, run::Lane::Frame, *used >= clearlyOver * mib ? 0.8 : 0.45, {{Sign::MemoryUse, *used, mib}}};
    if (const double slow = longFrames(scene); slow > 0) {
        out.evidence.push_back({Sign::LongFrames, slow, 0});
        if (*used >= sureAt * mib) out.sure = std::max(out.sure, 0.65);
    }
    return out;
}

} // namespace

std::optional<Suspicion> gpuMemoryOf(const Scene& scene) {
    const double mib = scene.around.machine == nullptr ? 0 : scene.around.machine->gpuMemory.value();
    return full(scene, Cause::GpuMemory, capture::Sensor::GpuMemory, mib, 0.95, 0.97);
}

std::optional<Suspicion> systemMemoryOf(const Scene& scene) {
    const double mib = scene.around.machine == nullptr ? 0 : scene.around.machine->systemMemory.value();
    return full(scene, Cause::SystemMemory, capture::Sensor::SystemMemory, mib, 0.93, 0.95);
}

} // namespace impasto::limits
