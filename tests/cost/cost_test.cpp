// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/cost/cost.h>

using namespace impasto;
using namespace impasto::cost;
using impasto::support::smallGame;

namespace {

const game::Values baseline{{"heavy", "high"}, {"crowd", "many"}, {"taste", "on"}};

game::Values with(const std::string& id, const std::string& level) {
    game::Values v = baseline;
    v[id] = level;
    return v;
}

} // namespace

TEST(CostTest, DifferencesOfMeansByHand) {
    const std::vector<Observation> seen{
        {baseline, 10.0}, {baseline, 10.2}, {baseline, 9.8}, {with("heavy", "low"), 7.0}, {with("crowd", "few"), 9.0}};
    const auto f = fit(smallGame(), baseline, seen);
    ASSERT_TRUE(f);
    EXPECT_NEAR(f->estimate[0], 10.0, 1e-12);
    EXPECT_NEAR(f->estimate[*f->indexOf({"heavy", "low"})], -3.0, 1e-12);
    EXPECT_NEAR(f->residualSd, 0.2, 1e-12);
    EXPECT_EQ(f->degreesOfFreedom, 2);
    // Var(difference) = s^2 (1 + 1/3); Cov of two differences = s^2 / 3.
    EXPECT_NEAR(f->standardError(*f->indexOf({"heavy", "low"})), 0.2 * std::sqrt(4.0 / 3), 1e-12);
    EXPECT_NEAR(f->covarianceOf(1, 2), 0.04 / 3, 1e-12);
}

TEST(CostTest, WithoutRepeatsNothingIsSaid) {
    EXPECT_FALSE(fit(smallGame(), baseline, std::vector<Observation>{{baseline, 10}, {with("heavy", "low"), 7}}));
    EXPECT_FALSE(fit(smallGame(), baseline, {}));
}

TEST(CostTest, ARunOfTwoChangesCountsOnceEachIsKnown) {
    std::vector<Observation> seen{{baseline, 10}, {baseline, 10.1}, {with("heavy", "low"), 7}};
    game::Values both = with("heavy", "low");
    both["crowd"] = "few";
    seen.push_back({both, 6.0});
    EXPECT_EQ(fit(smallGame(), baseline, seen)->columns.size(), 1U);
    seen.push_back({with("crowd", "few"), 9.0});
    const auto f = fit(smallGame(), baseline, seen);
    EXPECT_EQ(f->columns.size(), 2U);
    EXPECT_EQ(f->degreesOfFreedom, 2);
    const auto p = predict(*f, baseline, both);
    ASSERT_TRUE(p);
    EXPECT_NEAR(p->mean, 6.0, 0.1);
    EXPECT_FALSE(predict(*f, baseline, with("taste", "off")));
}

TEST(CostTest, ThePlanMeasuresWhatPaysWhereItIsNeeded) {
    const auto game = support::saltmarsh();
    const auto& values = game.presets.front().values;
    const auto has = [](const std::vector<LevelKey>& plan, const char* setting) {
        return std::count_if(plan.begin(), plan.end(), [&](const LevelKey& k) { return k.setting == setting; });
    };
    const auto gpu = plan(game, values, {false, true, false});
    EXPECT_EQ(has(gpu, "shadows"), 2) << "every level under the one in use";
    EXPECT_EQ(has(gpu, "boats"), 1) << "its lowest level alone: the CPU has nothing to save";
    EXPECT_EQ(has(gpu, "lens"), 0) << "taste is never measured";
    EXPECT_EQ(has(plan(game, values, {true, false, false}), "boats"), 2);
    game::Values lowest;
    for (const auto& s : game.settings) lowest[s.id] = s.levels.front().name;
    EXPECT_TRUE(plan(game, lowest, {true, true, true}).empty()) << "nothing lies below the lowest";
    const auto up = plan(game, lowest, {true, false, false});
    EXPECT_EQ(has(up, "boats"), 0) << "the CPU has no room for more";
    EXPECT_EQ(has(up, "shadows"), 1) << "the GPU has: the next level up";
    const auto it = std::find_if(up.begin(), up.end(), [](const LevelKey& k) { return k.setting == "shadows"; });
    ASSERT_NE(it, up.end());
    EXPECT_EQ(it->level, "medium");
}
