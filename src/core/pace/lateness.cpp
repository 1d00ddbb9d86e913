// SPDX-License-Identifier: GPL-3.0-or-later
// How late a limiter is, by runs with a cap.
#include <impasto/pace/replay.h>

#include <cmath>
#include <impasto/stats/stats.h>

namespace impasto::pace {

std::optional<double> limiterLateness(const capture::Capture& capture, const CapPlan& plan) {
    constexpr std::size_t fewest = 200;
    constexpr double rests = 0.85, mostMs = 1; // of the interval; what is later was held by something else
    const bool onTicks = plan.sync == run::Sync::Fixed || plan.sync == run::Sync::Latest;
    if (!plan.cap || onTicks || plan.generation || !capture.cpuWorkMs || !capture.gpuWorkMs) return std::nullopt;
    const double interval = 1000 / plan.cap->value();
    const auto held = [&](std::size_t i) {
        return (*capture.cpuWorkMs)[i] < rests * interval && (*capture.gpuWorkMs)[i] < rests * interval;
    };
    double sum = 0;
    std::size_t frames = 0;
    // What one frame is late the work of the next may make up for: both are the limiter's alone.
    for (std::size_t i = 2; i < capture.frames(); ++i) {
        const double late = capture.framesMs[i] - interval;
        if (!held(i - 2) || !held(i - 1) || !held(i) || std::abs(late) > rests * interval) continue;
        sum += late;
        ++frames;
    }
    if (frames < fewest) return std::nullopt;
    return std::clamp(sum / static_cast<double>(frames), 0.0, mostMs);
}

void setLateness(Replay& replay, double meanMs) {
    const double now = stats::finiteMean(replay.latenessMs).value_or(0);
    replay.measuredLateness = meanMs;
    if (!(now > 0)) return;
    for (double& ms : replay.latenessMs) ms *= meanMs / now;
}

} // namespace impasto::pace
