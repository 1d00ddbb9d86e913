// SPDX-License-Identifier: GPL-3.0-or-later
// Bounds for the exact choice: margins by their tangents, resources by their multipliers.
#pragma once

#include <array>
#include <impasto/choose/knapsack.h>
#include <limits>
#include <span>

namespace impasto::choose {

using Items = std::vector<std::size_t>; // one a group
using Shares = std::vector<double>;     // one an item, groups after each other; of a group they sum to 1
using Numbers = std::vector<double>;    // one a resource
inline constexpr double infinity = std::numeric_limits<double>::infinity();

/// What the problem says, exactly.
class Exact {
  public:
    explicit Exact(const Problem& problem) : m_problem(problem) {}
    [[nodiscard]] std::int64_t value(const Items& items) const;
    [[nodiscard]] std::vector<std::int64_t> margins(const Items& items) const; // by resource
    [[nodiscard]] std::vector<std::int64_t> left(const Items& items) const;    // by resource, before the margin
    [[nodiscard]] bool fits(const Items& items) const;

  private:
    const Problem& m_problem;
};

/// Margins of the choices that differ from one in a few groups, without summing all of it again.
class Nearby {
  public:
    static constexpr std::size_t most = 3; // groups
    struct Change {
        std::size_t group, item;
    };
    explicit Nearby(const Problem& problem) : m_problem(problem), m_margins(problem.margins.size()) {}
    /// About this choice, with other items of these groups.
    void around(const Items& items, std::span<const std::size_t> groups);
    /// False where it surely does not fit.
    [[nodiscard]] bool mayFit(std::span<const Change> changes) const;

  private:
    struct Around {
        double left = 0, variance = 0; // left: before the margin
        std::vector<double> with;      // by column: with all that the choice holds
    };
    const Problem& m_problem;
    Items m_items;
    std::vector<Around> m_margins;
};

/// The problem with every margin replaced by its tangent at one mixture y of choices: sqrt(x'Cx) >= x'Cy / sqrt(y'Cy)
/// for every x (Cauchy and Schwarz), so that whatever fits the problem fits this too. Where y solves the problem of
/// mixtures, the bound of this one is the lowest that tangents give: there the two have the same best.
struct Linear {
    std::size_t resources = 0;
    std::vector<std::size_t> first; // of the items of group g: first[g] ... first[g + 1]
    std::vector<double> value, use; // by item; use by item and resource
    Numbers capacity, scale;        // scale: the largest use, at least 1
    std::vector<double> least;      // by group and resource: the least use

    [[nodiscard]] std::size_t groups() const { return first.size() - 1; }
    [[nodiscard]] const double* useOf(std::size_t item) const { return &use[item * resources]; }
};
Linear linearAt(const Problem& problem, const Shares& at);

/// A Lagrangian bound of some groups under some room, and what makes it.
struct Relaxed {
    Numbers lambda;
    double bound = infinity;
    Items picks; // of all groups; those asked about are set
};

class Relaxation {
  public:
    using Alive = std::vector<std::uint64_t>; // by group, a bit an item
    explicit Relaxation(const Linear& linear) : m_linear(linear), m_slack(linear.resources, 0.0) {}

    [[nodiscard]] double worth(std::size_t item, const Numbers& lambda) const {
        double out = m_linear.value[item];
        for (std::size_t r = 0; r < m_linear.resources; ++r) out -= lambda[r] * m_linear.useOf(item)[r];
        return out;
    }

    /// Improves the multipliers by Polyak's subgradient steps (1969) towards `need`, until no choice can reach it.
    /// `mixture`: what the later steps pick, by their lengths, which nears the relaxation's own best (Larsson,
    /// Patriksson and Stroemberg 1999); empty where no step was due.
    void tighten(std::span<const std::size_t> groups, const Alive& alive, const Numbers& room, double need, int steps,
                 Relaxed& at, double pace = 1, Shares* mixture = nullptr);
    /// The bound at the multipliers, and the items that make it.
    double evaluate(std::span<const std::size_t> groups, const Alive& alive, const Numbers& room, const Numbers& lambda,
                    Items& picks);

  private:
    const Linear& m_linear;
    Numbers m_slack, m_lambda;
    std::vector<std::pair<std::size_t, double>> m_priced; // resources whose multiplier is not 0
    Items m_picks;
};

} // namespace impasto::choose
