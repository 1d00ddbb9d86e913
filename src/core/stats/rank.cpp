// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <cmath>
#include <impasto/stats/compare.h>

namespace impasto::stats {
namespace {

/// Ways in which the ranks of `n` of all n + m values give each U: one value after the other is in or out.
std::vector<double> waysOf(std::size_t n, std::size_t m) {
    std::vector<std::vector<double>> ways(n + 1, std::vector<double>(n * m + 1, 0)); // by values in, and U
    ways[0][0] = 1;
    for (std::size_t value = 0; value < n + m; ++value)
        for (std::size_t in = std::min(n, value + 1); in > 0; --in) {
            const std::size_t under = value - (in - 1); // of the others
            if (under > m) continue;
            for (std::size_t u = n * m + 1; u-- > under;) ways[in][u] += ways[in - 1][u - under];
        }
    return ways[n];
}

} // namespace

std::optional<RankTest> rankTest(std::span<const double> before, std::span<const double> after, bool exact) {
    const std::size_t n = after.size(), m = before.size();
    if (n == 0 || m == 0) return std::nullopt;
    RankTest out;
    std::vector<double> all(before.begin(), before.end());
    all.insert(all.end(), after.begin(), after.end());
    std::sort(all.begin(), all.end());
    double ties = 0; // sum of t^3 - t
    for (auto at = all.begin(); at != all.end();) {
        const auto end = std::upper_bound(at, all.end(), *at);
        const double t = static_cast<double>(end - at);
        ties += t * t * t - t;
        at = end;
    }
    for (const double a : after)
        for (const double b : before) out.u += a > b ? 1 : a == b ? 0.5 : 0;
    const double pairs = static_cast<double>(n * m), size = static_cast<double>(n + m);
    if (exact && ties == 0 && n * m <= 400) {
        const auto ways = waysOf(n, m);
        double total = 0, low = 0, high = 0;
        for (std::size_t u = 0; u < ways.size(); ++u) {
            total += ways[u];
            if (static_cast<double>(u) <= out.u) low += ways[u];
            if (static_cast<double>(u) >= out.u) high += ways[u];
        }
        out.p = std::min(1.0, 2 * std::min(low, high) / total);
        return out;
    }
    const double variance = pairs / 12 * (size + 1 - ties / (size * (size - 1)));
    if (!(variance > 0)) return std::nullopt; // all alike
    const double z = std::max(0.0, std::abs(out.u - pairs / 2) - 0.5) / std::sqrt(variance);
    out.p = std::min(1.0, std::erfc(z / std::sqrt(2.0)));
    return out;
}

} // namespace impasto::stats
