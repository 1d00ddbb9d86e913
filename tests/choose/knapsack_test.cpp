// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <impasto/choose/knapsack.h>

using namespace impasto;
using namespace impasto::choose;

namespace {

Problem randomProblem(std::uint64_t seed, std::size_t groups, std::size_t items, std::size_t resources, bool margins) {
    RandomStream s(seed, "problem");
    Problem p;
    std::vector<std::int64_t> load(resources, 0);
    for (std::size_t g = 0; g < groups; ++g) {
        p.groups.emplace_back();
        for (std::size_t i = 0; i < items; ++i) {
            Item item{static_cast<std::int64_t>(s.below(40)), {}};
            for (std::size_t r = 0; r < resources; ++r) {
                item.use.push_back(static_cast<std::int64_t>(s.below(30)) - 5);
                load[r] += item.use.back();
            }
            p.groups.back().push_back(item);
        }
    }
    for (std::size_t r = 0; r < resources; ++r) p.capacity.push_back(load[r] / static_cast<std::int64_t>(items) - 8);
    if (!margins) return p;
    // One column for every item but the first; C = (I + J / 3), the one-at-a-time design's.
    DoubtMargin m{0, 2.0, {}, {}};
    int columns = 0;
    for (std::size_t g = 0; g < groups; ++g) {
        std::vector<int> row{0};
        for (std::size_t i = 1; i < items; ++i) row.push_back(++columns);
        m.columnOf.push_back(row);
    }
    const auto n = static_cast<std::size_t>(columns) + 1;
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = 0; j < n; ++j) m.covariance.push_back((i == j && i > 0 ? 1.0 : 0.0) + 1.0 / 3);
    p.margins.push_back(m);
    return p;
}

std::int64_t marginOf(const DoubtMargin& m, const std::vector<std::size_t>& items) {
    const auto& c = m.covariance;
    const std::size_t n = m.columns();
    std::vector<std::size_t> held{0};
    for (std::size_t g = 0; g < items.size(); ++g)
        if (m.columnOf[g][items[g]] > 0) held.push_back(static_cast<std::size_t>(m.columnOf[g][items[g]]));
    double v = 0;
    for (const auto i : held)
        for (const auto j : held) v += c[i * n + j];
    return static_cast<std::int64_t>(std::ceil(m.factor * std::sqrt(v) - 1e-9));
}

/// Every combination; the lexicographically highest of the best.
std::optional<std::vector<std::size_t>> bruteForce(const Problem& p) {
    std::vector<std::size_t> items(p.groups.size(), 0), best;
    std::int64_t top = -1;
    bool found = false;
    for (;;) {
        std::int64_t value = 0;
        std::vector<std::int64_t> used(p.capacity.size(), 0);
        for (std::size_t g = 0; g < items.size(); ++g) {
            value += p.groups[g][items[g]].value;
            for (std::size_t r = 0; r < used.size(); ++r) used[r] += p.groups[g][items[g]].use[r];
        }
        for (const auto& m : p.margins) used[m.resource] += marginOf(m, items);
        bool fits = true;
        for (std::size_t r = 0; r < used.size(); ++r) fits = fits && used[r] <= p.capacity[r];
        if (fits && (!found || value > top || (value == top && items > best))) {
            found = true;
            top = value;
            best = items;
        }
        std::size_t g = 0;
        while (g < items.size() && ++items[g] == p.groups[g].size()) items[g++] = 0;
        if (g == items.size()) break;
    }
    return found ? std::optional(best) : std::nullopt;
}

} // namespace

TEST(KnapsackTest, EqualsEveryCombinationWithTies) {
    int infeasible = 0;
    for (std::uint64_t seed = 0; seed < 300; ++seed) {
        const auto p = randomProblem(seed, 6, 4, 1 + seed % 3, seed % 2 == 1);
        const auto wanted = bruteForce(p);
        const auto got = solve(p);
        ASSERT_EQ(got.has_value(), wanted.has_value()) << seed;
        if (!wanted) {
            EXPECT_EQ(got.error().code, ErrorCode::NothingFits);
            ++infeasible;
            continue;
        }
        EXPECT_EQ(got->items, *wanted) << seed;
        EXPECT_TRUE(got->proven);
        EXPECT_EQ(got->bound, got->value);
        for (const auto left : got->left) EXPECT_GE(left, 0);
    }
    EXPECT_LT(infeasible, 200);
}

TEST(KnapsackTest, WhenTheSearchIsCutTheGapIsSaid) {
    const auto p = randomProblem(3, 20, 5, 3, false);
    const auto whole = solve(p);
    ASSERT_TRUE(whole.has_value());
    for (const std::uint64_t nodes : {0U, 3U}) {
        const auto cut = solve(p, {}, {.nodes = nodes});
        ASSERT_TRUE(cut.has_value()) << nodes;
        EXPECT_FALSE(cut->proven) << nodes;
        EXPECT_GE(cut->bound, whole->value) << nodes;
        EXPECT_LE(cut->value, whole->value) << nodes;
    }
}

TEST(KnapsackTest, BegunWhereAnotherEndedItFindsTheSame) {
    Footing footing, other{{1, 2}, {0.5}}; // of no such problem: not used
    for (std::uint64_t seed = 0; seed < 40; ++seed) {
        auto p = randomProblem(200, 8, 4, 2, true);
        for (auto& most : p.capacity) most = most * static_cast<std::int64_t>(60 + seed) / 80;
        const auto wanted = solve(p);
        for (Footing* begun : {&footing, &other}) {
            const auto got = solve(p, {}, {.footing = begun});
            ASSERT_EQ(got.has_value(), wanted.has_value()) << seed;
            if (got) EXPECT_EQ(got->items, wanted->items) << seed;
        }
    }
    EXPECT_EQ(footing.multipliers.size(), 2U);
    EXPECT_EQ(footing.tangent.size(), 32U);
}

TEST(KnapsackTest, WhatMayBeMissedIsSaidAndSparesNodes) {
    std::uint64_t all = 0, fewer = 0;
    for (std::uint64_t seed = 0; seed < 20; ++seed) {
        const auto p = randomProblem(seed, 20, 5, 3, true);
        const auto best = solve(p);
        if (!best) continue;
        ASSERT_TRUE(best->proven);
        const std::int64_t may = best->value / 100;
        const auto near = solve(p, {}, {.mayMiss = may});
        ASSERT_TRUE(near.has_value()) << seed;
        EXPECT_GE(near->value, best->value - may) << seed;
        EXPECT_GE(near->bound, best->value) << seed;
        EXPECT_LE(near->bound, near->value + may) << seed;
        all += best->nodes;
        fewer += near->nodes;
        // What is asked to beat the best finds nothing; what is asked to beat a little less finds the best.
        EXPECT_EQ(solve(p, {}, {.beats = best->value}).error().code, ErrorCode::NothingFits) << seed;
        EXPECT_EQ(solve(p, {}, {.beats = best->value - 1})->items, best->items) << seed;
    }
    EXPECT_LT(2 * fewer, all);
}

TEST(KnapsackTest, CancelIsAnswered) {
    std::stop_source stop;
    stop.request_stop();
    const auto p = randomProblem(4, 20, 5, 4, false);
    const auto result = solve(p, {stop.get_token(), {}});
    ASSERT_FALSE(result.has_value());
    EXPECT_EQ(result.error().code, ErrorCode::Cancelled);
}

TEST(KnapsackTest, NoGroupsAreFreeOfChoice) {
    const auto empty = solve({{}, {5}, {}});
    ASSERT_TRUE(empty.has_value());
    EXPECT_EQ(empty->value, 0);
    EXPECT_EQ(solve({{}, {-1}, {}}).error().code, ErrorCode::NothingFits);
}

TEST(KnapsackTest, TwentyGroupsUnderThreeResourcesWithDoubtAreProven) {
    // Too many to enumerate: no single exchange and no exchange of two may improve what is called best.
    for (std::uint64_t seed = 0; seed < 12; ++seed) {
        const auto p = randomProblem(1000 + seed, 20, 5, 3, true);
        const auto got = solve(p);
        if (!got) {
            EXPECT_EQ(got.error().code, ErrorCode::NothingFits);
            continue;
        }
        EXPECT_TRUE(got->proven) << seed;
        EXPECT_EQ(got->margin[0], marginOf(p.margins[0], got->items));
        auto items = got->items;
        const auto improves = [&] {
            std::int64_t value = 0;
            auto left = p.capacity;
            for (std::size_t g = 0; g < items.size(); ++g) {
                value += p.groups[g][items[g]].value;
                for (std::size_t r = 0; r < left.size(); ++r) left[r] -= p.groups[g][items[g]].use[r];
            }
            left[0] -= marginOf(p.margins[0], items);
            return value > got->value && *std::min_element(left.begin(), left.end()) >= 0;
        };
        for (std::size_t g = 0; g < items.size(); ++g)
            for (std::size_t h = 0; h < g; ++h)
                for (std::size_t i = 0; i < 5; ++i)
                    for (std::size_t j = 0; j < 5; ++j) {
                        items[g] = i;
                        items[h] = j;
                        EXPECT_FALSE(improves()) << seed << " " << g << " " << h;
                        items[g] = got->items[g];
                        items[h] = got->items[h];
                    }
    }
}
