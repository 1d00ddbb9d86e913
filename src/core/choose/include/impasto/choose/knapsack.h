// SPDX-License-Identifier: GPL-3.0-or-later
// The multiple-choice knapsack (one item of every group, several resources), solved exactly by branch and bound on
// whole numbers. Bounds: Lagrangian relaxation (Kellerer, Pferschy, Pisinger 2004, ch. 11) with multipliers from
// subgradient steps, tightened at every node; margins enter it by a tangent, taken where the relaxation has its best.
// Ties: the lexicographically highest choice
// wins, so that a proposal does not flicker under the hand.
#pragma once

#include <cmath>
#include <impasto/base/context.h>
#include <impasto/base/error.h>
#include <optional>
#include <vector>

namespace impasto::choose {

struct Item {
    std::int64_t value = 0;
    std::vector<std::int64_t> use; // one number a resource; may be negative
};

/// A margin for doubt on one resource: factor * sqrt(x' C x), where x holds 1 for the constant and for each chosen
/// item's column. It grows and shrinks with the choice as a whole, so it is not a resource of its own.
struct DoubtMargin {
    std::size_t resource = 0;
    double factor = 0;                          // in units of the resource per unit of the deviation
    std::vector<std::vector<int>> columnOf;     // group, item -> column from 1; 0 for none
    std::vector<double> covariance;             // C, row-major; positive semidefinite; index 0 is the constant
    [[nodiscard]] std::size_t columns() const { // side of C
        return static_cast<std::size_t>(std::lround(std::sqrt(static_cast<double>(covariance.size()))));
    }
};

struct Problem {
    std::vector<std::vector<Item>> groups; // of 1 to 64 items
    std::vector<std::int64_t> capacity;
    std::vector<DoubtMargin> margins;
};

struct Choice {
    std::vector<std::size_t> items; // one a group
    std::int64_t value = 0;
    std::vector<std::int64_t> left;   // of each capacity, after the margin
    std::vector<std::int64_t> margin; // taken by doubt, a resource
    bool proven = false;              // the search finished
    std::int64_t bound = 0;           // no choice is worth more; equals value when proven
    std::uint64_t nodes = 0;
};

/// Where a search ended: one of much the same problem, of as many resources and items, begins there.
struct Footing {
    std::vector<double> multipliers; // one a resource
    std::vector<double> tangent;     // one an item, groups after each other: how much of it the tangents are taken at
};

struct Effort {
    std::uint64_t nodes = 4'000'000;
    std::optional<std::int64_t> beats = {}; // only what is worth more matters
    std::int64_t mayMiss = 0;               // the choice need not be better than the best less this
    Footing* footing = nullptr;             // begun at, and left where the search ended
};

/// Errors: NothingFits (nothing that is worth enough), Cancelled. Where the nodes end the search first, the best found
/// so far with its bound; no items where none was found, which is not to say that none fits.
Result<Choice> solve(const Problem& problem, const Context& context = {}, const Effort& effort = {});

} // namespace impasto::choose
