// SPDX-License-Identifier: GPL-3.0-or-later
// What the headset's runtime makes of the frames of the chosen settings; before there are any, of the newest baseline
// run.
#pragma once

#include <impasto/pace/headset.h>
#include <impasto/results/runs.h>

namespace impasto::results {

struct Worn {
    RunId run;  // whose frames
    Hertz mode; // that the target asks for
    std::vector<pace::WornRate> rates;
    std::vector<pace::LateFrame> late;
    std::optional<pace::Foveation> foveation;
    std::optional<frames::Distribution> cpu; // of the work; none where it is not told
    frames::Distribution gpu;
    double cpuMeanMs = 0, gpuMeanMs = 0, durationMs = 0;
    std::vector<capture::PartRange> parts;
    std::vector<double> partStartMs;
};
std::size_t bytesOf(const Worn& worn);

std::vector<Stage> headsetStages();

} // namespace impasto::results
