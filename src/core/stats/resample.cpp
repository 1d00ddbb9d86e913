// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/resample.h>

#include "distributions.h"

#include <cmath>
#include <impasto/base/random.h>
#include <numeric>

namespace impasto::stats {
namespace {

/// Autocovariances by lag, each computed when it is asked for.
class Autocovariance {
  public:
    explicit Autocovariance(std::span<const double> values) : m_values(values.begin(), values.end()) {
        const double m = *mean(values);
        for (double& v : m_values) v -= m;
    }
    double at(std::size_t lag) {
        while (m_known.size() <= lag) {
            double sum = 0;
            const std::size_t k = m_known.size();
            for (std::size_t i = 0; i + k < m_values.size(); ++i) sum += m_values[i] * m_values[i + k];
            m_known.push_back(sum / static_cast<double>(m_values.size()));
        }
        return m_known[lag];
    }
    double correlation(std::size_t lag) { return at(lag) / at(0); }
    [[nodiscard]] std::size_t size() const { return m_values.size(); }

  private:
    std::vector<double> m_values, m_known;
};

constexpr std::size_t longestLag = 2000;

/// The lag behind which the correlation is nothing: the first of several in a row inside the noise band.
std::size_t lastCorrelatedLag(Autocovariance& covariance) {
    const double n = static_cast<double>(covariance.size()), logN = std::log10(n);
    const double band = 2 * std::sqrt(logN / n);
    const auto wanted = static_cast<std::size_t>(std::max(5.0, std::sqrt(logN)));
    const std::size_t last = std::min(longestLag, covariance.size() / 4);
    std::size_t quiet = 0;
    for (std::size_t lag = 1; lag <= last; ++lag) {
        quiet = std::abs(covariance.correlation(lag)) < band ? quiet + 1 : 0;
        if (quiet == wanted) return lag - wanted;
    }
    return last;
}

/// Blocks of circles of values, of geometric length with the given mean, until as many values are there as each circle
/// has.
class Blocks {
  public:
    /// The circles begin at `starts` (0 first) and end with the next, the last one at n.
    Blocks(std::size_t n, std::span<const std::size_t> starts, double meanLength, std::uint64_t seed)
        : m_starts(starts.begin(), starts.end()), m_logStay(std::log(1 - 1 / std::max(1.0 + 1e-9, meanLength))),
          m_stream(seed, "blocks") {
        if (m_starts.empty()) m_starts.push_back(0);
        m_starts.push_back(n);
    }
    /// Tells each run of neighbours [first, last) once.
    template <class Told>
    void draw(Told told) {
        for (std::size_t i = 0; i + 1 < m_starts.size(); ++i) fill(m_starts[i], m_starts[i + 1] - m_starts[i], told);
    }

  private:
    template <class Told>
    void fill(std::size_t start, std::size_t n, Told told) {
        for (std::size_t left = n; left > 0;) {
            const auto first = static_cast<std::size_t>(m_stream.below(n));
            const double drawn = std::floor(std::log(1 - m_stream.uniform()) / m_logStay);
            const std::size_t length =
                drawn >= static_cast<double>(left) ? left : std::min(left, static_cast<std::size_t>(drawn) + 1);
            left -= length;
            const std::size_t straight = std::min(length, n - first);
            told(start + first, start + first + straight);
            if (length > straight) told(start, start + length - straight);
        }
    }

    std::vector<std::size_t> m_starts;
    double m_logStay;
    RandomStream m_stream;
};

std::vector<double> runningSums(std::span<const double> values) {
    std::vector<double> out(values.size() + 1, 0.0);
    std::partial_sum(values.begin(), values.end(), out.begin() + 1);
    return out;
}

Doubt doubtFrom(const std::vector<double>& figures, double confidence) {
    const double tail = (1 - confidence) / 2;
    return {standardDeviation(figures).value_or(0), *quantile(figures, tail), *quantile(figures, 1 - tail)};
}

/// The slow frames of one resample, as counts by rank: what every school of low needs.
class Tail {
  public:
    Tail(std::span<const double> frameMs, std::size_t ranks) {
        std::vector<std::size_t> order(frameMs.size());
        std::iota(order.begin(), order.end(), std::size_t{0});
        const auto slower = [&](std::size_t a, std::size_t b) {
            return frameMs[a] != frameMs[b] ? frameMs[a] > frameMs[b] : a < b;
        };
        std::partial_sort(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(ranks), order.end(), slower);
        order.resize(ranks);
        for (std::size_t r = 0; r < ranks; ++r) {
            m_ms.push_back(frameMs[order[r]]);
            m_placed.emplace_back(order[r], r);
        }
        std::sort(m_placed.begin(), m_placed.end());
        m_counts.resize(ranks);
    }
    void clear() { std::fill(m_counts.begin(), m_counts.end(), 0U); }
    void add(std::size_t first, std::size_t last) {
        auto it = std::lower_bound(m_placed.begin(), m_placed.end(), std::pair(first, std::size_t{0}));
        for (; it != m_placed.end() && it->first < last; ++it) ++m_counts[it->second];
    }
    /// The rate of the low, or nothing where the ranks do not reach.
    [[nodiscard]] std::optional<double> rate(run::LowSchool school, double share, std::size_t n,
                                             double durationMs) const {
        switch (school) {
        case run::LowSchool::Percentile: {
            const double position = static_cast<double>(n - 1) * share; // from the slowest
            const double whole = std::round(position);
            const double at = std::abs(position - whole) < 1e-12 * static_cast<double>(n) ? whole : position;
            const auto slower = nth(static_cast<std::size_t>(at)),
                       faster = nth(static_cast<std::size_t>(std::ceil(at)));
            if (!slower || !faster) return std::nullopt;
            return 1000 / (*slower + (at - std::floor(at)) * (*faster - *slower));
        }
        case run::LowSchool::WorstMean:
            return worstMean(share * static_cast<double>(n));
        case run::LowSchool::TimeShare: {
            double sum = 0;
            for (std::size_t r = 0; r < m_ms.size(); ++r) {
                sum += m_counts[r] * m_ms[r];
                if (m_counts[r] > 0 && sum >= share * durationMs) return 1000 / m_ms[r];
            }
            return std::nullopt;
        }
        }
        return std::nullopt;
    }

  private:
    [[nodiscard]] std::optional<double> nth(std::size_t index) const {
        std::size_t seen = 0;
        for (std::size_t r = 0; r < m_ms.size(); ++r)
            if ((seen += m_counts[r]) > index) return m_ms[r];
        return std::nullopt;
    }
    [[nodiscard]] std::optional<double> worstMean(double frames) const {
        double sum = 0, left = frames;
        for (std::size_t r = 0; r < m_ms.size() && left > 0; ++r) {
            const double taken = std::min(left, static_cast<double>(m_counts[r]));
            sum += taken * m_ms[r];
            left -= taken;
        }
        if (left > 0) return std::nullopt;
        return 1000 * frames / sum;
    }

    std::vector<double> m_ms;                                  // slowest first
    std::vector<std::pair<std::size_t, std::size_t>> m_placed; // frame, rank
    std::vector<unsigned> m_counts;
};

/// Without the differences between the stretches, which are no correlation of the noise.
std::vector<double> levelled(std::span<const double> values, std::span<const std::size_t> stretches) {
    std::vector<double> out(values.begin(), values.end());
    for (std::size_t i = 0; i < stretches.size(); ++i) {
        const std::size_t first = stretches[i], last = i + 1 < stretches.size() ? stretches[i + 1] : values.size();
        const double level = *mean(values.subspan(first, last - first));
        for (std::size_t k = first; k < last; ++k) out[k] -= level;
    }
    return out;
}

constexpr std::array<run::LowSchool, 3> schools{run::LowSchool::Percentile, run::LowSchool::WorstMean,
                                                run::LowSchool::TimeShare};

/// Of a quantile, from how the share of frames up to it varies between resamples (Woodruff 1952): the quantiles at the
/// ends of the share's interval.
class ShareUpTo {
  public:
    ShareUpTo(std::span<const double> frameMs, double share) : m_frames(frameMs), m_upTo(frameMs.size() + 1, 0) {
        const double limit = *quantile(frameMs, share);
        for (std::size_t i = 0; i < frameMs.size(); ++i) m_upTo[i + 1] = m_upTo[i] + (frameMs[i] <= limit ? 1U : 0U);
    }
    void clear() { m_count = 0; }
    void add(std::size_t first, std::size_t last) { m_count += m_upTo[last] - m_upTo[first]; }
    void keep() { m_shares.push_back(static_cast<double>(m_count) / static_cast<double>(m_frames.size())); }
    [[nodiscard]] Doubt doubt(double confidence) const {
        const auto share = doubtFrom(m_shares, confidence);
        Doubt out{0, *quantile(m_frames, share.low), *quantile(m_frames, share.high)};
        out.standardError = (out.high - out.low) / (2 * normalQuantile(0.5 + confidence / 2));
        return out;
    }

  private:
    std::span<const double> m_frames;
    std::vector<std::uint32_t> m_upTo; // frames before each one
    std::uint64_t m_count = 0;
    std::vector<double> m_shares;
};

/// Of frame times from the rates they make.
Doubt inMs(std::vector<double> rates, double confidence) {
    for (double& v : rates) v = 1000 / v;
    return doubtFrom(rates, confidence);
}

/// Nothing where a resample needs more ranks than there are.
std::optional<RunDoubt> doubtWith(std::span<const double> frameMs, const Resampling& how,
                                  std::span<const std::size_t> stretches, double meanLength, std::size_t ranks) {
    const std::size_t n = frameMs.size();
    const auto sums = runningSums(frameMs);
    Tail tail(frameMs, ranks);
    Blocks blocks(n, stretches, meanLength, how.seed);
    ShareUpTo half(frameMs, 0.5), most(frameMs, 0.95);
    std::vector<double> averages;
    std::array<std::array<std::vector<double>, 2>, 3> lows;
    for (std::size_t b = 0; b < how.resamples; ++b) {
        tail.clear();
        half.clear();
        most.clear();
        double duration = 0;
        blocks.draw([&](std::size_t first, std::size_t last) {
            duration += sums[last] - sums[first];
            tail.add(first, last);
            half.add(first, last);
            most.add(first, last);
        });
        half.keep();
        most.keep();
        averages.push_back(1000 * static_cast<double>(n) / duration);
        for (std::size_t s = 0; s < schools.size(); ++s)
            for (std::size_t which = 0; which < 2; ++which) {
                const auto rate = tail.rate(schools[s], which == 0 ? 0.01 : 0.001, n, duration);
                if (!rate) return std::nullopt;
                lows[s][which].push_back(*rate);
            }
    }
    RunDoubt out;
    out.blockLength = meanLength;
    out.average = doubtFrom(averages, how.confidence);
    out.median = half.doubt(how.confidence);
    out.p95 = most.doubt(how.confidence);
    out.p99 = inMs(lows[static_cast<std::size_t>(run::LowSchool::Percentile)][0], how.confidence);
    out.p999 = inMs(lows[static_cast<std::size_t>(run::LowSchool::Percentile)][1], how.confidence);
    for (std::size_t s = 0; s < schools.size(); ++s) {
        out.onePercentLow[s] = doubtFrom(lows[s][0], how.confidence);
        out.tenthPercentLow[s] = doubtFrom(lows[s][1], how.confidence);
    }
    return out;
}

} // namespace

std::optional<double> effectiveSize(std::span<const double> values) {
    const auto sd = standardDeviation(values);
    if (!sd || *sd == 0) return std::nullopt;
    Autocovariance covariance(values);
    const double n = static_cast<double>(values.size());
    double sum = 0;
    for (std::size_t lag = 1; lag + 1 < std::min(values.size(), longestLag); lag += 2) {
        const double pair = covariance.correlation(lag) + covariance.correlation(lag + 1);
        if (pair <= 0) break;
        sum += pair;
    }
    return std::min(n, n / (1 + 2 * sum));
}

double blockLength(std::span<const double> values) {
    const auto sd = standardDeviation(values);
    if (values.size() < 10 || !sd || *sd == 0) return 1;
    Autocovariance covariance(values);
    const double n = static_cast<double>(values.size());
    const std::size_t window = 2 * std::max<std::size_t>(1, lastCorrelatedLag(covariance));
    double spectrum = covariance.at(0), slope = 0;
    for (std::size_t lag = 1; lag <= std::min(window, values.size() - 1); ++lag) {
        const double share = static_cast<double>(lag) / static_cast<double>(window);
        const double weight = share <= 0.5 ? 1 : 2 * (1 - share);
        spectrum += 2 * weight * covariance.at(lag);
        slope += 2 * weight * static_cast<double>(lag) * covariance.at(lag);
    }
    const double most = std::max(1.0, std::ceil(std::min(3 * std::sqrt(n), n / 3)));
    if (spectrum <= 0) return 1;
    return std::clamp(std::cbrt(2 * slope * slope / (2 * spectrum * spectrum) * n), 1.0, most);
}

std::optional<Doubt> doubtOfMean(std::span<const double> values, const Resampling& how) {
    if (values.size() < 2 || how.resamples < 2) return std::nullopt;
    const auto sums = runningSums(values);
    Blocks blocks(values.size(), {}, how.blockLength.value_or(blockLength(values)), how.seed);
    std::vector<double> means;
    for (std::size_t b = 0; b < how.resamples; ++b) {
        double sum = 0;
        blocks.draw([&](std::size_t first, std::size_t last) { sum += sums[last] - sums[first]; });
        means.push_back(sum / static_cast<double>(values.size()));
    }
    return doubtFrom(means, how.confidence);
}

std::vector<std::size_t> stretchesOf(const capture::Capture& capture) {
    constexpr double longestMs = 10000;
    std::vector<std::size_t> out;
    for (const auto& part : capture::partsOf(capture)) {
        const auto first = capture.framesMs.begin() + static_cast<std::ptrdiff_t>(part.first),
                   last = capture.framesMs.begin() + static_cast<std::ptrdiff_t>(part.last);
        const auto pieces = static_cast<std::size_t>(std::ceil(std::accumulate(first, last, 0.0) / longestMs));
        for (std::size_t i = 0; i < std::max<std::size_t>(1, pieces); ++i)
            out.push_back(part.first + i * (part.last - part.first) / std::max<std::size_t>(1, pieces));
    }
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

std::optional<RunDoubt> doubtOf(std::span<const double> frameMs, const Resampling& how,
                                std::span<const std::size_t> stretches) {
    const std::size_t n = frameMs.size();
    if (n < 10 || how.resamples < 2) return std::nullopt;
    const double length = how.blockLength.value_or(blockLength(levelled(frameMs, stretches)));
    // Eight times the slowest percent holds the slowest percent of nearly every resample.
    const std::size_t usual = std::min(n, n / 12 + 64);
    if (auto doubt = doubtWith(frameMs, how, stretches, length, usual)) return doubt;
    return doubtWith(frameMs, how, stretches, length, n);
}

std::optional<RunDoubt> doubtOf(const capture::Capture& capture, const Resampling& how) {
    return doubtOf(capture.framesMs, how, stretchesOf(capture));
}

} // namespace impasto::stats
