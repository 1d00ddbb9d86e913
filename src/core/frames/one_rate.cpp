// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/one_rate.h>

#include <cmath>
#include <impasto/stats/stats.h>

#include <algorithm>
#include <numeric>
#include <set>
#include <vector>

namespace impasto::frames {
namespace {

constexpr double blockMs = 1000;
constexpr std::size_t fewestBlocks = 8, fewestInBlock = 8;
constexpr double mostSpread = 0.004; // of seconds, a share
constexpr double mostOfFree = 0.6;   // of the spread that free frames give to a second, of many seconds
constexpr std::size_t coarse = 12;   // different times among those in the middle
constexpr double mostAlike = 0.5;    // correlation of frames some frames apart

/// By the quartiles: a hitch or a menu among them must not hide it. Of a normal spread they lie 1.349 deviations apart.
double spreadOf(std::span<const double> values) {
    return (*stats::quantile(values, 0.75) - *stats::quantile(values, 0.25)) / 1.349;
}

bool isCoarse(std::span<const double> frames) {
    const double low = *stats::quantile(frames, 0.25), high = *stats::quantile(frames, 0.75);
    std::set<double> different;
    for (const double ms : frames)
        if (ms >= low && ms <= high && different.insert(ms).second && different.size() > coarse) return false;
    return true;
}

/// Whether short and long frames come in turn, two to eight of them. A menu goes on for long, and is none.
bool repeats(std::span<const double> frames, double median, double spread) {
    std::vector<double> off;
    off.reserve(frames.size());
    for (const double ms : frames) off.push_back(std::clamp(ms - median, -2 * spread, 2 * spread));
    for (std::size_t lag = 2; lag <= 8; ++lag) {
        double products = 0, squares = 0;
        for (std::size_t i = lag; i < off.size(); ++i) {
            products += off[i - lag] * off[i];
            squares += off[i] * off[i];
        }
        if (products > mostAlike * squares) return true;
    }
    return false;
}

} // namespace

bool keepsOneRate(std::span<const double> framesMs) {
    if (framesMs.empty()) return false;
    const double median = *stats::quantile(framesMs, 0.5), spread = spreadOf(framesMs);
    const auto inBlock = static_cast<std::size_t>(std::lround(blockMs / median));
    if (inBlock < fewestInBlock || framesMs.size() < fewestBlocks * inBlock) return false;
    // A hitch says nothing of what keeps the others.
    std::vector<double> frames(framesMs.begin(), framesMs.end());
    for (double& ms : frames) ms = std::clamp(ms, median - 4 * spread, median + 4 * spread);
    std::vector<double> means;
    for (std::size_t first = 0; first + inBlock <= frames.size(); first += inBlock) {
        const auto block = std::span(frames).subspan(first, inBlock);
        means.push_back(std::accumulate(block.begin(), block.end(), 0.0) / static_cast<double>(inBlock));
    }
    // By the outer tenths: a menu hides it not. Of K seconds it is off by 0.89 / sqrt(K) of itself; three times that
    // makes no free run a held one.
    const double ofSeconds = (*stats::quantile(means, 0.9) - *stats::quantile(means, 0.1)) / 2.563,
                 free = spread / std::sqrt(static_cast<double>(inBlock)),
                 most = std::min(mostOfFree, 1 - 3 * 0.89 / std::sqrt(static_cast<double>(means.size())));
    return ofSeconds <= mostSpread * median && ofSeconds <= most * free && !isCoarse(framesMs) &&
           !repeats(frames, median, spread);
}

} // namespace impasto::frames
