// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

using namespace impasto;
using namespace impasto::document;
using namespace impasto::results;
using namespace impasto::path;
using namespace impasto::proof;
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
    run::Brief hungry;
    hungry.bounds[run::Bound::Power] = 0.5;
    run::Brief hot;
    hot.bounds[run::Bound::GpuTemperature] = 200;
    const auto game = smallGame();
    const Case cases[] = {{setTarget(Fps(5)), ErrorCode::OutOfRange, "target"},
                          {setTarget(Fps(5000)), ErrorCode::OutOfRange, "target"},
                          {setBrief(highFloor), ErrorCode::OutOfRange, "floor"},
                          {setBrief(muchPicture), ErrorCode::OutOfRange, "picture"},
                          {setBrief(hungry), ErrorCode::OutOfRange, "power"},
                          {setBrief(hot), ErrorCode::OutOfRange, "GPU temperature"},
                          {setShares({0.1, 0.9, 0.9}), ErrorCode::OutOfRange, "safe limit"},
                          {setFollowRest(0), ErrorCode::OutOfRange, "rest of a log"},
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

TEST(EditTest, TextsHaveALength) {
    const document::Edits before;
    EXPECT_TRUE(writeNote(std::string(mostNoteBytes, 'x')).apply(before).has_value());
    EXPECT_EQ(writeNote(std::string(mostNoteBytes + 1, 'x')).apply(before).error().code, ErrorCode::OutOfRange);
    EXPECT_EQ(setName(std::string(mostNameBytes + 1, 'x')).apply(before).error().code, ErrorCode::OutOfRange);
}

TEST(EditTest, ATargetThatGoesDownAndUpAgainLeavesTheFloorAsItWas) {
    run::Brief brief;
    brief.lowestLow = Fps(50);
    const auto e = setBrief(brief).apply({});
    const auto lower = setTarget(Fps(40)).apply(*e);
    EXPECT_EQ(lower->goal.brief->floor(), Fps(40)) << "never above the target";
    run::Brief quiet = *lower->goal.brief;
    quiet.style = run::Style::Quiet;
    const auto styled = setBrief(quiet).apply(*lower);
    ASSERT_TRUE(styled.has_value()) << "the floor that was kept is no new wish";
    EXPECT_EQ(setTarget(Fps(60)).apply(*styled)->goal.brief->floor(), Fps(50));
}

TEST(EditTest, SeveralEditsAreOneStepAndFailAsOne) {
    SessionStore store{Session{}};
    ASSERT_TRUE(store.apply(together("start", {writeNote("a"), setTarget(Fps(72))})).has_value());
    EXPECT_EQ(store.steps().size(), 1U);
    EXPECT_EQ(store.undoable(), "start");
    EXPECT_FALSE(store.apply(together("start", {writeNote("b"), setTarget(Fps(5))})).has_value());
    EXPECT_EQ(store.session().edits->record.note, "a") << "nothing of it";
    store.undo();
    EXPECT_EQ(*store.session().edits, Edits{});
}

TEST(EditTest, AGameDescribedAnewKeepsLevelsLocksAndRoute) {
    auto game = smallGame();
    SessionStore store{Session{}};
    ASSERT_TRUE(store.apply(useGame(store.addGame(game), game)).has_value());
    ASSERT_TRUE(store.apply(setBaseline(game, {{"heavy", "low"}, {"crowd", "few"}, {"taste", "on"}})).has_value());
    ASSERT_TRUE(store.apply(lockSetting("heavy", "low")).has_value());
    ASSERT_TRUE(store.apply(lockSetting("crowd", "few")).has_value());
    game.name = "Small, renamed";
    std::erase_if(game.settings, [](const game::Setting& s) { return s.id == "crowd"; });
    for (auto& preset : game.presets) preset.values.erase("crowd");
    game.settings.push_back({"fog", "Fog", 1, false, true, false, {{"off", 0, {}}, {"on", 1, {}}}});
    for (auto& preset : game.presets) preset.values["fog"] = "on";
    const auto revised = gameFrom(game::toToml(game));
    ASSERT_TRUE(store.apply(reviseGame(store.addGame(revised), revised)).has_value());
    const auto& e = *store.session().edits;
    EXPECT_EQ(e.settings.baseline, (game::Values{{"heavy", "low"}, {"taste", "on"}, {"fog", "on"}}));
    EXPECT_EQ(e.settings.locked, (game::Values{{"heavy", "low"}}));
    EXPECT_EQ(e.subject.route, "lap");
    EXPECT_EQ(store.session().name(), "Small, renamed");
}

TEST(EditTest, EveryEditHasWords) {
    const auto game = smallGame();
    for (const auto& edit : {useMachine(0),
                             useGame(0, game),
                             reviseGame(0, game),
                             useRig(RigKind::Hand),
                             setRoute(game, "lap"),
                             setScene(game::SceneKind::Replay),
                             setState("conditions.fans", "quiet"),
                             setPartColumn("scene"),
                             arrive({}),
                             stopMeasuring(true),
                             stopMeasuring(false),
                             setGoodEnough(0.02),
                             beginWith(EarlierRuns{}),
                             beginWith({}),
                             takeWalk(choose::WalkSchool::TopDown),
                             answerOrder({}, {}),
                             askStart(false),
                             setTitle("x"),
                             setName("x"),
                             setBrief({}),
                             setTarget(Fps(60)),
                             setShares({}),
                             setBaseline(game, {}),
                             lockSetting("a", "b"),
                             acceptChoice({}),
                             changeChoice(game, {}, "heavy", "low", {}),
                             leaveOut({}, LeftOut::ByHand),
                             countRun({}),
                             trimRun({}, {}),
                             hideRun({}),
                             useReading({}, {}),
                             setHitchRule({}),
                             setFollowRest(15),
                             setFollowSensors(true),
                             chooseCap({}),
                             keepResult({}),
                             writeNote("x")})
        EXPECT_NE(wording::edit(wording::Words(), edit.name), edit.name) << "it has words";
}

TEST(EditTest, AHitchRuleChangesTheHitchesAndNothingElse) {
    Walk walk = walkedDemo(Action::RecordCosts);
    const auto before = walk.results();
    const RunId run = results::idsOf<results::BaselineRuns>(before).front();
    ASSERT_TRUE(walk.store.apply(setHitchRule({1.2, 1, 31})).has_value());
    const auto after = walk.results();
    EXPECT_GT(after.of<results::RunFigures>(run)->summary.hitches.size(),
              before.of<results::RunFigures>(run)->summary.hitches.size());
    EXPECT_EQ(after.of<results::RunFigures>(run)->summary.p99Ms, before.of<results::RunFigures>(run)->summary.p99Ms);
    EXPECT_EQ(results::standingOf(after).now, results::standingOf(before).now) << "no decision rests on it";
    for (const frames::HitchRule& bad : {frames::HitchRule{0.5, 4, 31}, {1.75, -1, 31}, {1.75, 4, 30}, {1.75, 4, 1}})
        EXPECT_FALSE(walk.store.apply(setHitchRule(bad)).has_value()) << bad.ratio;
    walk.store.undo();
    EXPECT_EQ(walk.results().of<results::RunFigures>(run)->summary.hitches.size(),
              before.of<results::RunFigures>(run)->summary.hitches.size());
}

TEST(EditTest, ATrimChangesFiguresAndBasisAndCanBeUndone) {
    Walk walk = walkedDemo(Action::RecordCosts);
    ASSERT_TRUE(walk.step());
    const auto before = walk.results();
    const RunId run = results::idsOf<results::BaselineRuns>(before).front(),
                other = results::idsOf<results::CostRuns>(before).front();
    const auto whole = before.of<results::RunFigures>(run)->summary;
    ASSERT_TRUE(walk.store.apply(trimRun(run, {{1000, 4000}, {3000, 6000}})).has_value());
    const auto after = walk.results();
    EXPECT_NEAR(after.of<results::RunFigures>(run)->summary.durationMs, whole.durationMs - 5000, 60);
    EXPECT_LT(after.of<results::RunFigures>(run)->summary.frames, whole.frames);
    EXPECT_NE(results::standingOf(after).now.at("baseline"), results::standingOf(before).now.at("baseline"))
        << "what rests on it is stale";
    EXPECT_EQ(walk.store.session().facts->run(run)->capture->frames(), whole.frames) << "the recording is whole";
    EXPECT_EQ(after.of<results::RunFigures>(other)->summary.frames,
              before.of<results::RunFigures>(other)->summary.frames);
    walk.store.undo();
    EXPECT_EQ(walk.results().of<results::RunFigures>(run)->summary.frames, whole.frames);
    EXPECT_EQ(results::standingOf(walk.results()).now.at("baseline"), results::standingOf(before).now.at("baseline"));
    // All of it away: it counts whole rather than not at all.
    ASSERT_TRUE(walk.store.apply(trimRun(run, {{0, 1e9}})).has_value());
    EXPECT_EQ(walk.results().of<results::RunFigures>(run)->summary.frames, whole.frames);
    ASSERT_TRUE(walk.store.apply(trimRun(run, {})).has_value());
    EXPECT_TRUE(walk.store.session().edits->runs.trims.empty());
}

TEST(EditTest, TheStateIsSaidByConditionsThatRunsShare) {
    SessionStore store = demoStore();
    const auto& session = store.session();
    const auto before = session.baselineVariant();
    ASSERT_TRUE(store.apply(setState("conditions.supply", "battery")).has_value());
    ASSERT_TRUE(store.apply(setState("resolution", "1280x720")).has_value());
    ASSERT_TRUE(store.apply(setState("sync", "fixed")).has_value());
    EXPECT_EQ(session.edits->subject.state.conditions.supply, run::Supply::Battery);
    EXPECT_EQ(session.baselineVariant().resolution, (display::Resolution{1280, 720}));
    EXPECT_EQ(session.baselineVariant().sync, run::Sync::Fixed);
    EXPECT_EQ(before.sync, run::Sync::None);
    // What is an order's own is no part of it; what no one knows is refused.
    EXPECT_EQ(store.apply(setState("cap_fps", "60")).error().code, ErrorCode::UnknownName);
    EXPECT_EQ(store.apply(setState("conditions.reload", "false")).error().code, ErrorCode::UnknownName);
    EXPECT_EQ(store.apply(setState("conditions.fans", "loud")).error().code, ErrorCode::BadValue);
    run::Order order;
    EXPECT_FALSE(session.inThisState(order)) << "on mains";
    order.conditions.supply = run::Supply::Battery;
    EXPECT_TRUE(session.inThisState(order));
    order.conditions.warmUpSeconds = 45;
    EXPECT_TRUE(session.inThisState(order)) << "settled longer";
    ASSERT_TRUE(store.apply(setState("conditions.warm_up_seconds", "60")).has_value());
    EXPECT_FALSE(session.inThisState(order)) << "settled less than is wished now";
}
