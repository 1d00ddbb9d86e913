// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/lows.h>

#include <cmath>
#include <impasto/base/keys.h>
#include <impasto/stats/selection.h>
#include <numeric>

namespace impasto::stats {
namespace {

constexpr Keys<LowRule, 3> rules{
    {{LowRule::Percentile, "percentile"}, {LowRule::WorstMean, "worst-mean"}, {LowRule::TimeShare, "time-share"}}};

// Lows from the slowest frames in order, as many as there are of n; nothing where they do not reach.

std::optional<Low> percentileLow(std::span<const double> worst, std::size_t n, double share) {
    // Type 7 from the slowest end: the position (n - 1) (1 - share) from the fastest one.
    const Position at = positionOf(static_cast<double>(n - 1) * share);
    const auto i = static_cast<std::size_t>(at.whole);
    if (i + (at.rest > 0 ? 1 : 0) >= worst.size()) return std::nullopt;
    const double ms = at.rest > 0 ? (1 - at.rest) * worst[i] + at.rest * worst[i + 1] : worst[i];
    const Position count = positionOf(share * static_cast<double>(n));
    return Low{Fps(1000.0 / ms), count.whole + (count.rest > 0 ? 1.0 : 0.0)};
}

std::optional<Low> worstMeanLow(std::span<const double> worst, std::size_t n, double share) {
    const Position count = positionOf(share * static_cast<double>(n));
    const double frames = count.whole + count.rest;
    if (std::ceil(frames) > static_cast<double>(worst.size())) return std::nullopt;
    double sum = 0.0;
    for (std::size_t i = 0; i < worst.size() && static_cast<double>(i) < frames; ++i)
        sum += worst[i] * std::min(1.0, frames - static_cast<double>(i));
    return Low{Fps(1000.0 * frames / sum), std::ceil(frames)};
}

std::optional<Low> timeShareLow(std::span<const double> worst, std::size_t n, double wantedMs) {
    double sum = 0.0;
    for (std::size_t i = 0; i < worst.size(); ++i) {
        sum += worst[i];
        if (sum >= wantedMs || i + 1 == n) return Low{Fps(1000.0 / worst[i]), static_cast<double>(i + 1)};
    }
    return std::nullopt;
}

} // namespace

std::string_view keyOf(LowRule rule) {
    return keyIn(rules, rule);
}
std::optional<LowRule> lowRuleOf(std::string_view key) {
    return valueIn(rules, key);
}

std::optional<Low> lowFromSlowest(std::span<const double> worst, std::size_t n, double durationMs, double share,
                                  LowRule rule) {
    switch (rule) {
    case LowRule::Percentile:
        return percentileLow(worst, n, share);
    case LowRule::WorstMean:
        return worstMeanLow(worst, n, share);
    case LowRule::TimeShare:
        return timeShareLow(worst, n, share * durationMs);
    }
    return std::nullopt;
}

std::optional<Low> low(std::span<const double> frameMs, double share, LowRule rule) {
    if (frameMs.empty()) return std::nullopt;
    const double duration = std::accumulate(frameMs.begin(), frameMs.end(), 0.0);
    // The share of the frames is enough for every rule; more are taken should rounding want one.
    for (std::size_t count = static_cast<std::size_t>(share * static_cast<double>(frameMs.size())) + 2;; count *= 2)
        if (const auto found = lowFromSlowest(Selection(frameMs).slowest(count), frameMs.size(), duration, share, rule))
            return found;
}

} // namespace impasto::stats
