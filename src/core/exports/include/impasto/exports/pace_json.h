// SPDX-License-Identifier: GPL-3.0-or-later
// Pace as JSON (docs/formats.md): caps with every school, plans with invented frames, a headset's rates.
#pragma once

#include <impasto/pace/cap.h>
#include <impasto/pace/generate.h>
#include <impasto/pace/headset.h>
#include <impasto/pace/power.h>

namespace impasto::exports {

/// `power`: as far as the logs tell.
std::string capsJson(const pace::Replay& replay, const pace::CapOffers& offers, const std::optional<pace::Power>& power,
                     const pace::PowerRules& rules);
std::string generationJson(const pace::Replay& replay, const pace::GenerationPlan& plan);
std::string headsetJson(std::span<const pace::WornRate> rates, const std::optional<pace::Foveation>& foveation,
                        Hertz mode);
/// As keys: "not-needed", "use", ...
std::string_view keyOf(pace::FoveationAdvice advice);

} // namespace impasto::exports
