// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/stats.h>

#include <cmath>
#include <impasto/stats/selection.h>
#include <numeric>

#include "welch.h"

namespace impasto::stats {
namespace {

/// Position offset m and weight of Hyndman and Fan's definitions.
double offset(int type, double p) {
    switch (type) {
    case 3:
        return -0.5;
    case 5:
        return 0.5;
    case 6:
        return p;
    case 7:
        return 1.0 - p;
    case 8:
        return (p + 1.0) / 3.0;
    case 9:
        return p / 4.0 + 0.375;
    default:
        return 0.0;
    }
}

double weight(int type, const Position& at) {
    switch (type) {
    case 1:
        return at.rest > 0 ? 1.0 : 0.0;
    case 2:
        return at.rest > 0 ? 1.0 : 0.5;
    case 3:
        return at.rest == 0 && std::fmod(at.whole, 2.0) == 0 ? 0.0 : 1.0;
    default:
        return at.rest;
    }
}

} // namespace

std::optional<double> quantile(std::span<const double> values, double p, int type) {
    if (values.empty()) return std::nullopt;
    const double n = static_cast<double>(values.size());
    const Position at = positionOf(n * p + offset(type, p));
    const double w = weight(type, at);
    const auto clamped = [&](double j) { return static_cast<std::ptrdiff_t>(std::clamp(j, 1.0, n)) - 1; };
    std::vector<double> copy(values.begin(), values.end());
    const auto lower = copy.begin() + clamped(at.whole);
    std::nth_element(copy.begin(), lower, copy.end());
    if (w == 0.0 || clamped(at.whole + 1) == clamped(at.whole)) return *lower;
    const double next = *std::min_element(lower + 1, copy.end());
    return (1.0 - w) * *lower + w * next;
}

std::optional<double> finiteMean(std::span<const double> values) {
    std::vector<double> finite;
    std::copy_if(values.begin(), values.end(), std::back_inserter(finite), [](double v) { return std::isfinite(v); });
    return mean(finite);
}

std::optional<double> mean(std::span<const double> values) {
    if (values.empty()) return std::nullopt;
    const double n = static_cast<double>(values.size());
    const double first = std::accumulate(values.begin(), values.end(), 0.0) / n;
    double rest = 0.0;
    for (const double v : values) rest += v - first;
    return first + rest / n;
}

std::optional<double> standardDeviation(std::span<const double> values) {
    if (values.size() < 2) return std::nullopt;
    const double m = *mean(values);
    double squares = 0.0, sum = 0.0;
    for (const double v : values) {
        squares += (v - m) * (v - m);
        sum += v - m;
    }
    const double n = static_cast<double>(values.size());
    return std::sqrt(std::max(0.0, (squares - sum * sum / n) / (n - 1.0)));
}

std::optional<Interval> meanInterval(std::span<const double> perRun, double confidence) {
    if (perRun.empty()) return std::nullopt;
    Interval out{*mean(perRun), {}, perRun.size()};
    if (const auto sd = standardDeviation(perRun); sd && *sd > 0) {
        const double n = static_cast<double>(perRun.size());
        out.halfWidth = studentQuantile(0.5 + confidence / 2, n - 1) * *sd / std::sqrt(n);
    }
    return out;
}

std::optional<Welch> welch(std::span<const double> before, std::span<const double> after,
                           std::span<const double> errorsBefore, std::span<const double> errorsAfter) {
    const auto sb = standardDeviation(before), sa = standardDeviation(after);
    if (!sb || !sa) return std::nullopt;
    const auto variance = [](double sd, std::span<const double> errors) {
        if (sd > 0) return sd * sd;
        double own = 0; // nothing varied by chance
        for (const double e : errors) own += e * e / static_cast<double>(errors.size());
        return own;
    };
    const double nb = static_cast<double>(before.size()), na = static_cast<double>(after.size());
    const double vb = variance(*sb, errorsBefore) / nb, va = variance(*sa, errorsAfter) / na;
    Welch out{*mean(after) - *mean(before), std::sqrt(vb + va), 1};
    if (vb + va > 0) out.degreesOfFreedom = (vb + va) * (vb + va) / (vb * vb / (nb - 1) + va * va / (na - 1));
    return out;
}

std::optional<Interval> differenceInterval(std::span<const double> before, std::span<const double> after,
                                           double confidence) {
    if (before.empty() || after.empty()) return std::nullopt;
    Interval out{*mean(after) - *mean(before), {}, before.size() + after.size()};
    if (const auto w = welch(before, after); w && w->standardError > 0)
        out.halfWidth = studentQuantile(0.5 + confidence / 2, w->degreesOfFreedom) * w->standardError;
    return out;
}

Histogram histogram(std::span<const double> values, double low, double high, std::size_t bins) {
    Histogram h{low, high, std::vector<std::size_t>(bins, 0)};
    for (const double v : values) {
        const double position = (v - low) / (high - low) * static_cast<double>(bins);
        ++h.counts[static_cast<std::size_t>(std::clamp(position, 0.0, static_cast<double>(bins) - 1.0))];
    }
    return h;
}

} // namespace impasto::stats
