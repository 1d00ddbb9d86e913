// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/doubt.h>

#include <cmath>
#include <impasto/stats/blocks.h>
#include <impasto/stats/selection.h>
#include <numeric>

namespace impasto::frames {
namespace {

using stats::Doubt;

/// Runs up to this length are drawn again frame by frame (blocks may start anywhere, stationary bootstrap); longer ones
/// in whole cells of neighbours, whose sums are taken once.
constexpr std::size_t shortRun = 100000;
constexpr std::size_t mostCells = 8000;

/// What a stretch of neighbours adds to a resample.
struct Sums {
    double ms = 0;
    std::uint32_t half = 0, most = 0; // frames up to the median, and to the 95th percentile
    std::uint32_t slow = 0;           // slow frames
    std::uint32_t frames = 0;
    void add(const Sums& other, int sign = 1) {
        ms += sign * other.ms;
        half += static_cast<std::uint32_t>(sign) * other.half;
        most += static_cast<std::uint32_t>(sign) * other.most;
        slow += static_cast<std::uint32_t>(sign) * other.slow;
        frames += static_cast<std::uint32_t>(sign) * other.frames;
    }
};

/// The slow frames of one resample, as counts by rank: what every rule of lows needs.
class Tail {
  public:
    Tail(std::span<const double> frameMs, std::size_t ranks) {
        std::vector<double> copy(frameMs.begin(), frameMs.end());
        const auto nth = copy.begin() + static_cast<std::ptrdiff_t>(ranks - 1);
        std::nth_element(copy.begin(), nth, copy.end(), std::greater<>());
        const double least = *nth;
        const auto above =
            static_cast<std::size_t>(std::count_if(copy.begin(), copy.end(), [least](double v) { return v > least; }));
        std::size_t equals = ranks - above; // of those that are as slow as the last one, the first of the run
        for (std::size_t i = 0; i < frameMs.size(); ++i)
            if (frameMs[i] > least || (frameMs[i] == least && equals > 0 && equals-- > 0)) m_frame.push_back(i);
        std::vector<std::uint32_t> order(ranks);
        std::iota(order.begin(), order.end(), 0U);
        std::stable_sort(order.begin(), order.end(),
                         [&](std::uint32_t a, std::uint32_t b) { return frameMs[m_frame[a]] > frameMs[m_frame[b]]; });
        m_rank.resize(ranks);
        for (std::size_t r = 0; r < ranks; ++r) {
            m_rank[order[r]] = static_cast<std::uint32_t>(r);
            m_ms.push_back(frameMs[m_frame[order[r]]]);
        }
        m_counts.resize(ranks);
    }
    /// The slow frames of the run in its order.
    [[nodiscard]] const std::vector<std::size_t>& frames() const { return m_frame; }
    void clear() { std::fill(m_counts.begin(), m_counts.end(), 0U); }
    /// The slow frames [first, last) of frames().
    void add(std::uint32_t first, std::uint32_t last) {
        for (std::uint32_t i = first; i < last; ++i) ++m_counts[m_rank[i]];
    }
    /// The rate of the low, or nothing where the ranks do not reach.
    [[nodiscard]] std::optional<double> rate(stats::LowRule rule, double share, std::size_t n,
                                             double durationMs) const {
        switch (rule) {
        case stats::LowRule::Percentile: {
            const double position = static_cast<double>(n - 1) * share; // from the slowest
            const double whole = std::round(position);
            const double at = std::abs(position - whole) < 1e-12 * static_cast<double>(n) ? whole : position;
            const auto slower = nth(static_cast<std::size_t>(at)),
                       faster = nth(static_cast<std::size_t>(std::ceil(at)));
            if (!slower || !faster) return std::nullopt;
            return 1000 / (*slower + (at - std::floor(at)) * (*faster - *slower));
        }
        case stats::LowRule::WorstMean:
            return worstMean(share * static_cast<double>(n));
        case stats::LowRule::TimeShare: {
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

    std::vector<std::size_t> m_frame;  // in the order of the run
    std::vector<std::uint32_t> m_rank; // of each of them
    std::vector<double> m_ms;          // slowest first
    std::vector<std::uint32_t> m_counts;
};

/// The run's sums before each of some frames.
class Prefix {
  public:
    Prefix(std::span<const double> frameMs, const Tail& tail, double median, double p95, std::size_t cell) {
        const auto& slow = tail.frames();
        Sums now;
        m_before.reserve(frameMs.size() / cell + 2);
        for (std::size_t i = 0; i < frameMs.size(); ++i) {
            if (i % cell == 0) m_before.push_back(now);
            now.ms += frameMs[i];
            ++now.frames;
            now.half += frameMs[i] <= median ? 1U : 0U;
            now.most += frameMs[i] <= p95 ? 1U : 0U;
            now.slow += now.slow < slow.size() && slow[now.slow] == i ? 1U : 0U;
        }
        m_before.push_back(now);
    }
    /// Cells of the run; the last one may be shorter.
    [[nodiscard]] std::size_t cells() const { return m_before.size() - 1; }
    [[nodiscard]] const Sums& before(std::size_t cell) const { return m_before[cell]; }

  private:
    std::vector<Sums> m_before;
};

/// Without the differences between the stretches, which are no correlation of the noise.
std::vector<double> levelled(std::span<const double> values, std::span<const std::size_t> stretches) {
    std::vector<double> out(values.begin(), values.end());
    for (std::size_t i = 0; i < stretches.size(); ++i) {
        const std::size_t first = stretches[i], last = i + 1 < stretches.size() ? stretches[i + 1] : values.size();
        const double level = *stats::mean(values.subspan(first, last - first));
        for (std::size_t k = first; k < last; ++k) out[k] -= level;
    }
    return out;
}

/// The ends of a quantile's interval, from how the share of frames up to it varies between resamples (Woodruff 1952).
Doubt quantileDoubt(stats::Selection& frames, const std::vector<double>& shares, double confidence) {
    const auto share = stats::doubtFrom(shares, confidence);
    Doubt out{0, frames.quantile(share.low), 0};
    out.high = frames.quantile(share.high);
    out.standardError = (out.high - out.low) / (2 * stats::normalQuantile(0.5 + confidence / 2));
    return out;
}

/// Of frame times from the rates they make.
Doubt inMs(std::vector<double> rates, double confidence) {
    for (double& v : rates) v = 1000 / v;
    return stats::doubtFrom(rates, confidence);
}

/// Figures of the resamples so far.
struct Drawn {
    std::vector<double> averages, half, most;
    std::array<std::array<std::vector<double>, 2>, 3> lows;
    /// False where a resample needs more ranks than there are.
    bool keep(const Sums& sums, const Tail& tail) {
        const double n = sums.frames;
        averages.push_back(1000 * n / sums.ms);
        half.push_back(sums.half / n);
        most.push_back(sums.most / n);
        for (std::size_t s = 0; s < lows.size(); ++s)
            for (std::size_t which = 0; which < 2; ++which) {
                const auto rate = tail.rate(stats::allLowRules[s], which == 0 ? 0.01 : 0.001, sums.frames, sums.ms);
                if (!rate) return false;
                lows[s][which].push_back(*rate);
            }
        return true;
    }
};

/// Cells where the stretches start. Of few cells there is little to draw: such stretches go with the one before.
std::vector<std::size_t> cellStarts(std::span<const std::size_t> stretches, std::size_t cell, std::size_t cells) {
    const std::size_t fewest = cell == 1 ? 1 : 20;
    std::vector<std::size_t> out;
    for (const auto frame : stretches) {
        const std::size_t at = (frame + cell - 1) / cell;
        if (at + fewest <= cells && (out.empty() || at >= out.back() + fewest)) out.push_back(at);
    }
    if (out.empty() || out.front() != 0) out.insert(out.begin(), 0);
    return out;
}

/// Nothing where a resample needs more ranks than there are, or cancelled.
std::optional<RunDoubt> doubtWith(std::span<const double> frameMs, const stats::Resampling& how,
                                  std::span<const std::size_t> stretches, double meanLength, std::size_t ranks,
                                  const Context& context) {
    const std::size_t n = frameMs.size();
    if (context.cancelled()) return std::nullopt;
    stats::Selection selection(frameMs);
    const double median = selection.quantile(0.5), p95 = selection.quantile(0.95);
    if (context.cancelled()) return std::nullopt;
    Tail tail(frameMs, ranks);
    if (context.cancelled()) return std::nullopt;
    const bool whole = n <= shortRun;
    const std::size_t cell =
        whole ? 1 : std::max<std::size_t>(n / mostCells + 1, static_cast<std::size_t>(std::ceil(meanLength)));
    const Prefix prefix(frameMs, tail, median, p95, cell);
    const auto starts = cellStarts(stretches, cell, prefix.cells());
    // Cells are long enough to be drawn one by one.
    stats::Blocks blocks(prefix.cells(), starts, whole ? meanLength : 1, how.seed);
    Drawn drawn;
    for (std::size_t b = 0; b < how.resamples; ++b) {
        if (context.cancelled()) return std::nullopt;
        tail.clear();
        Sums sums;
        blocks.draw([&](std::size_t first, std::size_t last) {
            const Sums &from = prefix.before(first), &to = prefix.before(last);
            sums.add(to);
            sums.add(from, -1);
            tail.add(from.slow, to.slow);
        });
        if (!drawn.keep(sums, tail)) return std::nullopt;
    }
    RunDoubt out;
    out.blockLength = meanLength;
    out.average = stats::doubtFrom(drawn.averages, how.confidence);
    stats::Selection again(frameMs);
    out.median = quantileDoubt(again, drawn.half, how.confidence);
    out.p95 = quantileDoubt(again, drawn.most, how.confidence);
    const auto& percentile = drawn.lows[static_cast<std::size_t>(stats::LowRule::Percentile)];
    out.p99 = inMs(percentile[0], how.confidence);
    out.p999 = inMs(percentile[1], how.confidence);
    for (std::size_t s = 0; s < drawn.lows.size(); ++s) {
        out.onePercentLow[s] = stats::doubtFrom(drawn.lows[s][0], how.confidence);
        out.tenthPercentLow[s] = stats::doubtFrom(drawn.lows[s][1], how.confidence);
    }
    return out;
}

} // namespace

std::vector<std::size_t> stretchesOf(const capture::Capture& capture) {
    constexpr double longestMs = 10000;
    std::vector<std::size_t> out;
    for (const auto& part : capture::partsOf(capture)) {
        const auto first = capture.framesMs.begin() + static_cast<std::ptrdiff_t>(part.first),
                   last = capture.framesMs.begin() + static_cast<std::ptrdiff_t>(part.last);
        const auto pieces = std::min(
            part.last - part.first, static_cast<std::size_t>(std::ceil(std::accumulate(first, last, 0.0) / longestMs)));
        for (std::size_t i = 0; i < std::max<std::size_t>(1, pieces); ++i)
            out.push_back(part.first + i * (part.last - part.first) / std::max<std::size_t>(1, pieces));
    }
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

std::optional<RunDoubt> doubtOf(std::span<const double> frameMs, const stats::Resampling& how,
                                std::span<const std::size_t> stretches, const Context& context) {
    const std::size_t n = frameMs.size();
    if (n < 10 || how.resamples < 2) return std::nullopt;
    const double length = how.blockLength.value_or(stats::blockLength(levelled(frameMs, stretches)));
    // Many times the slowest percent holds the slowest percent of nearly every resample; of long runs, less will do.
    const std::size_t usual = std::min(n, (n <= shortRun ? n / 12 : n / 40) + 64);
    if (auto doubt = doubtWith(frameMs, how, stretches, length, usual, context)) return doubt;
    if (context.cancelled()) return std::nullopt;
    return doubtWith(frameMs, how, stretches, length, n, context);
}

std::optional<RunDoubt> doubtOf(const capture::Capture& capture, const stats::Resampling& how, const Context& context) {
    return doubtOf(capture.framesMs, how, stretchesOf(capture), context);
}

} // namespace impasto::frames
