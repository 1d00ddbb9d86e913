// SPDX-License-Identifier: GPL-3.0-or-later
// Frame generation: what inventing takes of the GPU that renders, or a second GPU that does not keep up with it.
#include "evidence.h"

#include <impasto/stats/stats.h>

namespace impasto::limits {
namespace {

/// Frames invented with each rendered one of the part; nothing where no recording counts them.
std::optional<double> inventedWithin(const Scene& scene) {
    double sum = 0;
    std::size_t frames = 0;
    for (const auto& stretch : scene.stretches) {
        const auto& c = *stretch.capture;
        if (!c.invented) continue;
        double at = 0;
        for (std::size_t i = 0; i < c.frames(); at += c.framesMs[i++])
            if (at >= stretch.fromMs && at < stretch.toMs && std::isfinite((*c.invented)[i])) {
                sum += (*c.invented)[i];
                ++frames;
            }
    }
    return frames == 0 ? std::nullopt : std::optional(sum / static_cast<double>(frames));
}

/// Whether a second GPU invents them: as it was set, else as that is at work.
bool onSecondGpu(const Scene& scene) {
    constexpr double works = 30; // percent
    if (scene.variant.generation) return scene.variant.generation->onSecondGpu;
    return scene.meanWithin(capture::Sensor::SecondGpuLoad).value_or(0) >= works;
}

} // namespace

std::optional<Suspicion> generationOf(const Scene& scene) {
    constexpr double clearGap = 0.05, full = 95, hasRoom = 85; // of the frame; percent
    constexpr double isOn = 0.3;                               // invented with each: fewer fill in for late ones
    const auto& v = scene.verdict;
    if (v.brake == Brake::Cap || v.brake == Brake::Refresh) return std::nullopt;
    const auto invented = inventedWithin(scene);
    const bool worn = scene.panel && scene.panel->headset; // its runtime invents where frames are late
    if (!scene.variant.generation && (worn || invented.value_or(0) < isOn)) return std::nullopt;
    Suspicion out{Cause::Generation, run::Lane::Frame, 0.5, {}};
    const auto told = [&] {
        if (invented) out.evidence.push_back({Sign::InventedFrames, *invented, 0});
        return out;
    };
    if (!onSecondGpu(scene)) // how much of the GPU's work it is, no log tells
        return v.brake == Brake::Gpu ? std::optional(told()) : std::nullopt;
    if ((v.brake == Brake::Gpu || v.brake == Brake::Cpu) && v.certainty() == Certainty::Sure) return std::nullopt;
    const double gap = v.cpu && v.gpu ? v.periodMs - std::max(v.cpu->meanMs, v.gpu->meanMs) : 0;
    if (v.cpu && v.gpu && gap < clearGap * v.periodMs) return std::nullopt;
    if (const auto load = scene.meanWithin(capture::Sensor::SecondGpuLoad)) {
        if (*load < hasRoom) return std::nullopt;
        out.evidence.push_back({Sign::SecondGpuLoad, *load, 0});
        if (*load >= full) out.sure = gap > 0 ? 0.9 : 0.7;
    }
    if (gap > 0) out.evidence.push_back({Sign::Gap, gap, gap / v.periodMs});
    return told();
}

} // namespace impasto::limits
