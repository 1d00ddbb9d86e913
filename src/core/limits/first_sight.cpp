// SPDX-License-Identifier: GPL-3.0-or-later
// Hitches where things are met for the first time: shaders that are compiled, or what is loaded on the way. They are in
// the first run of a route and hardly in those after it.
#include "evidence.h"

#include <impasto/frames/summary.h>
#include <impasto/stats/stats.h>

namespace impasto::limits {
namespace {

std::vector<double> framesIn(const Stretch& stretch) {
    std::vector<double> out;
    double at = 0;
    for (const double ms : stretch.capture->framesMs) {
        if (at >= stretch.fromMs && at < stretch.toMs) out.push_back(ms);
        at += ms;
    }
    return out;
}

} // namespace

double lostInHitches(std::span<const double> frames) {
    double lost = 0, all = 0;
    for (const double ms : frames) all += ms;
    for (const auto& hitch : frames::hitches(frames)) lost += hitch.frameMs - hitch.medianMs;
    return all > 0 ? lost / all : 0;
}

std::optional<FirstSightIn> firstSightBeside(double lost, std::span<const double> others) {
    constexpr double matters = 0.01, fewerByFactor = 4;
    const auto usual = stats::quantile(others, 0.5);
    if (!usual || lost < matters || lost < fewerByFactor * *usual) return std::nullopt;
    return FirstSightIn{*usual, others.size() > 1 ? 0.7 : 0.62}; // two runs may differ by chance, more hardly
}

std::optional<Suspicion> firstSightOf(const Scene& scene) {
    constexpr double mattersAlone = 0.03;
    if (scene.stretches.empty()) return std::nullopt;
    const double first = lostInHitches(framesIn(scene.stretches.front()));
    std::vector<double> later;
    for (std::size_t i = 1; i < scene.stretches.size(); ++i)
        later.push_back(lostInHitches(framesIn(scene.stretches[i])));
    if (later.empty()) {
        if (first < mattersAlone) return std::nullopt;
        return Suspicion{Cause::FirstSight, run::Lane::Frame, 0.35, {{Sign::LostInHitches, 100 * first, 0}}};
    }
    const auto found = firstSightBeside(first, later);
    if (!found) return std::nullopt;
    return Suspicion{
        Cause::FirstSight, run::Lane::Frame, found->sure, {{Sign::LostInFirstRun, 100 * first, 100 * found->usual}}};
}

} // namespace impasto::limits
