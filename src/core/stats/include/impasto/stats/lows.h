// SPDX-License-Identifier: GPL-3.0-or-later
// The slowest share of frames as one rate, counted in three ways (docs/method.md, Lows).
#pragma once

#include <impasto/base/quantity.h>
#include <optional>
#include <span>
#include <string_view>

namespace impasto::stats {

/// How lows are counted. Percentile: the frame time that the share exceeds. WorstMean: the mean of the slowest share of
/// the frames. TimeShare: the frame at which the slowest ones fill the share of the time.
enum class LowRule { Percentile, WorstMean, TimeShare };
inline constexpr LowRule allLowRules[]{LowRule::Percentile, LowRule::WorstMean, LowRule::TimeShare};
std::string_view keyOf(LowRule rule); // as files write it: "worst-mean"
std::optional<LowRule> lowRuleOf(std::string_view key);

/// A low and what it rests on.
struct Low {
    Fps rate;
    double frames = 0;
};
/// The low at `share` (0.01 or 0.001) of the frames. Nothing for no frames.
std::optional<Low> low(std::span<const double> frameMs, double share, LowRule rule);
/// The same from the slowest frames in order, as many as there are of `n` that last `durationMs` together; nothing
/// where they do not reach.
std::optional<Low> lowFromSlowest(std::span<const double> worst, std::size_t n, double durationMs, double share,
                                  LowRule rule);

} // namespace impasto::stats
