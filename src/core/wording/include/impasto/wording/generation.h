// SPDX-License-Identifier: GPL-3.0-or-later
// Frame generation: kinds, plans, what they cost and what to watch.
#pragma once

#include <impasto/pace/generate.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

/// "built in", and where: "same GPU".
std::string generationKind(const Words& w, run::GenerationKind kind);
std::string generationPlace(const Words& w, const run::Generation& generation);
/// "\u00d72", or "adaptive to 116 fps".
std::string generationTimes(const Words& w, const run::Generation& generation);
/// "built in \u00d72: base 61, shown 122 fps".
std::string generationLine(const Words& w, const pace::GenerationOffer& offer);
/// "keeps up: 46% busy", "too slow: 97% busy".
std::string generationKeepsUp(const Words& w, const pace::GenerationOffer& offer);
/// "97% busy", where there is room for no more.
std::string generationBusy(const Words& w, const pace::GenerationOffer& offer);
/// The goal that it is likely to miss; empty where it meets both.
std::string generationMisses(const Words& w, const run::Brief& brief, const pace::GenerationOffer& offer);
/// What a player should know before, most important first.
std::vector<std::string> generationCautions(const Words& w, const run::Brief& brief, const pace::GenerationOffer& offer,
                                            std::optional<double> latencyWithout);
Why whyGeneration(const Words& w, const pace::GenerationPlan& plan);

} // namespace impasto::wording
