// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/shape.h>

#include <algorithm>
#include <cmath>

namespace impasto::frames {
namespace {

constexpr double lowestMs = 0.05, highestMs = 60000, step = 1.0 / 200;

std::size_t binCount() {
    return static_cast<std::size_t>(std::log(highestMs / lowestMs) / std::log1p(step)) + 1;
}

/// The place of a time among the bins, in bins.
double placeOf(double ms) {
    static const double perLog = 1 / std::log1p(step);
    return ms <= lowestMs ? 0 : std::log(ms / lowestMs) * perLog;
}

} // namespace

Distribution::Distribution(std::span<const double> frameMs) : m_upTo(binCount(), 0) {
    for (const double ms : frameMs) ++m_upTo[std::min(m_upTo.size() - 1, static_cast<std::size_t>(placeOf(ms)))];
    for (std::size_t i = 1; i < m_upTo.size(); ++i) m_upTo[i] += m_upTo[i - 1];
}

std::size_t Distribution::bytes() {
    return binCount() * sizeof(double);
}

double Distribution::shareUpTo(double ms) const {
    if (m_upTo.empty() || m_upTo.back() == 0) return 0;
    const double place = placeOf(ms);
    const auto bin = static_cast<std::size_t>(place);
    if (bin >= m_upTo.size()) return 1;
    const double under = bin == 0 ? 0 : m_upTo[bin - 1];
    return (under + (place - static_cast<double>(bin)) * (m_upTo[bin] - under)) / m_upTo.back();
}

double Distribution::quantile(double share) const {
    if (m_upTo.empty() || m_upTo.back() == 0) return 0;
    const double wanted = std::max(share * m_upTo.back(), 1e-6); // not before the first frame
    const auto it = std::lower_bound(m_upTo.begin(), m_upTo.end(), wanted);
    const auto bin = std::min(static_cast<std::size_t>(it - m_upTo.begin()), m_upTo.size() - 1);
    const double under = bin == 0 ? 0 : m_upTo[bin - 1], inside = m_upTo[bin] - under;
    const double rest = inside > 0 ? std::clamp((wanted - under) / inside, 0.0, 1.0) : 0;
    return lowestMs * std::pow(1 + step, static_cast<double>(bin) + rest);
}

std::vector<Second> secondsOf(std::span<const double> frameMs) {
    std::vector<Second> out;
    std::vector<double> inside;
    double at = 0, begun = 0;
    const auto close = [&] {
        const auto middle = inside.begin() + static_cast<std::ptrdiff_t>(inside.size() / 2);
        std::nth_element(inside.begin(), middle, inside.end());
        out.push_back({at, Fps(1000 * static_cast<double>(inside.size()) / (at - begun)), *middle,
                       *std::max_element(inside.begin(), inside.end())});
        begun = at;
        inside.clear();
    };
    for (const double ms : frameMs) {
        at += ms;
        inside.push_back(ms);
        if (at - begun >= 1000) close();
    }
    if (at - begun > 500) close();
    return out;
}

} // namespace impasto::frames
