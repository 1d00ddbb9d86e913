// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/compare.h>

#include <cmath>

#include "welch.h"

namespace impasto::stats {
std::optional<Family> familyOf(std::span<const double> perRun, std::span<const double> standardErrors) {
    const auto interval = meanInterval(perRun);
    if (!interval) return std::nullopt;
    Family out{*interval, standardDeviation(perRun), {}, {}};
    if (standardErrors.empty()) return out;
    double squares = 0;
    for (const double e : standardErrors) squares += e * e;
    out.withinSd = std::sqrt(squares / static_cast<double>(standardErrors.size()));
    if (out.spreadSd)
        out.betweenSd = std::sqrt(std::max(0.0, *out.spreadSd * *out.spreadSd - *out.withinSd * *out.withinSd));
    return out;
}

std::optional<double> halfWidthAt(double sd, std::size_t runs, double confidence) {
    if (runs < 2) return std::nullopt;
    const double n = static_cast<double>(runs);
    return studentQuantile(0.5 + confidence / 2, n - 1) * sd / std::sqrt(n);
}

std::optional<std::size_t> runsFor(double sd, double wishedHalfWidth, std::size_t most, double confidence) {
    for (std::size_t n = 2; n <= most; ++n)
        if (*halfWidthAt(sd, n, confidence) <= wishedHalfWidth) return n;
    return std::nullopt;
}

std::optional<double> equivalenceP(std::span<const double> before, std::span<const double> after, double margin) {
    const auto w = welch(before, after);
    if (!w || w->standardError <= 0) return std::nullopt;
    const double low = 1 - studentCdf((w->difference + margin) / w->standardError, w->degreesOfFreedom);
    const double high = studentCdf((w->difference - margin) / w->standardError, w->degreesOfFreedom);
    return std::max(low, high);
}

namespace {

void judge(Comparison& c, const Interval& narrow, double margin) {
    c.verdict = Verdict::NotEnoughRuns;
    c.largest = 0;
    if (!c.difference.halfWidth || !narrow.halfWidth) return;
    c.largest = std::abs(narrow.estimate) + *narrow.halfWidth;
    if (c.difference.excludesZero())
        c.verdict = Verdict::Differs;
    else if (c.largest < margin)
        c.verdict = Verdict::NoLargerDifference;
}

/// Ends of the exact interval of a rate.
std::pair<double, double> rateLimits(const Count& count, double confidence) {
    const double tail = (1 - confidence) / 2;
    const double low = count.events > 0 ? poissonLimit(count.events, tail) : 0;
    return {low / count.exposure, poissonLimit(count.events + 1, 1 - tail) / count.exposure};
}

std::optional<double> differenceHalfWidth(const Count& before, const Count& after, double confidence) {
    if (!(before.exposure > 0) || !(after.exposure > 0)) return std::nullopt;
    const auto [lowBefore, highBefore] = rateLimits(before, confidence);
    const auto [lowAfter, highAfter] = rateLimits(after, confidence);
    const double b = before.events / before.exposure, a = after.events / after.exposure;
    return std::max(std::hypot(a - lowAfter, highBefore - b), std::hypot(highAfter - a, b - lowBefore));
}

} // namespace

std::optional<Comparison> compare(std::span<const double> before, std::span<const double> after, double margin,
                                  std::span<const double> errorsBefore, std::span<const double> errorsAfter) {
    if (before.empty() || after.empty()) return std::nullopt;
    const auto w = welch(before, after, errorsBefore, errorsAfter);
    const auto interval = [&](double confidence) {
        Interval out{*mean(after) - *mean(before), {}, before.size() + after.size()};
        if (w && w->standardError > 0)
            out.halfWidth = studentQuantile(0.5 + confidence / 2, w->degreesOfFreedom) * w->standardError;
        return out;
    };
    Comparison out{*meanInterval(before), *meanInterval(after), interval(0.95), 0, Verdict::NotEnoughRuns};
    judge(out, interval(0.90), margin);
    return out;
}

std::optional<double> rateHalfWidth(const Count& count, double confidence) {
    if (!(count.exposure > 0)) return std::nullopt;
    const auto [low, high] = rateLimits(count, confidence);
    const double rate = count.events / count.exposure;
    return std::max(rate - low, high - rate);
}

std::optional<double> wider(const std::optional<double>& a, const std::optional<double>& b) {
    if (!a || !b) return a ? a : b;
    return std::max(*a, *b);
}

Comparison compareCounts(Comparison c, const Count& before, const Count& after, double margin) {
    Interval narrow = c.difference;
    // Where the runs tell no interval of their own, the counts do.
    if (c.difference.halfWidth) narrow.halfWidth = std::max(0.0, c.largest - std::abs(c.difference.estimate));
    c.before.halfWidth = wider(c.before.halfWidth, rateHalfWidth(before));
    c.after.halfWidth = wider(c.after.halfWidth, rateHalfWidth(after));
    c.difference.halfWidth = wider(c.difference.halfWidth, differenceHalfWidth(before, after, 0.95));
    narrow.halfWidth = wider(narrow.halfWidth, differenceHalfWidth(before, after, 0.90));
    judge(c, narrow, margin);
    return c;
}

} // namespace impasto::stats
