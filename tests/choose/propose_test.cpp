// SPDX-License-Identifier: GPL-3.0-or-later
#include "choose/ground.h"

using namespace impasto;
using namespace impasto::choose;
using namespace impasto::support;

namespace {

/// Every set of the settings that are not held, by its own prediction; the best picture that fits.
double bestPictureByBruteForce(const Ground& ground, const game::Values& locked, Fps target) {
    const auto game = saltmarsh();
    std::vector<game::Setting> free;
    for (const auto& s : game.settings)
        if (!locked.contains(s.id) && s.weight > 0) free.push_back(s);
    double best = -1;
    auto room = ground.room(target);
    for (auto& parts : room)
        for (double& usable : parts) usable *= 1.0005; // as near as the search takes for a fit
    std::vector<std::size_t> at(free.size(), 0);
    for (;;) {
        game::Values values = ground.baseline;
        for (const auto& [id, level] : locked) values[id] = level;
        for (std::size_t i = 0; i < free.size(); ++i) values[free[i].id] = free[i].levels[at[i]].name;
        if (const double picture = game::pictureValue(game, values); picture > best + 1e-9) {
            const auto set = ground.belief().layout().setOf(values);
            if (ground.chooser->standing(*set, room).sure >= usualSafety) best = picture;
        }
        std::size_t i = 0;
        while (i < at.size() && ++at[i] == free[i].levels.size()) at[i++] = 0;
        if (i == at.size()) return best;
    }
}

} // namespace

TEST(ProposeTest, EqualsBruteForceOnWhatIsBelieved) {
    const auto ground = groundOf(atChoice());
    game::Values locked; // brute force over all eleven settings is a million sets
    for (const char* id : {"texture_filter", "textures", "boats", "view_distance", "water_physics", "reeds"})
        locked[id] = ground.baseline.at(id);
    const auto free = held(ground, locked);
    for (const double target : {60.0, 66.0, 72.0}) {
        const auto proposal = propose(free, Fps(target));
        ASSERT_TRUE(proposal.has_value()) << target;
        // What settings do to each other is taken in where the answer lies: a set elsewhere may be a hair better.
        EXPECT_NEAR(proposal->picture, bestPictureByBruteForce(free, locked, Fps(target)), 0.006) << target;
        EXPECT_TRUE(proposal->proven);
        EXPECT_TRUE(fits(proposal->lanes));
        EXPECT_GE(proposal->chance, 0.5);
        for (const auto& [id, level] : locked) EXPECT_EQ(proposal->values.at(id), level);
    }
}

TEST(ProposeTest, ATargetOutOfReachSaysThatNothingFits) {
    const auto ground = groundOf(atChoice());
    EXPECT_EQ(propose(ground, Fps(400)).error().code, ErrorCode::NothingFits);
    EXPECT_EQ(propose({}, Fps(60)).error().code, ErrorCode::LacksRuns);
}

TEST(ProposeTest, AnEasierTargetNeverKeepsLessPicture) {
    const auto ground = groundOf(atChoice());
    double last = 0;
    for (double target = 84; target >= 40; target -= 4) {
        const auto p = propose(ground, Fps(target));
        if (!p) continue;
        EXPECT_GE(p->picture, last - 0.006) << target;
        last = std::max(last, p->picture);
    }
    EXPECT_GT(last, 0.9);
}

TEST(ProposeTest, LocksAreKeptWhateverTheyCost) {
    const auto ground = held(groundOf(atChoice()), {{"render_scale", "100%"}, {"shadows", "ultra"}});
    const auto p = propose(ground, Fps(56));
    ASSERT_TRUE(p.has_value());
    EXPECT_EQ(p->values.at("render_scale"), "100%");
    EXPECT_EQ(p->values.at("shadows"), "ultra");
    game::Values values = ground.baseline;
    values["shadows"] = "none";
    EXPECT_EQ(outcomeOf(ground, values, Fps(60)).error().code, ErrorCode::UnknownName);
}

TEST(ProposeTest, WhatCannotBeSetIsNotChosen) {
    const auto ground = groundOf(atChoice());
    const auto p = propose(ground, Fps(60));
    ASSERT_TRUE(p.has_value());
    const std::pair<std::string, std::string> taken("render_scale", p->values.at("render_scale"));
    const Allowed allowed = Allowed::of(ground.belief().layout(), {}, {taken});
    Ground without = ground;
    without.chooser = std::make_shared<const Chooser>(ground.belief(), saltmarsh(), allowed);
    const auto other = propose(without, Fps(60));
    ASSERT_TRUE(other.has_value());
    EXPECT_NE(other->values.at("render_scale"), taken.second);
    EXPECT_LE(other->picture, p->picture + 1e-9);
}

TEST(AdviseTest, WhatIsKnownIsNotAskedAgain) {
    auto& walk = atChoice();
    const auto ground = groundOf(walk);
    const auto& tried = walk.results().get<results::Costs>()->tried;
    for (const double target : {62.0, 75.0, 90.0}) {
        const auto advice = advise(*ground.chooser, ground.room(Fps(target)), tried, 0.0001, 5);
        ASSERT_TRUE(advice.has_value());
        if (!advice->next) continue;
        EXPECT_EQ(std::count(tried.begin(), tried.end(), *advice->next), 0);
        const auto again = advise(*ground.chooser, ground.room(Fps(target)), tried, 0.0001, 5);
        EXPECT_EQ(again->next, advice->next) << "the same question has the same answer";
    }
    const auto settled = advise(*ground.chooser, ground.room(Fps(60)), tried, 0.99, 5);
    EXPECT_FALSE(settled->next) << "nothing is worth a run to who is content";
    EXPECT_TRUE(settled->best.fits);
}

TEST(AdviseTest, WhereNothingCanFitOnlyTheSurestIsRun) {
    auto& walk = atChoice();
    const auto ground = groundOf(walk);
    const auto advice = advise(*ground.chooser, ground.room(Fps(400)), {}, 0.01, 5);
    ASSERT_TRUE(advice.has_value());
    EXPECT_FALSE(advice->best.fits);
    EXPECT_EQ(advice->next, advice->best.set);
    EXPECT_EQ(advice->best.set.size, 0U) << "the surest is the lowest";
    EXPECT_FALSE(advise(*ground.chooser, ground.room(Fps(400)), {advice->best.set}, 0.01, 5)->next)
        << "once it was run there is no hope";
}
