// SPDX-License-Identifier: GPL-3.0-or-later
// Order statistics of one copy of many values, each found in what the one before left.
#pragma once

#include <cstddef>
#include <span>
#include <vector>

namespace impasto::stats {

/// Whole part and rest of a position, where a rest within rounding of a whole number is none: 0.07 * 100 is 7.
struct Position {
    double whole, rest;
};
Position positionOf(double value);

/// Asked for in rising order it is fastest. Values are copied, none may be NaN, one at least is there.
class Selection {
  public:
    explicit Selection(std::span<const double> values) : m_values(values.begin(), values.end()) {}

    /// Type 7 of Hyndman and Fan (1996).
    double quantile(double p);
    /// The last to be asked for; the greatest first, all where `count` is more than there are.
    std::vector<double> slowest(std::size_t count);

  private:
    std::vector<double>::iterator select(std::size_t index);

    std::vector<double> m_values;
    std::size_t m_from = 0; // all values before are at most as great
};

} // namespace impasto::stats
