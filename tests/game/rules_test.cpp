// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/game/rules.h>

#include "support/support.h"

using namespace impasto;
using namespace impasto::game;

namespace {

Game gameWith(std::string_view rules) {
    const auto game =
        parseGame("name = \"x\"\n"
                  "[[setting]]\nid = \"fog\"\nlabel = \"Fog bank\"\nlevels = [\"thin\", \"thick\", \"wall\"]\n" +
                      std::string(rules) + "[[setting]]\nid = \"sails\"\nlevels = [\"few\", \"some\", \"all\"]\n",
                  "rules");
    EXPECT_TRUE(game.has_value());
    return game.value_or(Game());
}

} // namespace

TEST(RulesOfSettingsTest, AreReadWrittenAndReadAgain) {
    const Game game = gameWith("rules = [\"wall needs sails: few\", \"thick, wall without sails: all\"]\n");
    ASSERT_EQ(game.rules.size(), 2U);
    EXPECT_EQ(game.rules[0], (Rule{"fog", {"wall"}, "sails", {"few"}}));
    EXPECT_EQ(game.rules[1], (Rule{"fog", {"thick", "wall"}, "sails", {"few", "some"}}));
    const auto again = parseGame(toToml(game), "again");
    ASSERT_TRUE(again.has_value());
    EXPECT_EQ(again->rules, game.rules);
    EXPECT_EQ(rulesOf(game, *game.setting("fog")), "wall needs sails: few; thick, wall without sails: all");
    EXPECT_EQ(rulesOf(game, *game.setting("sails")), "");
    EXPECT_EQ(*rulesFrom(game, *game.setting("fog"), rulesOf(game, *game.setting("fog"))), game.rules);
    const auto labelled = rulesFrom(game, *game.setting("sails"), "all needs FOG BANK: thin;");
    ASSERT_TRUE(labelled.has_value()) << "others may be called by their label";
    EXPECT_EQ(labelled->front().other, "fog");
    EXPECT_TRUE(rulesFrom(game, *game.setting("sails"), " ; ")->empty());
}

TEST(RulesOfSettingsTest, WhatIsNoRuleIsRefused) {
    const Game game = gameWith("");
    const auto codeOf = [&](const char* text) { return rulesFrom(game, *game.setting("fog"), text).error().code; };
    EXPECT_EQ(codeOf("wall"), ErrorCode::BadValue);
    EXPECT_EQ(codeOf("wall needs sails"), ErrorCode::BadValue);
    EXPECT_EQ(codeOf("needs sails: few"), ErrorCode::BadValue);
    EXPECT_EQ(codeOf("wall needs sails:"), ErrorCode::BadValue);
    EXPECT_EQ(codeOf("wall without sails: few, some, all"), ErrorCode::BadValue) << "no level is left";
    EXPECT_EQ(codeOf("wall needs oars: few"), ErrorCode::UnknownName);
    EXPECT_EQ(codeOf("wall needs fog: thin"), ErrorCode::UnknownName) << "of another setting";
    EXPECT_EQ(codeOf("gale needs sails: few"), ErrorCode::UnknownName);
    EXPECT_EQ(codeOf("wall needs sails: none"), ErrorCode::UnknownName);
    const auto at = parseGame("name = \"x\"\n[[setting]]\nid = \"fog\"\nlevels = [\"thin\", \"thick\"]\n"
                              "rules = [\"thick needs oars: few\"]\n",
                              "rules.toml");
    ASSERT_FALSE(at.has_value());
    EXPECT_EQ(at.error().where.key, "setting[0].rules");
}

TEST(RulesOfSettingsTest, ValuesBreakThemOrDoNot) {
    const Game game = gameWith("rules = [\"thick, wall without sails: all\"]\n");
    EXPECT_TRUE(brokenBy(game.rules, {{"fog", "thin"}, {"sails", "all"}}).empty());
    EXPECT_TRUE(brokenBy(game.rules, {{"fog", "wall"}, {"sails", "some"}}).empty());
    EXPECT_EQ(brokenBy(game.rules, {{"fog", "wall"}, {"sails", "all"}}).size(), 1U);
    EXPECT_TRUE(brokenBy(game.rules, {{"fog", "wall"}}).empty());
}

TEST(RulesOfSettingsTest, GoWithTheirSettingsAndLevels) {
    Game game = gameWith("rules = [\"thick, wall without sails: all\"]\n");
    renameInRules(game, "sails", {{"some", "half"}});
    EXPECT_EQ(game.rules.front().needed, (std::vector<std::string>{"few", "half"}));
    game.settings[0].levels.pop_back(); // wall
    game.settings[1].levels[1].name = "half";
    dropOldRules(game);
    ASSERT_EQ(game.rules.size(), 1U);
    EXPECT_EQ(game.rules.front().levels, std::vector<std::string>{"thick"});
    game.settings.pop_back();
    dropOldRules(game);
    EXPECT_TRUE(game.rules.empty());
}
