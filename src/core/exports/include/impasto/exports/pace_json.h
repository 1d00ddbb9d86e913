// SPDX-License-Identifier: GPL-3.0-or-later
// Pace as JSON (docs/formats.md): caps with every school, plans with invented frames, a headset's rates.
#pragma once

#include <impasto/pace/cap.h>
#include <impasto/pace/generate.h>
#include <impasto/pace/headset.h>

namespace impasto::exports {

std::string capsJson(const pace::Replay& replay, const pace::CapOffers& offers);
std::string generationJson(const pace::Replay& replay, const pace::GenerationPlan& plan);
std::string headsetJson(std::span<const pace::WornRate> rates, const std::optional<pace::Foveation>& foveation,
                        Hertz mode);
/// As keys: "not-needed", "use", ...
std::string_view keyOf(pace::FoveationAdvice advice);

} // namespace impasto::exports
