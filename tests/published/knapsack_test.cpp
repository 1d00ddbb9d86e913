// SPDX-License-Identifier: GPL-3.0-or-later
// Multiple-choice knapsacks (Kellerer, Pferschy, Pisinger 2004, ch. 11; from memory) whose optima GLPK 5.0, CBC 2.10.8
// and HiGHS (scipy 1.10.1) agree on; K1 to K3 by full enumeration too. A thousand more that are drawn, by HiGHS alone:
// tables/knapsacks.txt, made by tables/make_knapsacks.py.
#include "support/support.h"

#include <impasto/choose/knapsack.h>
#include <sstream>

using namespace impasto;
using namespace impasto::choose;

namespace {

using Rows = std::vector<std::vector<std::array<std::int64_t, 3>>>;

Problem problemOf(const Rows& rows, std::vector<std::int64_t> capacity) {
    Problem p;
    p.capacity = std::move(capacity);
    for (const auto& group : rows) {
        p.groups.emplace_back();
        for (const auto& [value, a, b] : group) p.groups.back().push_back({value, {a, b}});
    }
    return p;
}

/// 20 groups of 5 items under 4 resources by a linear congruential generator, x <- 1664525 x + 1013904223 mod 2^32.
Problem generated(bool monotone, std::uint32_t seed, std::int64_t& values, std::int64_t& uses) {
    std::uint32_t x = seed;
    const auto r = [&](std::uint32_t m) {
        x = x * 1664525U + 1013904223U;
        return static_cast<std::int64_t>((x >> 16U) % m);
    };
    Problem p;
    values = uses = 0;
    std::vector<std::int64_t> sums(4, 0), ends(4, 0);
    for (int g = 0; g < 20; ++g) {
        p.groups.emplace_back();
        for (int l = 0; l < 5; ++l) {
            Item item;
            const Item* last = l > 0 ? &p.groups.back().back() : nullptr;
            item.value = !monotone ? r(100) : last == nullptr ? r(10) : last->value + 1 + r(20);
            for (std::size_t c = 0; c < 4; ++c)
                item.use.push_back(!monotone ? r(50) : last == nullptr ? r(8) : last->use[c] + r(16));
            values += item.value;
            for (std::size_t c = 0; c < 4; ++c) {
                uses += item.use[c];
                sums[c] += item.use[c];
                if (l == 0 || l == 4) ends[c] += item.use[c];
            }
            p.groups.back().push_back(item);
        }
    }
    for (std::size_t c = 0; c < 4; ++c) p.capacity.push_back(monotone ? ends[c] / 2 : 4 * sums[c] / 25);
    return p;
}

/// splitmix64 (Steele, Lea and Flood 2014).
class Mix {
  public:
    explicit Mix(std::uint64_t state) : m_state(state) {}
    std::int64_t below(std::uint64_t n) {
        std::uint64_t z = m_state += 0x9e3779b97f4a7c15U;
        z = (z ^ (z >> 30U)) * 0xbf58476d1ce4e5b9U;
        z = (z ^ (z >> 27U)) * 0x94d049bb133111ebU;
        return static_cast<std::int64_t>((z ^ (z >> 31U)) % n);
    }

  private:
    std::uint64_t m_state;
};

/// As tables/make_knapsacks.py draws them; `kind` counts as there.
Problem drawnKnapsack(std::uint64_t kind, std::size_t groups, std::uint64_t seed) {
    constexpr std::size_t items = 5, resources = 4;
    Mix mix(1000003 * seed + kind);
    Problem p;
    std::vector<std::int64_t> least(resources, 0), most(resources, 0);
    for (std::size_t g = 0; g < groups; ++g) {
        auto& group = p.groups.emplace_back();
        std::array<bool, resources> pays{};
        pays[0] = mix.below(100) < 60;
        pays[1] = mix.below(100) < 40 || !pays[0];
        pays[2] = mix.below(100) < 30;
        pays[3] = pays[0];
        Item level{0, std::vector<std::int64_t>(resources, 0)};
        for (std::size_t l = 0; l < items; ++l) {
            Item& item = group.emplace_back();
            if (kind == 0) {
                item = level;
                std::array<std::int64_t, resources> step{};
                for (std::size_t r = 0; r < 3; ++r) step.at(r) = mix.below(400);
                step[3] = step[0] * (85 + mix.below(31)) / 100;
                level.value += mix.below(2500) / static_cast<std::int64_t>(l + 1);
                for (std::size_t r = 0; r < resources; ++r) level.use[r] += pays.at(r) ? step.at(r) : 0;
                continue;
            }
            std::int64_t mean = 0;
            for (std::size_t r = 0; r < resources; ++r) mean += item.use.emplace_back(1 + mix.below(1000));
            mean /= static_cast<std::int64_t>(resources);
            const auto value = mix.below(1000);
            item.value = kind == 1   ? 1 + value
                         : kind == 2 ? std::max<std::int64_t>(1, mean + value % 201 - 100)
                                     : mean + 100;
        }
        for (std::size_t r = 0; r < resources; ++r) {
            const auto [low, high] = std::minmax_element(
                group.begin(), group.end(), [r](const Item& a, const Item& b) { return a.use[r] < b.use[r]; });
            least[r] += low->use[r];
            most[r] += high->use[r];
        }
    }
    for (std::size_t r = 0; r < resources; ++r) p.capacity.push_back((least[r] + most[r]) / 2);
    return p;
}

} // namespace

TEST(PublishedKnapsackTest, SmallInstances) {
    const Rows k1{{{0, 3, 64}, {19, 15, 199}, {39, 24, 242}, {47, 36, 270}},
                  {{3, 2, 30}, {4, 5, 64}, {12, 12, 125}, {19, 23, 233}},
                  {{1, 0, 39}, {3, 2, 147}, {14, 9, 239}, {26, 19, 365}},
                  {{0, 2, 69}, {13, 4, 169}, {18, 11, 315}, {32, 19, 352}},
                  {{2, 2, 35}, {8, 8, 130}, {27, 10, 212}, {45, 20, 297}},
                  {{5, 1, 27}, {16, 3, 82}, {24, 6, 223}, {27, 16, 350}}};
    const auto a = solve(problemOf(k1, {100, 1500}));
    EXPECT_EQ(a->value, 170);
    EXPECT_EQ(a->items, (std::vector<std::size_t>{2, 2, 3, 3, 3, 1}));
    EXPECT_EQ(a->left, (std::vector<std::int64_t>{3, 37}));
    EXPECT_EQ(solve(problemOf(k1, {9, 1500})).error().code, ErrorCode::NothingFits);
    // The least use of the first resource is 10: one choice is left, the lowest of every group, worth 11 by hand.
    EXPECT_EQ(solve(problemOf(k1, {10, 1500}))->items, std::vector<std::size_t>(6, 0));
    EXPECT_EQ(solve(problemOf(k1, {10, 1500}))->value, 11);
    const Rows k2{{{5, 4, 32}, {15, 15, 167}, {16, 16, 314}, {23, 20, 362}},
                  {{4, 1, 25}, {22, 9, 163}, {42, 21, 229}, {43, 29, 332}},
                  {{0, 4, 76}, {10, 9, 220}, {19, 21, 260}, {25, 26, 370}},
                  {{1, 1, 20}, {4, 6, 157}, {12, 12, 302}, {25, 13, 306}},
                  {{4, 3, 50}, {24, 12, 125}, {41, 16, 252}, {56, 18, 366}},
                  {{5, 4, 42}, {12, 7, 77}, {30, 8, 95}, {45, 10, 223}}};
    EXPECT_EQ(solve(problemOf(k2, {120, 1000}))->value, 149);
    const Rows k3{{{30, 29, 175}, {55, 39, 216}, {2, 38, 42}, {39, 30, 155}},
                  {{36, 28, 108}, {25, 19, 284}, {27, 15, 230}, {10, 36, 209}},
                  {{59, 17, 197}, {44, 11, 241}, {13, 37, 278}, {25, 5, 166}},
                  {{43, 29, 260}, {0, 1, 105}, {41, 27, 130}, {35, 8, 32}},
                  {{24, 5, 157}, {41, 18, 234}, {25, 7, 121}, {9, 9, 268}},
                  {{3, 14, 221}, {1, 14, 205}, {8, 5, 25}, {33, 25, 3}}};
    const auto c = solve(problemOf(k3, {95, 800}));
    EXPECT_EQ(c->value, 202);
    EXPECT_EQ(c->items, (std::vector<std::size_t>{3, 0, 0, 3, 2, 2}));
}

TEST(PublishedKnapsackTest, LargeInstances) {
    struct Case {
        bool monotone;
        std::uint32_t seed;
        std::int64_t values, uses, optimum;
    };
    const Case cases[] = {{true, 1, 2508, 7067, 653},    {true, 2, 2431, 7594, 628},   {true, 3, 2656, 7604, 651},
                          {true, 4, 2917, 7445, 715},    {true, 5, 2499, 7151, 642},   {false, 1, 4774, 9360, 1502},
                          {false, 2, 4878, 10044, 1526}, {false, 3, 5202, 9748, 1503}, {false, 4, 5164, 10244, 1636},
                          {false, 5, 5302, 9720, 1451}};
    for (const auto& c : cases) {
        std::int64_t values = 0, uses = 0;
        const auto p = generated(c.monotone, c.seed, values, uses);
        ASSERT_EQ(values, c.values);
        ASSERT_EQ(uses, c.uses);
        const auto got = solve(p);
        ASSERT_TRUE(got.has_value());
        EXPECT_TRUE(got->proven) << got->nodes;
        EXPECT_EQ(got->value, c.optimum) << (c.monotone ? "M" : "F") << c.seed;
    }
}

TEST(PublishedKnapsackTest, AThousandDrawnOnesHaveTheOptimumOfAnIntegerProgram) {
    std::istringstream table(support::textOf(support::sourceDir() / "tests/published/tables/knapsacks.txt"));
    const std::vector<std::string> kinds{"levels", "uncorrelated", "weakly", "strongly"};
    std::string kind;
    std::size_t groups = 0, rows = 0;
    std::uint64_t seed = 0;
    std::int64_t sum = 0, optimum = 0;
    for (; table >> kind >> groups >> seed >> sum >> optimum; ++rows) {
        const auto index = std::find(kinds.begin(), kinds.end(), kind) - kinds.begin();
        const auto p = drawnKnapsack(static_cast<std::uint64_t>(index), groups, seed);
        for (const auto& group : p.groups)
            for (const auto& item : group) {
                sum -= item.value;
                for (const auto use : item.use) sum -= use;
            }
        ASSERT_EQ(sum, 0) << kind << " " << seed << ": not the one that was solved";
        const auto got = solve(p);
        ASSERT_EQ(got.has_value(), optimum >= 0) << kind << " " << seed;
        if (!got) continue;
        ASSERT_TRUE(got->proven) << kind << " " << seed;
        ASSERT_EQ(got->value, optimum) << kind << " " << seed;
        std::int64_t value = 0;
        auto left = p.capacity;
        for (std::size_t g = 0; g < p.groups.size(); ++g) {
            value += p.groups[g][got->items[g]].value;
            for (std::size_t r = 0; r < left.size(); ++r) left[r] -= p.groups[g][got->items[g]].use[r];
        }
        ASSERT_EQ(value, optimum);
        for (const auto each : left) ASSERT_GE(each, 0);
    }
    EXPECT_EQ(rows, 1000U);
}
