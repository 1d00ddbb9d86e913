// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/patterns.h>

#include <cmath>
#include <numbers>
#include <numeric>

namespace impasto::stats {
namespace {

constexpr std::size_t fewestHitches = 6;
constexpr double fastestHz = 5;
constexpr double nearSeconds = 0.25;

/// A run's moments in route time: each part stretched to the length it has in the first run, so that parts align.
class Aligned {
  public:
    explicit Aligned(const capture::Capture& capture) {
        double at = 0;
        for (const auto& part : capture::partsOf(capture)) {
            m_starts.push_back(at);
            for (std::size_t i = part.first; i < part.last; ++i) at += capture.framesMs[i];
        }
        m_starts.push_back(at);
    }
    /// The moment of another run, in this run's time; as it is where the parts differ in number.
    [[nodiscard]] double here(double ms, const Aligned& other) const {
        if (other.m_starts.size() != m_starts.size()) return ms;
        const auto it = std::upper_bound(other.m_starts.begin(), other.m_starts.end(), ms);
        const auto part = std::clamp<std::ptrdiff_t>(it - other.m_starts.begin() - 1, 0,
                                                     static_cast<std::ptrdiff_t>(m_starts.size()) - 2);
        const auto i = static_cast<std::size_t>(part);
        const double theirs = other.m_starts[i + 1] - other.m_starts[i], mine = m_starts[i + 1] - m_starts[i];
        return m_starts[i] + (theirs > 0 ? (ms - other.m_starts[i]) * mine / theirs : 0);
    }
    [[nodiscard]] double durationMs() const { return m_starts.back(); }

  private:
    std::vector<double> m_starts; // of the parts, and the end
};

/// A steady cause makes about as many hitches as it has periods.
double fastestOf(const std::vector<double>& seconds) {
    return std::min(fastestHz, 1.5 * static_cast<double>(seconds.size()) / (seconds.back() - seconds.front()));
}

/// The frequency that most hitches follow: the lowest of those that gather nearly as strongly as the best, since a comb
/// gathers at every multiple of its own frequency.
std::pair<double, double> strongestComb(const std::vector<double>& seconds) {
    const double span = seconds.back() - seconds.front();
    if (span <= 0) return {0, 0};
    std::vector<std::pair<double, double>> all; // Hz, gathering
    for (double hz = 3 / span; hz <= fastestOf(seconds); hz += 0.1 / span) all.emplace_back(hz, gathering(seconds, hz));
    if (all.empty()) return {0, 0};
    const double top =
        std::max_element(all.begin(), all.end(), [](auto a, auto b) { return a.second < b.second; })->second;
    for (std::size_t i = 0; i < all.size(); ++i) {
        const bool peak = (i == 0 || all[i].second >= all[i - 1].second) &&
                          (i + 1 == all.size() || all[i].second >= all[i + 1].second);
        if (peak && all[i].second >= 0.9 * top) return all[i];
    }
    return {0, 0};
}

/// Whether about one comes in each period: gathered moments that lie in a few heaps are no comb.
bool isComb(const std::vector<double>& seconds, double hz) {
    std::vector<double> cycles;
    for (const double t : seconds) cycles.push_back(std::round((t - seconds.front()) * hz));
    cycles.erase(std::unique(cycles.begin(), cycles.end()), cycles.end());
    const auto occupied = static_cast<double>(cycles.size());
    return occupied >= 0.6 * ((seconds.back() - seconds.front()) * hz + 1) &&
           static_cast<double>(seconds.size()) <= 2 * occupied;
}

/// Share of the moments that have one of the others within reach, and what chance alone would give.
std::pair<double, double> sharedPlaces(const std::vector<double>& mine, const std::vector<double>& others,
                                       double seconds) {
    std::size_t shared = 0;
    for (const double at : mine)
        if (std::any_of(others.begin(), others.end(), [at](double o) { return std::abs(o - at) <= nearSeconds; }))
            ++shared;
    const double density = static_cast<double>(others.size()) / seconds;
    return {static_cast<double>(shared) / static_cast<double>(mine.size()), 1 - std::exp(-2 * nearSeconds * density)};
}

} // namespace

std::vector<double> lombScargle(std::span<const double> seconds, std::span<const double> values,
                                std::span<const double> frequencies) {
    std::vector<double> out(frequencies.size(), 0.0);
    const auto center = mean(values);
    if (!center) return out;
    double squares = 0;
    for (const double v : values) squares += (v - *center) * (v - *center);
    if (squares <= 0) return out;
    for (std::size_t k = 0; k < frequencies.size(); ++k) {
        const double w = 2 * std::numbers::pi * frequencies[k];
        double sine2 = 0, cosine2 = 0;
        for (const double t : seconds) {
            sine2 += std::sin(2 * w * t);
            cosine2 += std::cos(2 * w * t);
        }
        const double tau = std::atan2(sine2, cosine2) / (2 * w);
        double yc = 0, ys = 0, cc = 0, ss = 0;
        for (std::size_t i = 0; i < seconds.size(); ++i) {
            const double c = std::cos(w * (seconds[i] - tau)), s = std::sin(w * (seconds[i] - tau));
            yc += (values[i] - *center) * c;
            ys += (values[i] - *center) * s;
            cc += c * c;
            ss += s * s;
        }
        out[k] = ((cc > 0 ? yc * yc / cc : 0) + (ss > 0 ? ys * ys / ss : 0)) / squares;
    }
    return out;
}

double gathering(std::span<const double> seconds, double frequency) {
    if (seconds.empty()) return 0;
    double c = 0, s = 0;
    for (const double t : seconds) {
        c += std::cos(2 * std::numbers::pi * frequency * t);
        s += std::sin(2 * std::numbers::pi * frequency * t);
    }
    return std::sqrt(c * c + s * s) / static_cast<double>(seconds.size());
}

HitchOrigin originOf(const HitchedRun& run, std::span<const HitchedRun> siblings, bool first) {
    if (run.hitches.size() < fewestHitches) return {};
    const Aligned route(*run.capture);
    const double seconds = route.durationMs() / 1000;
    std::vector<double> mine;
    for (const auto& h : run.hitches) mine.push_back(h.atMs / 1000);
    const auto [hz, strength] = strongestComb(mine);
    // The best of so many frequencies gathers random moments beyond this in one run of a hundred.
    const double tries = std::max(2.0, fastestOf(mine) * seconds);
    const double chance = std::sqrt(std::log(tries / 0.01) / static_cast<double>(mine.size()));
    if (hz > 0 && strength > std::max(0.6, chance) && isComb(mine, hz))
        return {HitchPattern::Periodic, 1000 / hz, strength};

    if (first && siblings.size() > 1) {
        double others = 0;
        for (const auto& sibling : siblings)
            others += static_cast<double>(sibling.hitches.size()) / static_cast<double>(siblings.size());
        const double own = static_cast<double>(mine.size());
        // Counts of one rate differ by about the root of their sum.
        if (own > 2 * others && own - others > 3 * std::sqrt(own + others))
            return {HitchPattern::FirstRun, 0, 1 - others / own};
    }
    double shared = 0, byChance = 0;
    for (const auto& sibling : siblings) {
        const Aligned theirs(*sibling.capture);
        std::vector<double> others;
        for (const auto& h : sibling.hitches) others.push_back(route.here(h.atMs, theirs) / 1000);
        const auto [share, chanceShare] = sharedPlaces(mine, others, seconds);
        shared += share / static_cast<double>(siblings.size());
        byChance += chanceShare / static_cast<double>(siblings.size());
    }
    if (!siblings.empty() && shared > 0.6 && shared > 2 * byChance) return {HitchPattern::SamePlace, 0, shared};

    const auto late =
        static_cast<double>(std::count_if(mine.begin(), mine.end(), [seconds](double t) { return t > seconds / 2; }));
    const double n = static_cast<double>(mine.size());
    // Halves of a fair coin stay within three standard deviations.
    if (late / n > 0.5 + 1.5 / std::sqrt(n)) return {HitchPattern::Growing, 0, late / n};
    return {HitchPattern::Random, 0, 0};
}

} // namespace impasto::stats
