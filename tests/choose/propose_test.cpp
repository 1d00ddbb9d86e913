// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

using namespace impasto;
using namespace impasto::choose;
using namespace impasto::support;

namespace {

/// The demo walked to its choice, once.
Walk& atChoice() {
    static Walk walk(demoStore());
    static const bool there = walk.until(path::Action::AcceptChoice);
    EXPECT_TRUE(there);
    return walk;
}

/// Every combination of the settings that are not locked, by its own prediction; the best picture that fits.
double bestPictureByBruteForce(const Ground& ground, Fps target) {
    std::vector<game::Setting> free;
    for (const auto& s : ground.game.settings)
        if (!ground.locked.contains(s.id)) free.push_back(s);
    double best = -1;
    std::vector<std::size_t> at(free.size(), 0);
    for (;;) {
        game::Values values = ground.baseline;
        for (std::size_t i = 0; i < free.size(); ++i) values[free[i].id] = free[i].levels[at[i]].name;
        const auto lanes = outcomeOf(ground, values, target);
        if (lanes && fits(*lanes)) best = std::max(best, game::pictureValue(ground.game, values));
        std::size_t i = 0;
        while (i < at.size() && ++at[i] == free[i].levels.size()) at[i++] = 0;
        if (i == at.size()) return best;
    }
}

} // namespace

TEST(ProposeTest, EqualsBruteForceOnTheEstimatedCosts) {
    auto& walk = atChoice();
    const auto& results = walk.results();
    auto ground = *results::groundOf(walk.store.session(), results);
    // Brute force over all eleven settings is half a million sets: lock six.
    for (const char* id : {"texture_filter", "textures", "boats", "view_distance", "water_physics", "reeds"})
        ground.locked[id] = ground.baseline.at(id);
    ground.gpuMemory.reset();
    for (const double target : {60.0, 66.0, 72.0}) {
        const auto proposal = propose(ground, Fps(target));
        ASSERT_TRUE(proposal.has_value()) << target;
        EXPECT_NEAR(proposal->picture, bestPictureByBruteForce(ground, Fps(target)), 1e-4) << target;
        EXPECT_TRUE(proposal->proven);
        EXPECT_TRUE(fits(proposal->lanes));
    }
}

TEST(ProposeTest, ATargetOutOfReachSaysThatNothingFits) {
    auto& walk = atChoice();
    const auto ground = *results::groundOf(walk.store.session(), walk.results());
    EXPECT_EQ(propose(ground, Fps(400)).error().code, ErrorCode::NothingFits);
    const Ground none{ground.game, ground.baseline, {}, {}, {}, {}};
    EXPECT_EQ(propose(none, Fps(60)).error().code, ErrorCode::LacksRuns);
}

TEST(ProposeTest, AnEasierTargetNeverKeepsLessPicture) {
    auto& walk = atChoice();
    const auto ground = *results::groundOf(walk.store.session(), walk.results());
    double last = 0;
    for (double target = 84; target >= 40; target -= 4) {
        const auto p = propose(ground, Fps(target));
        if (!p) continue;
        EXPECT_GE(p->picture, last - 1e-9) << target;
        last = p->picture;
    }
    EXPECT_GT(last, 0.9);
}

TEST(ProposeTest, LocksAreKeptAndUnmeasuredLevelsAreRefused) {
    auto& walk = atChoice();
    auto ground = *results::groundOf(walk.store.session(), walk.results());
    ground.locked["render_scale"] = "100%";
    const auto p = propose(ground, Fps(60));
    ASSERT_TRUE(p.has_value());
    EXPECT_EQ(p->values.at("render_scale"), "100%");
    ground.locked["shadows"] = "ultra"; // not measured: asked for, never given up in silence
    EXPECT_EQ(propose(ground, Fps(60)).error().code, ErrorCode::LacksRuns);
    game::Values values = ground.baseline;
    values["shadows"] = "ultra";
    const auto outcome = outcomeOf(ground, values, Fps(60));
    ASSERT_FALSE(outcome.has_value());
    EXPECT_EQ(outcome.error().where.key, "shadows");
}
