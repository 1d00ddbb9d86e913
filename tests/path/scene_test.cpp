// SPDX-License-Identifier: GPL-3.0-or-later
// How a scene is played again, and what follows for runs and doubt.
#include "support/support.h"

#include <impasto/results/baseline.h>
#include <impasto/results/costs.h>
#include <impasto/wording/names.h>

using namespace impasto;
using namespace impasto::document;
using namespace impasto::results;
using namespace impasto::path;
using namespace impasto::support;

TEST(SceneTest, FreePlayWantsSeveralRunsFirstAndDoubtsThemMore) {
    Walk fixed = walkedDemo(Action::RecordCosts);
    EXPECT_EQ(idsOf<BaselineRuns>(fixed.results()).size(), 1U);
    Walk free(demoStore());
    ASSERT_TRUE(free.store.apply(setScene(game::SceneKind::FreePlay)).has_value());
    ASSERT_TRUE(free.until(Action::RecordBaseline));
    EXPECT_EQ(free.next().runs, 3U);
    const auto words = wording::reason(wording::Words(), free.store.session(), free.results(), free.next());
    EXPECT_NE(words.find("Free play"), std::string::npos) << words;
    ASSERT_TRUE(free.until(Action::RecordCosts));
    EXPECT_EQ(idsOf<BaselineRuns>(free.results()).size(), 3U);
    // The same runs, said to be of a fixed route, tell more.
    const auto doubt = [](Walk& walk) {
        const auto* costs = walk.results().get<Costs>();
        double sum = 0;
        for (const auto& lane : costs->lanes)
            for (std::size_t i = 1; i < lane.levels.estimate.size(); ++i) sum += lane.levels.halfWidth(i);
        return sum;
    };
    const double asFree = doubt(free);
    ASSERT_TRUE(free.store.apply(setScene(game::SceneKind::FixedRoute)).has_value());
    EXPECT_LT(doubt(free), asFree);
    free.store.undo();
    EXPECT_DOUBLE_EQ(doubt(free), asFree);
}

TEST(SceneTest, WhatCountsAsEvenFollowsTheKind) {
    for (const auto kind : game::allSceneKinds) {
        const auto& rule = game::ruleOf(kind);
        const std::vector<double> apart{60, 60 * (1 + 0.9 * rule.mostSpread)},
            wide{60, 60 * (1 + 1.2 * rule.mostSpread)};
        EXPECT_TRUE(frames::evennessOf(apart, rule.mostSpread).even()) << game::keyOf(kind);
        EXPECT_FALSE(frames::evennessOf(wide, rule.mostSpread).even()) << game::keyOf(kind);
        EXPECT_EQ(game::sceneKindOf(game::keyOf(kind)), kind);
        EXPECT_FALSE(wording::sceneMeaning(wording::Words(), kind).empty());
    }
}

TEST(SceneTest, TheKindIsReadFromADescriptionAndSaidByHand) {
    const auto game = gameWith("saltmarsh-courier.toml", {{"[[route]]\n", "[[route]]\nkind = \"replay\"\n"}});
    EXPECT_EQ(game.routes.front().kind, game::SceneKind::Replay);
    EXPECT_EQ(game::parseGame(game::toToml(game), "again")->routes, game.routes);
    std::string text = textOf(dataFile("games/saltmarsh-courier.toml"));
    text.insert(text.find("[[route]]\n") + 10, "kind = \"dream\"\n");
    const auto wrong = game::parseGame(text, "wrong.toml");
    ASSERT_FALSE(wrong.has_value());
    EXPECT_NE(wrong.error().where.key.find("kind"), std::string::npos) << wrong.error().where.key;
    SessionStore store{Session{}};
    ASSERT_TRUE(store.apply(useGame(store.addGame(game), game)).has_value());
    EXPECT_EQ(store.session().scene(), game::SceneKind::Replay);
    ASSERT_TRUE(store.apply(setScene(game::SceneKind::FreePlay)).has_value());
    EXPECT_EQ(store.session().scene(), game::SceneKind::FreePlay);
    ASSERT_TRUE(store.apply(setRoute(game, game.routes.front().name)).has_value());
    EXPECT_EQ(store.session().scene(), game::SceneKind::Replay) << "another route is another scene";
}
