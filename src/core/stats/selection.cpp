// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/selection.h>

#include <algorithm>
#include <cmath>
#include <functional>

namespace impasto::stats {

Position positionOf(double position) {
    const double fuzz = 1e-12 * std::max(1.0, std::abs(position));
    const double nearest = std::round(position);
    if (std::abs(position - nearest) <= fuzz) return {nearest, 0.0};
    return {std::floor(position), position - std::floor(position)};
}

double Selection::quantile(double p) {
    const Position at = positionOf(static_cast<double>(m_values.size() - 1) * p);
    const auto lower = select(static_cast<std::size_t>(at.whole));
    if (at.rest == 0 || lower + 1 == m_values.end()) return *lower;
    return (1.0 - at.rest) * *lower + at.rest * *std::min_element(lower + 1, m_values.end());
}

std::vector<double> Selection::slowest(std::size_t count) {
    count = std::min(count, m_values.size());
    auto from = select(m_values.size() - count);
    std::vector<double> out(from, m_values.end());
    std::sort(out.begin(), out.end(), std::greater<>());
    return out;
}

std::vector<double>::iterator Selection::select(std::size_t index) {
    const auto at = m_values.begin() + static_cast<std::ptrdiff_t>(index);
    if (index < m_from) m_from = 0; // asked for in another order, or of very few values
    std::nth_element(m_values.begin() + static_cast<std::ptrdiff_t>(m_from), at, m_values.end());
    m_from = index;
    return at;
}

} // namespace impasto::stats
