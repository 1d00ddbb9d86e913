// SPDX-License-Identifier: GPL-3.0-or-later
// Every rule for a cap, on the frames of the chosen settings.
#pragma once

#include <impasto/pace/cap.h>
#include <impasto/results/runs.h>

namespace impasto::results {

struct CapView {
    pace::Replay replay;
    RunId run; // whose frames
    std::vector<pace::CapOffer> offers;
    std::vector<pace::CapPrediction> curve;
};
std::size_t bytesOf(const CapView& view);

std::vector<Stage> paceStages();

} // namespace impasto::results
