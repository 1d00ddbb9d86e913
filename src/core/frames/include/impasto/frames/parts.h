// SPDX-License-Identifier: GPL-3.0-or-later
// The parts of a run: mean work and period of each, and what they come to over a route.
#pragma once

#include <impasto/run/run.h>
#include <span>

namespace impasto::frames {

/// Whether a work column never moves (its middle half within 0.7% of its median): it is a wait then, not work.
bool standsStill(std::span<const double> work);
/// Whether a work column lasts whole refreshes (nine of ten frames within 3% of a multiple): where a headset's runtime
/// paces the frames, that is a wait for it.
bool waitsForRefresh(std::span<const double> work, double refreshMs);

/// Mean work and period of one part of one run. A lane that the log does not tell is missing.
struct PartMeans {
    std::string part;
    std::size_t frames = 0;
    double periodMs = 0; // mean frame time
    std::optional<double> cpuMs, gpuMs;
    [[nodiscard]] std::optional<double> of(run::Lane lane) const;
};
/// Per part, in route order. A work column that stands still is treated as missing; so is one that keeps one rate, or
/// that waits for the refresh, where the frames are paced to one.
std::vector<PartMeans> partMeans(const capture::Capture& capture, std::optional<double> pacedMs = {});
/// The parts' means weighted by the parts' seconds of the route; parts the route does not know weigh by their own time.
std::optional<double> routeMean(std::span<const PartMeans> parts, const game::Route* route, run::Lane lane);

} // namespace impasto::frames
