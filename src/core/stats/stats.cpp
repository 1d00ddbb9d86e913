// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/stats.h>

#include "distributions.h"

#include <cmath>
#include <numeric>
#include <utility>

namespace impasto::stats {
namespace {

/// Whole part and rest of a position, where a rest within rounding of a whole number is none: 0.07 * 100 is 7.
struct Position {
    double whole, rest;
};
Position split(double position) {
    const double fuzz = 1e-12 * std::max(1.0, std::abs(position));
    const double nearest = std::round(position);
    if (std::abs(position - nearest) <= fuzz) return {nearest, 0.0};
    return {std::floor(position), position - std::floor(position)};
}

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

std::vector<double> slowest(std::span<const double> values, std::size_t count) {
    std::vector<double> copy(values.begin(), values.end());
    count = std::min(count, copy.size());
    std::nth_element(copy.begin(), copy.begin() + static_cast<std::ptrdiff_t>(count - 1), copy.end(), std::greater<>());
    copy.resize(count);
    std::sort(copy.begin(), copy.end(), std::greater<>());
    return copy;
}

// Lows from the slowest frames in order, as many as there are of n; nothing where they do not reach.

std::optional<Low> percentileLow(std::span<const double> worst, std::size_t n, double share) {
    // Type 7 from the slowest end: the position (n - 1) (1 - share) from the fastest one.
    const Position at = split(static_cast<double>(n - 1) * share);
    const auto i = static_cast<std::size_t>(at.whole);
    if (i + (at.rest > 0 ? 1 : 0) >= worst.size()) return std::nullopt;
    const double ms = at.rest > 0 ? (1 - at.rest) * worst[i] + at.rest * worst[i + 1] : worst[i];
    const Position count = split(share * static_cast<double>(n));
    return Low{Fps(1000.0 / ms), count.whole + (count.rest > 0 ? 1.0 : 0.0)};
}

std::optional<Low> worstMeanLow(std::span<const double> worst, std::size_t n, double share) {
    const Position count = split(share * static_cast<double>(n));
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

std::optional<Low> lowOf(std::span<const double> worst, std::size_t n, double durationMs, double share,
                         run::LowSchool school) {
    switch (school) {
    case run::LowSchool::Percentile:
        return percentileLow(worst, n, share);
    case run::LowSchool::WorstMean:
        return worstMeanLow(worst, n, share);
    case run::LowSchool::TimeShare:
        return timeShareLow(worst, n, share * durationMs);
    }
    return std::nullopt;
}

double sumOf(std::span<const double> values) {
    return std::accumulate(values.begin(), values.end(), 0.0);
}

} // namespace

std::optional<double> quantile(std::span<const double> values, double p, int type) {
    if (values.empty()) return std::nullopt;
    const double n = static_cast<double>(values.size());
    const Position at = split(n * p + offset(type, p));
    const double w = weight(type, at);
    const auto clamped = [&](double j) { return static_cast<std::ptrdiff_t>(std::clamp(j, 1.0, n)) - 1; };
    std::vector<double> copy(values.begin(), values.end());
    const auto lower = copy.begin() + clamped(at.whole);
    std::nth_element(copy.begin(), lower, copy.end());
    if (w == 0.0 || clamped(at.whole + 1) == clamped(at.whole)) return *lower;
    const double next = *std::min_element(lower + 1, copy.end());
    return (1.0 - w) * *lower + w * next;
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

std::optional<double> autocorrelation(std::span<const double> values) {
    if (values.size() < 2) return std::nullopt;
    const double m = *mean(values);
    double products = 0.0, squares = 0.0;
    for (std::size_t i = 0; i < values.size(); ++i) {
        squares += (values[i] - m) * (values[i] - m);
        if (i + 1 < values.size()) products += (values[i] - m) * (values[i + 1] - m);
    }
    if (squares <= 0) return std::nullopt;
    return products / squares;
}

std::optional<Interval> meanInterval(std::span<const double> perRun, double confidence) {
    if (perRun.empty()) return std::nullopt;
    Interval out{*mean(perRun), {}, perRun.size()};
    if (const auto sd = standardDeviation(perRun)) {
        const double n = static_cast<double>(perRun.size());
        out.halfWidth = studentQuantile(0.5 + confidence / 2, n - 1) * *sd / std::sqrt(n);
    }
    return out;
}

std::optional<Welch> welch(std::span<const double> before, std::span<const double> after) {
    const auto sb = standardDeviation(before), sa = standardDeviation(after);
    if (!sb || !sa) return std::nullopt;
    const double nb = static_cast<double>(before.size()), na = static_cast<double>(after.size());
    const double vb = *sb * *sb / nb, va = *sa * *sa / na;
    Welch out{*mean(after) - *mean(before), std::sqrt(vb + va), 1};
    if (vb + va > 0) out.degreesOfFreedom = (vb + va) * (vb + va) / (vb * vb / (nb - 1) + va * va / (na - 1));
    return out;
}

std::optional<Interval> differenceInterval(std::span<const double> before, std::span<const double> after,
                                           double confidence) {
    if (before.empty() || after.empty()) return std::nullopt;
    Interval out{*mean(after) - *mean(before), {}, before.size() + after.size()};
    if (const auto w = welch(before, after))
        out.halfWidth =
            w->standardError > 0 ? studentQuantile(0.5 + confidence / 2, w->degreesOfFreedom) * w->standardError : 0.0;
    return out;
}

std::optional<Low> low(std::span<const double> frameMs, double share, run::LowSchool school) {
    if (frameMs.empty()) return std::nullopt;
    const double duration = sumOf(frameMs);
    // The share of the frames is enough for every school; more are taken should rounding want one.
    for (std::size_t count = static_cast<std::size_t>(share * static_cast<double>(frameMs.size())) + 2;; count *= 2)
        if (const auto found = lowOf(slowest(frameMs, count), frameMs.size(), duration, share, school)) return found;
}

namespace {

constexpr std::size_t reach = 15;

/// The frames around one, kept in order while they slide.
class Around {
  public:
    explicit Around(std::span<const double> frameMs) : m_frames(frameMs) {
        for (std::size_t i = 0; i < std::min(reach, frameMs.size()); ++i) put(frameMs[i]);
    }
    /// The median around frame i, asked for one after the other.
    double medianAround(std::size_t i) {
        if (i + reach < m_frames.size()) put(m_frames[i + reach]);
        if (i > reach) take(m_frames[i - reach - 1]);
        return m_sorted[m_size / 2];
    }

  private:
    void put(double v) {
        auto* const end = m_sorted.data() + m_size;
        auto* const at = std::upper_bound(m_sorted.data(), end, v);
        std::copy_backward(at, end, end + 1);
        *at = v;
        ++m_size;
    }
    void take(double v) {
        auto* const end = m_sorted.data() + m_size;
        auto* const at = std::lower_bound(m_sorted.data(), end, v);
        std::copy(at + 1, end, at);
        --m_size;
    }

    std::span<const double> m_frames;
    std::array<double, 2 * reach + 2> m_sorted{};
    std::size_t m_size = 0;
};

bool isHitch(double frameMs, double medianMs) {
    return frameMs > 1.75 * medianMs && frameMs > medianMs + 4.0;
}

} // namespace

std::vector<Hitch> hitches(std::span<const double> frameMs) {
    std::vector<Hitch> out;
    Around around(frameMs);
    double at = 0;
    for (std::size_t i = 0; i < frameMs.size(); ++i) {
        at += frameMs[i];
        const double median = around.medianAround(i);
        if (isHitch(frameMs[i], median)) out.push_back({i, at, frameMs[i], median});
    }
    return out;
}

std::optional<Dip> worstDip(std::span<const double> frameMs, Fps target) {
    constexpr double windowMs = 500;
    std::optional<Dip> worst;
    double span = 0, at = 0, begun = 0;
    std::size_t first = 0;
    bool under = false, worstIsOpen = false;
    for (std::size_t i = 0; i < frameMs.size(); ++i) {
        at += frameMs[i];
        span += frameMs[i];
        while (span - frameMs[first] >= windowMs) span -= frameMs[first++];
        if (span < windowMs) continue; // the first half second
        const double rate = 1000 * static_cast<double>(i + 1 - first) / span;
        if (rate >= target.value()) {
            under = worstIsOpen = false;
            continue;
        }
        if (!std::exchange(under, true)) begun = at - span;
        if (!worst || rate < worst->lowest.value()) {
            worst = Dip{Fps(rate), at, 0};
            worstIsOpen = true;
        }
        if (worstIsOpen) worst->lengthMs = at - begun;
    }
    return worst;
}

std::optional<Summary> summarize(std::span<const double> frameMs, std::optional<Fps> target) {
    if (frameMs.empty()) return std::nullopt;
    Summary s;
    s.frames = frameMs.size();
    s.durationMs = sumOf(frameMs);
    s.average = Fps(1000.0 * static_cast<double>(s.frames) / s.durationMs);
    // All that concerns the slowest percent, from one selection.
    const auto worst = slowest(frameMs, s.frames / 100 + 2);
    const auto of = [&](double share, run::LowSchool school) {
        const auto found = lowOf(worst, s.frames, s.durationMs, share, school);
        return found ? found : low(frameMs, share, school);
    };
    for (const auto school : {run::LowSchool::Percentile, run::LowSchool::WorstMean, run::LowSchool::TimeShare})
        s.lows[static_cast<std::size_t>(school)] = {of(0.01, school), of(0.001, school)};
    s.medianMs = *quantile(frameMs, 0.5);
    s.p95Ms = *quantile(frameMs, 0.95);
    s.p99Ms = 1000 / s.of(run::LowSchool::Percentile).onePercent->rate.value();
    s.p999Ms = 1000 / s.of(run::LowSchool::Percentile).tenthPercent->rate.value();
    s.worstMs = worst.front();
    if (target) {
        const double budget = budgetOf(*target).value();
        const auto within = std::count_if(frameMs.begin(), frameMs.end(), [budget](double v) { return v <= budget; });
        s.withinBudget = static_cast<double>(within) / static_cast<double>(s.frames);
        s.worstDip = worstDip(frameMs, *target);
    }
    Around around(frameMs);
    double at = 0, squares = 0, steps = 0;
    for (std::size_t i = 0; i < frameMs.size(); ++i) {
        at += frameMs[i];
        const double median = around.medianAround(i), off = frameMs[i] - median;
        squares += off * off;
        if (i > 0) steps += std::abs(frameMs[i] - frameMs[i - 1]);
        if (!isHitch(frameMs[i], median)) continue;
        s.hitches.push_back({i, at, frameMs[i], median});
        s.lostMs += off;
    }
    s.spreadMs = std::sqrt(squares / static_cast<double>(s.frames));
    if (s.frames > 1) s.stepMs = steps / static_cast<double>(s.frames - 1);
    return s;
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
