// SPDX-License-Identifier: GPL-3.0-or-later
// A fault of a tool or a driver: the rate collapses while the GPU has hardly anything to do.
#include "evidence.h"

#include <cmath>
#include <impasto/stats/stats.h>

namespace impasto::limits {
namespace {

constexpr double windowMs = 2000, collapsed = 1.0 / 3, idleLoad = 40, restsAgainstUsual = 0.5;

/// Frames of a recording in windows, each with the GPU's mean load there; NaN where none was read.
struct Windows {
    std::vector<double> frames, load;
};

Windows windowsOf(const capture::Capture& run, const capture::Track& load) {
    Windows out;
    double at = 0;
    const auto window = [](double ms) { return static_cast<std::size_t>(ms / windowMs); };
    for (const double ms : run.framesMs) {
        at += ms;
        if (out.frames.size() <= window(at)) out.frames.resize(window(at) + 1, 0.0);
        ++out.frames[window(at)];
    }
    if (!out.frames.empty()) out.frames.pop_back(); // not a whole one
    std::vector<double> sum(out.frames.size(), 0.0), count(out.frames.size(), 0.0);
    for (std::size_t i = 0; i < load.values.size(); ++i)
        if (load.timeMs[i] >= 0 && window(load.timeMs[i]) < sum.size() && std::isfinite(load.values[i])) {
            sum[window(load.timeMs[i])] += load.values[i];
            ++count[window(load.timeMs[i])];
        }
    for (std::size_t i = 0; i < sum.size(); ++i) out.load.push_back(sum[i] / count[i]);
    return out;
}

} // namespace

std::optional<Suspicion> toolFaultOf(const Scene& scene) {
    constexpr std::size_t fewest = 10; // windows of a recording
    double worst = 0, resting = 0, usualLoad = 0;
    for (const auto& stretch : scene.stretches) {
        const auto* load = stretch.capture->track(capture::Sensor::GpuLoad);
        if (load == nullptr) continue;
        const auto windows = windowsOf(*stretch.capture, *load);
        auto known = windows.load;
        std::erase_if(known, [](double v) { return !std::isfinite(v); });
        const auto usual = stats::quantile(known, 0.5), rate = stats::quantile(windows.frames, 0.5);
        if (!usual || !rate || windows.frames.size() < fewest || known.size() < fewest) continue;
        for (std::size_t i = 0; i < windows.frames.size(); ++i) {
            const double fromMs = windowMs * static_cast<double>(i);
            const bool here = fromMs >= stretch.fromMs && fromMs < stretch.toMs;
            const bool slow = windows.frames[i] < collapsed * *rate;
            if (!here || !slow || !(windows.load[i] < std::min(idleLoad, restsAgainstUsual * *usual))) continue;
            worst += windowMs / 1000;
            resting = windows.load[i];
            usualLoad = *usual;
        }
    }
    if (worst == 0) return std::nullopt;
    return Suspicion{Cause::ToolFault,
                     run::Lane::Frame,
                     worst > windowMs / 1000 ? 0.65 : 0.4,
                     {{Sign::CollapsedIdle, worst, resting}, {Sign::GpuLoad, usualLoad, 0}}};
}

} // namespace impasto::limits
