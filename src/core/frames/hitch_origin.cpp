// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/hitch_origin.h>

#include <cmath>
#include <impasto/base/keys.h>
#include <impasto/stats/spectrum.h>
#include <numeric>

namespace impasto::frames {
namespace {

constexpr std::size_t fewestHitches = 6;
constexpr double fastestHz = 5;
constexpr double nearSeconds = 0.25;

/// The moment of another run in this run's time: each part stretched to the length it has here; as it is where the
/// parts differ in number.
double aligned(double ms, const std::vector<double>& theirs, const std::vector<double>& mine) {
    if (theirs.size() != mine.size() || mine.size() < 2) return ms;
    const auto it = std::upper_bound(theirs.begin(), theirs.end(), ms);
    const auto i = static_cast<std::size_t>(
        std::clamp<std::ptrdiff_t>(it - theirs.begin() - 1, 0, static_cast<std::ptrdiff_t>(mine.size()) - 2));
    const double length = theirs[i + 1] - theirs[i];
    return mine[i] + (length > 0 ? (ms - theirs[i]) * (mine[i + 1] - mine[i]) / length : 0);
}

/// A steady cause makes about as many hitches as it has periods. Periods in the span, at most.
double fastestOf(const std::vector<double>& seconds) {
    return std::min(fastestHz * (seconds.back() - seconds.front()), 1.5 * static_cast<double>(seconds.size()));
}

/// Of the moments in the middle, at most as many as a period is looked for in: it is the same in all of them.
std::vector<double> someOf(const std::vector<double>& seconds) {
    constexpr std::size_t most = 2000;
    if (seconds.size() <= most) return seconds;
    const auto first = seconds.begin() + static_cast<std::ptrdiff_t>((seconds.size() - most) / 2);
    return {first, first + most};
}

/// The frequency that most hitches follow: the lowest of those that gather nearly as strongly as the best, since a comb
/// gathers at every multiple of its own frequency.
std::pair<double, double> strongestComb(const std::vector<double>& seconds) {
    const double span = seconds.back() - seconds.front();
    if (span <= 0) return {0, 0};
    const auto quick = stats::gatherings(seconds, fastestOf(seconds));
    constexpr std::size_t lowest = 30; // three periods
    if (quick.size() <= lowest) return {0, 0};
    const double top = *std::max_element(quick.begin() + lowest, quick.end());
    std::vector<std::pair<double, double>> peaks; // Hz, gathering
    for (std::size_t i = lowest; i < quick.size(); ++i) {
        const bool peak =
            (i == lowest || quick[i] >= quick[i - 1]) && (i + 1 == quick.size() || quick[i] >= quick[i + 1]);
        if (!peak || quick[i] < 0.85 * top) continue;
        const double hz = 0.1 * static_cast<double>(i) / span;
        peaks.emplace_back(hz, stats::gathering(seconds, hz));
    }
    const double best =
        std::max_element(peaks.begin(), peaks.end(), [](auto a, auto b) { return a.second < b.second; })->second;
    return *std::find_if(peaks.begin(), peaks.end(), [best](const auto& p) { return p.second >= 0.9 * best; });
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
    auto near = others.begin(); // both ascend
    for (const double at : mine) {
        while (near != others.end() && *near < at - nearSeconds) ++near;
        shared += near != others.end() && *near <= at + nearSeconds ? 1U : 0U;
    }
    const double density = static_cast<double>(others.size()) / seconds;
    return {static_cast<double>(shared) / static_cast<double>(mine.size()), 1 - std::exp(-2 * nearSeconds * density)};
}

constexpr Keys<HitchPattern, 6> patterns{{{HitchPattern::TooFew, "too-few"},
                                          {HitchPattern::Periodic, "periodic"},
                                          {HitchPattern::SamePlace, "same-place"},
                                          {HitchPattern::FirstRun, "first-run"},
                                          {HitchPattern::Growing, "growing"},
                                          {HitchPattern::Random, "random"}}};

} // namespace

std::string_view keyOf(HitchPattern pattern) {
    return keyIn(patterns, pattern);
}

std::vector<double> partStartsOf(const capture::Capture& capture) {
    std::vector<double> out;
    double at = 0;
    for (const auto& part : capture::partsOf(capture)) {
        out.push_back(at);
        for (std::size_t i = part.first; i < part.last; ++i) at += capture.framesMs[i];
    }
    out.push_back(at);
    return out;
}

HitchOrigin originOf(const HitchedRun& run, std::span<const HitchedRun> siblings, bool first) {
    if (run.hitches.size() < fewestHitches) return {};
    const double seconds = run.partStartMs.back() / 1000;
    std::vector<double> mine;
    for (const auto& h : run.hitches) mine.push_back(h.atMs / 1000);
    const auto some = someOf(mine);
    const auto [hz, strength] = strongestComb(some);
    // The best of so many frequencies gathers random moments beyond this in one run of a hundred.
    const double tries = std::max(2.0, fastestOf(some));
    const double chance = std::sqrt(std::log(tries / 0.01) / static_cast<double>(some.size()));
    if (hz > 0 && strength > std::max(0.6, chance) && isComb(some, hz))
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
        std::vector<double> others;
        for (const auto& h : sibling.hitches)
            others.push_back(aligned(h.atMs, sibling.partStartMs, run.partStartMs) / 1000);
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

} // namespace impasto::frames
