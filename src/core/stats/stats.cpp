// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/stats.h>

#include "distributions.h"
#include "rolling_median.h"

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

/// Quantiles of one copy, in rising order: each is looked for in what the one before left above it.
class Selection {
  public:
    explicit Selection(std::span<const double> values) : m_values(values.begin(), values.end()) {}

    /// Type 7.
    double quantile(double p) {
        const Position at = split(static_cast<double>(m_values.size() - 1) * p);
        const auto lower = select(static_cast<std::size_t>(at.whole));
        if (at.rest == 0 || lower + 1 == m_values.end()) return *lower;
        return (1.0 - at.rest) * *lower + at.rest * *std::min_element(lower + 1, m_values.end());
    }
    /// The last to be asked for; the slowest first.
    std::vector<double> slowest(std::size_t count) {
        count = std::min(count, m_values.size());
        auto from = select(m_values.size() - count);
        std::vector<double> out(from, m_values.end());
        std::sort(out.begin(), out.end(), std::greater<>());
        return out;
    }

  private:
    std::vector<double>::iterator select(std::size_t index) {
        const auto at = m_values.begin() + static_cast<std::ptrdiff_t>(index);
        if (index < m_from) m_from = 0; // asked for in another order, or of very few values
        std::nth_element(m_values.begin() + static_cast<std::ptrdiff_t>(m_from), at, m_values.end());
        m_from = index;
        return at;
    }

    std::vector<double> m_values;
    std::size_t m_from = 0; // all values before are at most as great
};

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
        if (const auto found = lowOf(Selection(frameMs).slowest(count), frameMs.size(), duration, share, school))
            return found;
}

namespace {

bool isHitch(double frameMs, double medianMs, const HitchRule& rule) {
    return frameMs > rule.ratio * medianMs && frameMs > medianMs + rule.excessMs;
}

} // namespace

std::vector<Hitch> hitches(std::span<const double> frameMs, const HitchRule& rule) {
    std::vector<Hitch> out;
    RollingMedian median(frameMs, rule.neighbours);
    double at = 0;
    for (std::size_t i = 0; i < frameMs.size(); ++i) {
        at += frameMs[i];
        const double middle = median.around(i);
        if (isHitch(frameMs[i], middle, rule)) out.push_back({i, at, frameMs[i], middle});
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

std::optional<Summary> summarize(std::span<const double> frameMs, std::optional<Fps> target, const HitchRule& rule) {
    if (frameMs.empty()) return std::nullopt;
    Summary s;
    s.frames = frameMs.size();
    s.durationMs = sumOf(frameMs);
    s.average = Fps(1000.0 * static_cast<double>(s.frames) / s.durationMs);
    Selection selection(frameMs);
    s.medianMs = selection.quantile(0.5);
    s.p95Ms = selection.quantile(0.95);
    // All that concerns the slowest percent, from what is left.
    const auto worst = selection.slowest(s.frames / 100 + 2);
    const auto of = [&](double share, run::LowSchool school) {
        const auto found = lowOf(worst, s.frames, s.durationMs, share, school);
        return found ? found : low(frameMs, share, school);
    };
    for (const auto school : {run::LowSchool::Percentile, run::LowSchool::WorstMean, run::LowSchool::TimeShare})
        s.lows[static_cast<std::size_t>(school)] = {of(0.01, school), of(0.001, school)};
    s.p99Ms = 1000 / s.of(run::LowSchool::Percentile).onePercent->rate.value();
    s.p999Ms = 1000 / s.of(run::LowSchool::Percentile).tenthPercent->rate.value();
    s.worstMs = worst.front();
    if (target) {
        const double budget = budgetOf(*target).value();
        const auto within = std::count_if(frameMs.begin(), frameMs.end(), [budget](double v) { return v <= budget; });
        s.withinBudget = static_cast<double>(within) / static_cast<double>(s.frames);
        s.worstDip = worstDip(frameMs, *target);
    }
    RollingMedian median(frameMs, rule.neighbours);
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
