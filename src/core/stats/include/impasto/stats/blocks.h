// SPDX-License-Identifier: GPL-3.0-or-later
// The stationary bootstrap (Politis and Romano 1994): blocks of neighbours drawn again.
#pragma once

#include <algorithm>
#include <cmath>
#include <impasto/base/random.h>
#include <span>
#include <vector>

namespace impasto::stats {

/// Blocks of circles of values, of geometric length with the given mean, until as many values are there as each circle
/// has.
class Blocks {
  public:
    /// The circles begin at `starts` (0 first) and end with the next, the last one at n.
    Blocks(std::size_t n, std::span<const std::size_t> starts, double meanLength, std::uint64_t seed)
        : m_starts(starts.begin(), starts.end()), m_logStay(std::log(1 - 1 / std::max(1.0 + 1e-9, meanLength))),
          m_single(meanLength <= 1), m_stream(seed, "blocks") {
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
            if (m_single) {
                told(start + first, start + first + 1);
                --left;
                continue;
            }
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
    bool m_single; // every block is one value
    RandomStream m_stream;
};

} // namespace impasto::stats
