// SPDX-License-Identifier: GPL-3.0-or-later
// Frame generation planned on the frames of the chosen settings (pace::GenerationPlan).
#pragma once

#include <impasto/pace/generate.h>
#include <impasto/results/stage.h>

namespace impasto::results {

std::size_t bytesOf(const pace::GenerationPlan& plan);
/// The plan with the most to say for it, where a rate is to be shown; nullptr without one.
const pace::GenerationOffer* bestGeneration(const Results& results);

std::vector<Stage> generationStages();

} // namespace impasto::results
