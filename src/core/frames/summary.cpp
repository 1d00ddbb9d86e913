// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/summary.h>

#include <cmath>
#include <impasto/frames/shape.h>
#include <impasto/stats/rolling_median.h>
#include <impasto/stats/selection.h>
#include <impasto/stats/stats.h>
#include <numeric>
#include <utility>

namespace impasto::frames {
namespace {

bool isHitch(double frameMs, double medianMs, const HitchRule& rule) {
    const double over = frameMs - medianMs;
    return over > rule.outrightMs || (frameMs > rule.ratio * medianMs && over > rule.excessMs);
}

} // namespace

std::vector<Hitch> hitches(std::span<const double> frameMs, const HitchRule& rule) {
    std::vector<Hitch> out;
    stats::RollingMedian median(frameMs, rule.neighbours);
    double at = 0;
    for (std::size_t i = 0; i < frameMs.size(); ++i) {
        at += frameMs[i];
        const double middle = median.around(i);
        if (isHitch(frameMs[i], middle, rule)) out.push_back({i, at, frameMs[i], middle});
    }
    return out;
}

namespace {

/// Of the frames of each whole second; 0 of a run too short to have a usual rate.
double usualFrames(std::span<const double> frameMs) {
    constexpr std::size_t fewestSeconds = 4;
    std::vector<double> rates;
    for (const auto& second : secondsOf(frameMs)) rates.push_back(second.average.value());
    return rates.size() < fewestSeconds ? 0 : *stats::quantile(rates, 0.5);
}

/// Without the usual frames at its ends.
Stall stallOf(std::span<const double> frameMs, std::size_t first, std::size_t last, double fromMs, double usualMs) {
    const double slow = 2 * usualMs;
    for (; first < last && frameMs[first] <= slow; ++first) fromMs += frameMs[first];
    while (last > first && frameMs[last - 1] <= slow) --last;
    const auto inside = frameMs.subspan(first, last - first);
    const double length = std::accumulate(inside.begin(), inside.end(), 0.0);
    return {fromMs, fromMs + length, inside.size(), length - usualMs * static_cast<double>(inside.size())};
}

} // namespace

std::vector<Stall> stalls(std::span<const double> frameMs) {
    constexpr double windowMs = 1000, fewestShare = 1.0 / 3;
    std::vector<Stall> out;
    const double usual = usualFrames(frameMs);
    if (usual <= 0) return out;
    double inside = 0, at = 0, openAt = 0; // of the frames [first, last), of the first one, of an open stall
    std::size_t open = 0, until = 0;       // an open stall's frames
    const auto close = [&] {
        const auto stall = stallOf(frameMs, open, until, openAt, windowMs / usual);
        if (stall.frames > 0) out.push_back(stall);
        until = 0;
    };
    for (std::size_t first = 0, last = 0; first < frameMs.size(); ++first) {
        while (last < frameMs.size() && inside < windowMs) inside += frameMs[last++];
        if (inside < windowMs) break;
        // The last of them ends after the second does.
        const bool few = static_cast<double>(last - first - 1) < fewestShare * usual;
        if (until > 0 && first >= until) close();
        if (few && until == 0) {
            open = first;
            openAt = at;
        }
        if (few) until = last;
        at += frameMs[first];
        inside -= frameMs[first];
    }
    if (until > 0) close();
    return out;
}

double Summary::stalledMs() const {
    double sum = 0;
    for (const auto& s : stalls) sum += s.toMs - s.fromMs;
    return sum;
}

double OnTime::mostMs() const {
    return refreshMs ? (refreshes() + 0.5) * *refreshMs : (1 + tolerance) * budgetOf(target).value();
}

int OnTime::refreshes() const {
    constexpr double rounding = 0.02; // of a refresh: a panel's rate is not exactly what it is called
    if (!refreshMs) return 0;
    return static_cast<int>(std::max(1.0, std::ceil(budgetOf(target).value() / *refreshMs - rounding)));
}

std::optional<double> halfRateShare(std::span<const double> frameMs, const OnTime& rule) {
    if (!rule.refreshMs || frameMs.empty()) return std::nullopt;
    const double least = (2 * rule.refreshes() - 0.5) * *rule.refreshMs;
    const auto count = std::count_if(frameMs.begin(), frameMs.end(), [least](double ms) { return ms > least; });
    return static_cast<double>(count) / static_cast<double>(frameMs.size());
}

double onTimeShare(std::span<const double> frameMs, const OnTime& rule) {
    if (frameMs.empty()) return 1;
    const double most = rule.mostMs();
    const auto count = std::count_if(frameMs.begin(), frameMs.end(), [most](double ms) { return ms <= most; });
    return static_cast<double>(count) / static_cast<double>(frameMs.size());
}

namespace {

/// Of frames that start `at` ms into the run.
std::optional<Dip> dipOf(std::span<const double> frameMs, Fps target, double at) {
    constexpr double windowMs = 500;
    std::optional<Dip> worst;
    double span = 0, begun = at;
    std::size_t first = 0;
    bool under = false, worstIsOpen = false;
    for (std::size_t i = 0; i < frameMs.size(); ++i) {
        at += frameMs[i];
        span += frameMs[i];
        while (span - frameMs[first] >= windowMs) span -= frameMs[first++];
        if (span < windowMs) continue; // the first half second
        const double frames = 1000 * static_cast<double>(i + 1 - first);
        if (frames >= target.value() * span) {
            under = worstIsOpen = false;
            continue;
        }
        const double rate = frames / span;
        if (!std::exchange(under, true)) begun = at - span;
        if (!worst || rate < worst->lowest.value()) {
            worst = Dip{Fps(rate), at, 0};
            worstIsOpen = true;
        }
        if (worstIsOpen) worst->lengthMs = at - begun;
    }
    return worst;
}

} // namespace

std::optional<Dip> worstDip(std::span<const double> frameMs, Fps under, std::span<const capture::PartRange> parts) {
    if (parts.size() < 2) return dipOf(frameMs, under, 0);
    std::optional<Dip> worst;
    double at = 0;
    for (const auto& part : parts) {
        const auto inside = frameMs.subspan(part.first, part.last - part.first);
        const double total = std::accumulate(inside.begin(), inside.end(), 0.0);
        const bool heavy = 1000 * static_cast<double>(inside.size()) < under.value() * total;
        const auto dip = heavy ? std::nullopt : dipOf(inside, under, at);
        if (dip && (!worst || dip->lowest < worst->lowest)) worst = dip;
        at += total;
    }
    return worst;
}

std::optional<Summary> summarize(std::span<const double> frameMs, const std::optional<OnTime>& onTime,
                                 const HitchRule& rule, std::span<const capture::PartRange> parts) {
    if (frameMs.empty()) return std::nullopt;
    Summary s;
    s.frames = frameMs.size();
    s.durationMs = std::accumulate(frameMs.begin(), frameMs.end(), 0.0);
    s.average = Fps(1000.0 * static_cast<double>(s.frames) / s.durationMs);
    stats::Selection selection(frameMs);
    s.medianMs = selection.quantile(0.5);
    s.p95Ms = selection.quantile(0.95);
    // All that concerns the slowest percent, from what is left.
    const auto worst = selection.slowest(s.frames / 100 + 2);
    const auto of = [&](double share, stats::LowRule counted) {
        const auto found = stats::lowFromSlowest(worst, s.frames, s.durationMs, share, counted);
        return found ? found : stats::low(frameMs, share, counted);
    };
    for (const auto each : stats::allLowRules)
        s.lows[static_cast<std::size_t>(each)] = {of(0.01, each), of(0.001, each)};
    s.p99Ms = 1000 / s.of(stats::LowRule::Percentile).onePercent->rate.value();
    s.p999Ms = 1000 / s.of(stats::LowRule::Percentile).tenthPercent->rate.value();
    s.worstMs = worst.front();
    if (onTime) {
        s.onTimeShare = onTimeShare(frameMs, *onTime);
        s.halfRateShare = halfRateShare(frameMs, *onTime);
        s.worstDip = worstDip(frameMs, onTime->dipUnder(), parts);
    }
    s.slowestSecond = s.fastestSecond = s.average;
    if (const auto seconds = secondsOf(frameMs); !seconds.empty()) {
        const auto [slowest, fastest] = std::minmax_element(
            seconds.begin(), seconds.end(), [](const Second& a, const Second& b) { return a.average < b.average; });
        s.slowestSecond = slowest->average;
        s.fastestSecond = fastest->average;
    }
    stats::RollingMedian median(frameMs, rule.neighbours);
    double at = 0, squares = 0, steps = 0, before = frameMs[0];
    for (std::size_t i = 0; i < frameMs.size(); ++i) {
        at += frameMs[i];
        const double middle = median.around(i), off = frameMs[i] - middle;
        squares += off * off;
        steps += std::abs(frameMs[i] - std::exchange(before, frameMs[i]));
        if (!isHitch(frameMs[i], middle, rule)) continue;
        s.hitches.push_back({i, at, frameMs[i], middle});
        s.lostMs += off;
    }
    s.stalls = stalls(frameMs);
    s.spreadMs = std::sqrt(squares / static_cast<double>(s.frames));
    if (s.frames > 1) s.stepMs = steps / static_cast<double>(s.frames - 1);
    return s;
}

} // namespace impasto::frames
