// SPDX-License-Identifier: GPL-3.0-or-later
// What the search rests on: no bound is under a choice that fits, and no tangent over a margin.
#include <choose/relaxation.h>
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <numeric>

using namespace impasto;
using namespace impasto::choose;

namespace {

/// Four groups of three under two resources, with a doubt whose columns hang together (C = A'A).
Problem problemWithDoubt(std::uint64_t seed) {
    RandomStream s(seed, "relaxation");
    Problem p;
    for (int g = 0; g < 4; ++g) {
        p.groups.emplace_back();
        for (int i = 0; i < 3; ++i)
            p.groups.back().push_back(
                {static_cast<std::int64_t>(s.below(100)),
                 {static_cast<std::int64_t>(s.below(50)), static_cast<std::int64_t>(s.below(50))}});
    }
    p.capacity = {130, 130};
    DoubtMargin m{1, 3.0, {}, {}};
    for (int g = 0; g < 4; ++g) m.columnOf.push_back({0, 2 * g + 1, 2 * g + 2});
    std::vector<double> a(81);
    for (double& v : a) v = s.normal();
    for (int i = 0; i < 9; ++i)
        for (int j = 0; j < 9; ++j) {
            double sum = 0;
            for (int k = 0; k < 9; ++k)
                sum += a[static_cast<std::size_t>(9 * k + i)] * a[static_cast<std::size_t>(9 * k + j)];
            m.covariance.push_back(sum);
        }
    p.margins.push_back(m);
    return p;
}

template <class See>
void everyChoice(See see) {
    Items items(4, 0);
    for (int n = 0; n < 81; ++n) {
        int rest = n;
        for (auto& item : items) {
            item = static_cast<std::size_t>(rest % 3);
            rest /= 3;
        }
        see(items);
    }
}

Shares sharesOf(const Items& items) {
    Shares out(12, 0.0);
    for (std::size_t g = 0; g < items.size(); ++g) out[3 * g + items[g]] = 1;
    return out;
}

double roomLeft(const Linear& linear, const Items& items, std::size_t resource) {
    double left = linear.capacity[resource];
    for (std::size_t g = 0; g < items.size(); ++g) left -= linear.useOf(linear.first[g] + items[g])[resource];
    return left;
}

} // namespace

TEST(RelaxationTest, ATangentNeverTakesMoreThanTheMarginAndAllOfItWhereItTouches) {
    for (std::uint64_t seed = 0; seed < 20; ++seed) {
        const auto p = problemWithDoubt(seed);
        const Exact exact(p);
        const Items at{1, 2, 0, 1};
        const Linear linear = linearAt(p, sharesOf(at));
        everyChoice([&](const Items& items) {
            const auto left = exact.left(items), margin = exact.margins(items);
            const double exactly = static_cast<double>(left[1] - margin[1]);
            EXPECT_GE(roomLeft(linear, items, 1), exactly - 1e-9);
            EXPECT_EQ(roomLeft(linear, items, 0), static_cast<double>(left[0]));
            if (items == at) EXPECT_LT(roomLeft(linear, items, 1), exactly + 1); // the margin is rounded up
        });
    }
}

TEST(RelaxationTest, ATangentAtAMixtureNeverTakesMoreThanTheMargin) {
    for (std::uint64_t seed = 0; seed < 20; ++seed) {
        const auto p = problemWithDoubt(seed);
        const Exact exact(p);
        Shares mixed = sharesOf({1, 2, 0, 1});
        for (std::size_t i = 0; i < mixed.size(); ++i) mixed[i] = 0.7 * mixed[i] + 0.3 * sharesOf({0, 2, 1, 2})[i];
        const Linear linear = linearAt(p, mixed);
        everyChoice([&](const Items& items) {
            EXPECT_GE(roomLeft(linear, items, 1),
                      static_cast<double>(exact.left(items)[1] - exact.margins(items)[1]) - 1e-9);
        });
    }
}

TEST(RelaxationTest, OfChoicesNearOneNoneThatFitsIsTurnedAway) {
    int fitting = 0, turnedAway = 0, broken = 0;
    for (std::uint64_t seed = 0; seed < 20; ++seed) {
        const auto p = problemWithDoubt(seed);
        const Exact exact(p);
        const Items base{1, 2, 0, 1}, groups{0, 2, 3};
        Nearby nearby(p);
        nearby.around(base, groups);
        everyChoice([&](Items items) {
            items[1] = base[1];
            const std::array<Nearby::Change, 3> changes{{{0, items[0]}, {2, items[2]}, {3, items[3]}}};
            const bool may = nearby.mayFit(changes), fits = exact.fits(items);
            EXPECT_TRUE(may || !fits) << seed;
            fitting += fits;
            turnedAway += !may;
            broken += exact.left(items)[1] < exact.margins(items)[1];
        });
    }
    EXPECT_GT(fitting, 50);
    EXPECT_GT(turnedAway, broken * 9 / 10) << "whatever its doubt breaks by more than a unit";
    EXPECT_GT(broken, 50);
}

TEST(RelaxationTest, NoBoundIsUnderAChoiceThatFits) {
    const Items all{0, 1, 2, 3};
    for (std::uint64_t seed = 0; seed < 20; ++seed) {
        const auto p = problemWithDoubt(seed);
        const Exact exact(p);
        const Linear linear = linearAt(p, sharesOf({0, 0, 0, 0}));
        Relaxation relaxation(linear);
        Relaxed at{{0, 0}, infinity, {}};
        const Relaxation::Alive alive(4, 7);
        Items picks;
        const double loose = relaxation.evaluate(all, alive, linear.capacity, {0, 0}, picks);
        relaxation.tighten(all, alive, linear.capacity, 0, 200, at);
        EXPECT_LE(at.bound, loose + 1e-9) << "the steps never make it worse";
        std::int64_t best = 0;
        everyChoice([&](const Items& items) {
            if (exact.fits(items)) best = std::max(best, exact.value(items));
        });
        EXPECT_GE(at.bound, static_cast<double>(best) - 1e-9) << seed;
    }
}
