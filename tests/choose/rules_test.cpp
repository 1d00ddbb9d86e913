// SPDX-License-Identifier: GPL-3.0-or-later
// What settings ask of each other, in the choice and around it, against every set there is.
#include "choose/believed.h"

#include <impasto/game/rules.h>

using namespace impasto;
using namespace impasto::choose;
using namespace impasto::support;

namespace {

/// Rules by the setting that makes them.
game::Game ruled(const std::map<std::string, std::string>& texts) {
    auto game = upscaledGame();
    game.rules.clear();
    for (const auto& [id, text] : texts) {
        const auto rules = game::rulesFrom(game, *game.setting(id), text);
        EXPECT_TRUE(rules.has_value()) << text;
        game.rules.insert(game.rules.end(), rules->begin(), rules->end());
    }
    return game;
}

const std::vector<std::map<std::string, std::string>>& cases() {
    static const std::vector<std::map<std::string, std::string>> all{
        {{"reflections", "high needs upscaling: temporal 2.0, learned 2.0"}},
        {{"shadows", "high, ultra without crowd: throng, many"}, {"rain", "heavy needs shadows: low, medium"}},
        {{"upscaling", "learned 2.0, learned 1.5, learned 1.3 without reflections: high"},
         {"crowd", "many, throng needs rain: thin"},
         {"rain", "thin without shadows: ultra"}},
        {{"upscaling", "off needs render_scale: 100%; temporal 2.0 without crowd: few"}}};
    return all;
}

} // namespace

TEST(RulesTest, TheChoiceIsTheBestOfThoseThatObey) {
    const auto machine = machineNamed("sedge-laptop.toml");
    std::size_t bound = 0;
    for (const auto& texts : cases()) {
        const auto game = ruled(texts);
        const auto ground = believed(machine, game), free = believed(machine, ruled({}));
        const auto sets = every(*ground.chooser);
        ASSERT_LT(sets.size(), every(*free.chooser).size());
        for (const double target : {60.0, 75.0, 90.0}) {
            const auto room = ground.room(Fps(target));
            double best = -1;
            for (const auto& set : sets) {
                ASSERT_TRUE(game::brokenBy(game.rules, ground.valuesOf(set)).empty());
                if (ground.chooser->standing(set, room).sure >= usualSafety)
                    best = std::max(best, ground.chooser->picture(set));
            }
            const auto proposal = propose(ground, Fps(target));
            ASSERT_EQ(proposal.has_value(), best >= 0) << target;
            if (!proposal) continue;
            EXPECT_NEAR(proposal->picture, best, 0.006) << target;
            EXPECT_TRUE(game::brokenBy(game.rules, proposal->values).empty()) << target;
            bound += game::brokenBy(game.rules, propose(free, Fps(target))->values).empty() ? 0 : 1;
        }
    }
    EXPECT_GE(bound, 3U) << "without rules another set is chosen";
}

TEST(RulesTest, WaysBestSetsAndTestRunsObeyToo) {
    const auto machine = machineNamed("sedge-laptop.toml");
    for (const auto& texts : cases()) {
        const auto game = ruled(texts);
        const auto ground = believed(machine, game);
        const auto obeys = [&](const game::Values& values) { return game::brokenBy(game.rules, values).empty(); };
        const auto ways = waysTo(ground, Fps(75));
        ASSERT_TRUE(ways.has_value());
        for (const auto& way : *ways) EXPECT_TRUE(obeys(way.proposal.values)) << way.size.name;
        const auto front = frontOf(ground, {}, 8);
        ASSERT_TRUE(front.has_value());
        EXPECT_GE(front->size(), 3U);
        for (const auto& one : *front) EXPECT_TRUE(obeys(one.values)) << one.holds.value();
        for (std::uint64_t seed = 0; seed < 4; ++seed) {
            const auto advice = advise(*ground.chooser, ground.room(Fps(75)), {}, 0, seed);
            ASSERT_TRUE(advice && advice->next);
            EXPECT_TRUE(obeys(ground.valuesOf(*advice->next)));
            EXPECT_TRUE(obeys(ground.valuesOf(advice->best.set)));
        }
    }
}

TEST(RulesTest, WhyNotNamesTheRuleAndWhatHasToGo) {
    const auto machine = machineNamed("sedge-laptop.toml");
    const auto game = ruled({{"reflections", "high needs upscaling: temporal 2.0, learned 2.0"}});
    auto ground = believed(machine, game);
    auto choice = propose(ground, Fps(60))->values;
    choice["reflections"] = "medium";
    choice["upscaling"] = "off";
    const auto asked = whyNot(ground, choice, Fps(60), {"reflections", "high"});
    ASSERT_TRUE(asked.has_value());
    ASSERT_EQ(asked->broken.size(), 1U);
    EXPECT_EQ(asked->broken.front().other, "upscaling");
    EXPECT_EQ(asked->barred, Barred::No);
    ASSERT_TRUE(asked->with.has_value());
    EXPECT_EQ(asked->with->values.at("reflections"), "high");
    EXPECT_TRUE(game::brokenBy(game.rules, asked->with->values).empty());
    // Where what it asks for is locked, nothing has it.
    ground.chooser = std::make_shared<const Chooser>(ground.belief(), game,
                                                     heldAnd(ground.belief().layout(), game, {{"upscaling", "off"}}));
    const auto barred = whyNot(ground, choice, Fps(60), {"reflections", "high"});
    ASSERT_TRUE(barred.has_value());
    EXPECT_EQ(barred->barred, Barred::ByRules);
    EXPECT_FALSE(barred->with.has_value());
}

TEST(RulesTest, LocksThatLeaveNoSetGoBeforeTheRules) {
    const auto game = ruled({{"reflections", "high needs upscaling: temporal 2.0, learned 2.0"}});
    const auto ground = believed(machineNamed("sedge-laptop.toml"), game);
    const auto& layout = ground.belief().layout();
    const auto both = Allowed::of(layout, {{"reflections", "high"}, {"upscaling", "off"}}, {}, game.rules);
    EXPECT_FALSE(both.rulesKept);
    EXPECT_FALSE(both.apart().empty());
    EXPECT_TRUE(Allowed::of(layout, {{"reflections", "high"}}, {}, game.rules).rulesKept);
    // A setting of taste is never varied: what it asks for stands.
    auto taste = layout;
    const auto dial = *taste.dialOf("reflections");
    taste.fixed["reflections"] = "high";
    taste.dials.erase(taste.dials.begin() + static_cast<std::ptrdiff_t>(dial));
    const auto fixed = Allowed::of(taste, {}, {}, game.rules);
    EXPECT_TRUE(fixed.rules.empty());
    for (std::size_t g = 0; g < taste.sizes.size(); ++g)
        if (fixed.sizes[g])
            EXPECT_EQ(taste.sizes[g].levels.at("upscaling").substr(taste.sizes[g].levels.at("upscaling").size() - 3),
                      "2.0");
}

TEST(RulesTest, TheTruthKnowsThemToo) {
    const auto machine = machineNamed("sedge-laptop.toml");
    auto game = gameNamed("rainmarket.toml");
    run::Variant variant;
    variant.values = game.presets.front().values;
    variant.resolution = machine.panel.native;
    rig_truth::Room room{std::vector<rig_truth::Room::Lanes>(game.routes.front().parts.size(), {12.5, 12.5}), 6800};
    game.rules.clear();
    const auto free = rig_truth::bestValues(originals(), machine, game, variant, game.routes.front().name, room);
    ASSERT_TRUE(free && *free);
    const std::string level = (*free)->values.at("shadows");
    game.rules = *game::rulesFrom(game, *game.setting("shadows"), level + " needs crowd: few");
    const auto bound = rig_truth::bestValues(originals(), machine, game, variant, game.routes.front().name, room);
    ASSERT_TRUE(bound && *bound);
    EXPECT_LT((*bound)->picture, (*free)->picture);
    EXPECT_TRUE(game::brokenBy(game.rules, (*bound)->values).empty());
}
