// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

using namespace impasto;
using namespace impasto::session;
using namespace impasto::support;

TEST(EditTest, BadValuesAreRefusedWithTheirName) {
    const Edits none;
    struct Case {
        Edit edit;
        ErrorCode code;
        const char* key;
    };
    run::Brief highFloor;
    highFloor.lowestLow = Fps(90);
    run::Brief muchPicture;
    muchPicture.pictureFloor = 1.5;
    const auto game = smallGame();
    const Case cases[] = {{setTarget(Fps(5)), ErrorCode::OutOfRange, "target"},
                          {setTarget(Fps(5000)), ErrorCode::OutOfRange, "target"},
                          {setBrief(highFloor), ErrorCode::OutOfRange, "floor"},
                          {setBrief(muchPicture), ErrorCode::OutOfRange, "picture"},
                          {setShares({0.1, 0.9, 0.9}), ErrorCode::OutOfRange, "usable share"},
                          {setRoute(game, "nowhere"), ErrorCode::UnknownName, "route"},
                          {setBaseline(game, {{"heavy", "none"}}), ErrorCode::UnknownName, "heavy"},
                          {changeChoice(game, {}, "nothing", "low", {}), ErrorCode::UnknownName, "nothing"}};
    for (const auto& c : cases) {
        const auto result = c.edit.apply(none);
        ASSERT_FALSE(result.has_value()) << c.key;
        EXPECT_EQ(static_cast<int>(result.error().code), static_cast<int>(c.code)) << c.key;
        EXPECT_EQ(result.error().where.key, c.key);
        EXPECT_EQ(result.error().kept, Kept::AllAsBefore);
    }
}

TEST(EditTest, ALowerTargetTakesTheFloorWithIt) {
    run::Brief brief;
    brief.lowestLow = Fps(50);
    const auto e = setBrief(brief).apply({});
    EXPECT_EQ(setTarget(Fps(40)).apply(*e)->brief->lowestLow, Fps(40));
    EXPECT_EQ(setTarget(Fps(55)).apply(*e)->brief->lowestLow, Fps(50));
}

TEST(EditTest, NamesReadBack) {
    for (int i = 0; i <= static_cast<int>(EditName::SetHitchRule); ++i) {
        const auto name = static_cast<EditName>(i);
        EXPECT_EQ(editNameOf(keyOf(name)), name);
        EXPECT_FALSE(report::Wording().edit(name).empty());
    }
}

TEST(EditTest, AHitchRuleChangesTheHitchesAndNothingElse) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::RecordCosts));
    const auto before = walk.results();
    const RunId run = before.baselineRuns.front();
    ASSERT_TRUE(walk.store.apply(setHitchRule({1.2, 1, 31})).has_value());
    const auto after = walk.results();
    EXPECT_GT(after.figures(run)->summary.hitches.size(), before.figures(run)->summary.hitches.size());
    EXPECT_EQ(after.figures(run)->summary.p99Ms, before.figures(run)->summary.p99Ms);
    EXPECT_EQ(after.basisNow, before.basisNow) << "no decision rests on it";
    for (const stats::HitchRule& bad : {stats::HitchRule{0.5, 4, 31}, {1.75, -1, 31}, {1.75, 4, 30}, {1.75, 4, 1}})
        EXPECT_FALSE(walk.store.apply(setHitchRule(bad)).has_value()) << bad.ratio;
    walk.store.undo();
    EXPECT_EQ(walk.results().figures(run)->summary.hitches.size(), before.figures(run)->summary.hitches.size());
}

TEST(EditTest, ATrimChangesFiguresAndBasisAndCanBeUndone) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::RecordCosts));
    const auto before = walk.results();
    const RunId run = before.baselineRuns.front();
    const auto whole = before.figures(run)->summary;
    ASSERT_TRUE(walk.store.apply(trimRun(run, {{1000, 4000}, {3000, 6000}})).has_value());
    const auto after = walk.results();
    EXPECT_NEAR(after.figures(run)->summary.durationMs, whole.durationMs - 5000, 60);
    EXPECT_LT(after.figures(run)->summary.frames, whole.frames);
    EXPECT_NE(after.basisNow.at("baseline"), before.basisNow.at("baseline")) << "what rests on it is stale";
    EXPECT_EQ(walk.store.session().facts->run(run)->capture->frames(), whole.frames) << "the recording is whole";
    EXPECT_EQ(after.figures(before.baselineRuns.back())->summary.frames,
              before.figures(before.baselineRuns.back())->summary.frames);
    walk.store.undo();
    EXPECT_EQ(walk.results().figures(run)->summary.frames, whole.frames);
    EXPECT_EQ(walk.results().basisNow.at("baseline"), before.basisNow.at("baseline"));
    // All of it away: it counts whole rather than not at all.
    ASSERT_TRUE(walk.store.apply(trimRun(run, {{0, 1e9}})).has_value());
    EXPECT_EQ(walk.results().figures(run)->summary.frames, whole.frames);
    ASSERT_TRUE(walk.store.apply(trimRun(run, {})).has_value());
    EXPECT_TRUE(walk.store.session().edits->trims.empty());
}
