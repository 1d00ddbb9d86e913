// SPDX-License-Identifier: GPL-3.0-or-later
// What every frame takes beside the GPU's work, by least squares of the frame times on both lanes' work. CPU and GPU
// take turns where one frame at a time is in flight, as a low-latency mode or the game itself has it: a frame then
// lasts as long as both together, but for what the GPU begins before the CPU has ended. Nothing else makes frames go
// with the whole of the one and much of the other. Where they go with the GPU's alone, and last longer, a stage follows
// that no reading tells.
#include "evidence.h"

#include <cmath>
#include <impasto/stats/solve.h>

namespace impasto::limits {
namespace {

struct Fit {
    double besideMs = 0, ofCpu = 0, ofGpu = 0, explained = 0; // the share of the variance
};

/// Least squares of frame times on both lanes' work; of frames that are no hitches.
std::optional<Fit> fitOf(const Scene& scene) {
    constexpr double longest = 2; // mean frames
    constexpr double fewest = 200;
    std::array<double, 9> squares{};
    std::array<double, 3> products{};
    double total = 0;
    for (const auto& stretch : scene.stretches) {
        const auto& c = *stretch.capture;
        if (!c.cpuWorkMs || !c.gpuWorkMs) return std::nullopt;
        double at = 0;
        for (std::size_t f = 0; f < c.frames(); at += c.framesMs[f++]) {
            const double ms = c.framesMs[f];
            const std::array row{1.0, (*c.cpuWorkMs)[f], (*c.gpuWorkMs)[f]};
            if (at < stretch.fromMs || at >= stretch.toMs || !std::isfinite(row[1] + row[2]) ||
                ms > longest * scene.verdict.periodMs)
                continue;
            for (std::size_t i = 0; i < 3; ++i) {
                products[i] += ms * row[i];
                for (std::size_t j = 0; j < 3; ++j) squares[3 * i + j] += row[i] * row[j];
            }
            total += ms * ms;
        }
    }
    const double n = squares[0], spread = n > 0 ? total - products[0] * products[0] / n : 0;
    if (n < fewest || !(spread > 0)) return std::nullopt;
    const auto is = stats::solve(squares, products);
    const double left = total - is[0] * products[0] - is[1] * products[1] - is[2] * products[2];
    if (!std::isfinite(left)) return std::nullopt; // work that never moves
    return Fit{is[0], is[1], is[2], 1 - left / spread};
}

} // namespace

frames::BesideGpu besideGpuOf(const Scene& scene) {
    constexpr double leastOfCpu = 0.25, most = 0.1, leastExplained = 0.8; // of a frame
    const auto& v = scene.verdict;
    if (v.brake == Brake::Cap || v.brake == Brake::Refresh || v.flat || !v.cpu || !v.gpu) return {};
    if (std::max(v.cpu->meanMs, v.gpu->meanMs) >= 0.95 * v.periodMs) return {}; // one fills it
    const auto fit = fitOf(scene);
    if (!fit || fit->explained < leastExplained || std::abs(fit->ofGpu - 1) > 0.25 || fit->ofCpu > 1.1) return {};
    // Over all frames: steadier than the slopes.
    const double beside = v.periodMs - v.gpu->meanMs;
    if (fit->ofCpu < leastOfCpu) return {0, std::max(0.0, beside), fit->explained};
    if (std::abs(fit->besideMs) > most * v.periodMs) return {};
    return {std::clamp(beside / v.cpu->meanMs, 0.0, 1.0), 0, fit->explained};
}

std::optional<Suspicion> turnsOf(const Scene& scene) {
    const auto& [cpuShare, ms, explained] = scene.verdict.beside;
    if (!(cpuShare > 0)) return std::nullopt;
    return Suspicion{Cause::Turns,
                     run::Lane::Frame,
                     std::min(0.9, 0.4 + 0.5 * explained),
                     {{Sign::TakesTurns, cpuShare, explained}}};
}

} // namespace impasto::limits
