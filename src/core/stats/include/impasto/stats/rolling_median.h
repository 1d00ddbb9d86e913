// SPDX-License-Identifier: GPL-3.0-or-later
// The median of the frames around each frame, one after the other. Where a frame comes in on the side on which another
// goes out, it stays; else it moves to the next value in order, found by reading the window once.
#pragma once

#include <algorithm>
#include <cstring>
#include <limits>
#include <span>
#include <utility>
#include <vector>

namespace impasto::stats {

class RollingMedian {
  public:
    /// `neighbours`: frames of the window, odd; fewer near the ends. Values are finite and positive.
    RollingMedian(std::span<const double> values, std::size_t neighbours)
        : m_values(values), m_window(neighbours), m_reach(neighbours / 2), m_ring((neighbours + 1) / 2 * 2, none) {
        for (std::size_t i = 0; i < m_reach; ++i) put(i < values.size() ? values[i] : none);
    }

    /// The element at half the window's size, in order, around value i; asked for i = 0, 1, 2, ...
    double around(std::size_t i) {
        const std::size_t in = i + m_reach;
        put(in < m_values.size() ? m_values[in] : none);
        settle();
        return m_median;
    }

  private:
    using Pair = double __attribute__((vector_size(16)));
    static constexpr double none = std::numeric_limits<double>::infinity();

    /// In the place of the one that leaves the window.
    void put(double value) {
        const double gone = std::exchange(m_ring[m_at], value);
        if (++m_at == m_window) m_at = 0;
        const auto both = [&](auto is) { return std::size_t{is(value)} - std::size_t{is(gone)}; };
        m_less += both([this](double v) { return v < m_median; });
        m_equal += both([this](double v) { return v == m_median; });
        m_size += both([](double v) { return v != none; });
    }

    void settle() {
        const std::size_t rank = m_size / 2;
        const Pair all{none, none}, zero{};
        while (rank >= m_less + m_equal) { // the next greater value
            m_less += m_equal;
            const Pair median{m_median, m_median};
            Pair least = all;
            for (std::size_t i = 0; i < m_ring.size(); i += 2) {
                const Pair v = pairAt(i);
                const Pair greater = v > median ? v : all;
                least = greater < least ? greater : least;
            }
            m_median = std::min(least[0], least[1]);
            m_equal = countEqual();
        }
        while (rank < m_less) { // the next smaller one
            const Pair median{m_median, m_median};
            Pair most = zero;
            for (std::size_t i = 0; i < m_ring.size(); i += 2) {
                const Pair v = pairAt(i);
                const Pair smaller = v < median ? v : zero;
                most = smaller > most ? smaller : most;
            }
            m_median = std::max(most[0], most[1]);
            m_equal = countEqual();
            m_less -= m_equal;
        }
    }

    [[nodiscard]] Pair pairAt(std::size_t i) const {
        Pair v;
        std::memcpy(&v, m_ring.data() + i, sizeof(v));
        return v;
    }

    [[nodiscard]] std::size_t countEqual() const {
        const Pair median{m_median, m_median};
        auto n = median != median; // none
        for (std::size_t i = 0; i < m_ring.size(); i += 2) n -= pairAt(i) == median;
        return static_cast<std::size_t>(n[0] + n[1]);
    }

    std::span<const double> m_values;
    std::size_t m_window, m_reach, m_at = 0;
    std::vector<double> m_ring; // empty places are infinite
    double m_median = 0;
    std::size_t m_less = 0, m_equal = 0, m_size = 0; // of the window: under the median, at it, all
};

} // namespace impasto::stats
