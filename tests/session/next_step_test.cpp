// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

using namespace impasto;
using namespace impasto::session;
using namespace impasto::support;

namespace {

Results resultsOf(const SessionStore& store) {
    ResultsCache cache;
    return compute(store.session(), cache, {});
}

} // namespace

TEST(NextStepTest, ThePathFromNothingToKept) {
    Walk walk(demoStore());
    std::vector<Action> path;
    for (int i = 0; i < 20; ++i) {
        const auto step = walk.next();
        path.push_back(step.action);
        if (step.action == Action::Done) break;
        if (step.runs > 0) {
            EXPECT_GT(step.minutes, 0);
        }
        ASSERT_TRUE(walk.step());
    }
    ASSERT_GE(path.size(), 9U);
    EXPECT_EQ(path[0], Action::RecordWarmUp);
    EXPECT_EQ(path[1], Action::RecordBaseline);
    EXPECT_EQ(path[2], Action::RecordCosts);
    EXPECT_EQ(path[3], Action::AcceptChoice);
    EXPECT_EQ(path[4], Action::RecordCheck);
    EXPECT_EQ(path[path.size() - 1], Action::Done);
    EXPECT_EQ(path[path.size() - 2], Action::KeepResult);
    EXPECT_EQ(path[path.size() - 3], Action::RecordProof);
    const auto& s = walk.store.session();
    EXPECT_EQ(s.edits->leftOut.at(s.facts->runs.front().id), LeftOut::WarmUp);
    EXPECT_GE(walk.results().proof->before, 3U);
}

TEST(NextStepTest, EverySessionHasOne) {
    // What is missing, in all combinations, with and without a dropped log.
    for (unsigned mask = 0; mask < 16; ++mask) {
        SessionStore store{Session{}};
        const auto game = smallGame();
        if ((mask & 1U) != 0) {
            ASSERT_TRUE(store.apply(useMachine(store.addMachine(tower()))).has_value());
        }
        if ((mask & 2U) != 0) {
            ASSERT_TRUE(store.apply(useGame(store.addGame(game), game)).has_value());
        }
        if ((mask & 4U) != 0) {
            ASSERT_TRUE(store.apply(setBrief({})).has_value());
        }
        if ((mask & 8U) != 0) {
            run::Run run;
            run.id = {seededIdSource(1)()};
            run.capture = std::make_shared<const capture::Capture>(flatCapture(16, 400));
            store.addRuns({run});
        }
        const auto results = resultsOf(store);
        const auto step = nextStep(store.session(), results);
        EXPECT_EQ(step, nextStep(store.session(), results)) << "deterministic";
        const report::Wording w;
        EXPECT_FALSE(w.action(store.session(), results, step).empty()) << mask;
        EXPECT_FALSE(w.reason(store.session(), results, step).empty()) << mask;
        if (mask == 0) {
            EXPECT_EQ(step.action, Action::Begin);
        }
        if (mask == 8) {
            EXPECT_EQ(step.action, Action::SayBrief);
        }
        if ((mask & 7U) == 5) {
            EXPECT_EQ(step.action, Action::SayGame);
        }
        if ((mask & 7U) == 6) {
            EXPECT_EQ(step.action, Action::SayMachine);
        }
        if ((mask & 4U) == 0 || (mask & 3U) != 3) {
            auto copy = store;
            EXPECT_FALSE(perform(copy, results, step, seededIdSource(1), fixedClock()).has_value())
                << "only a person can say it, " << mask;
        }
    }
}

TEST(NextStepTest, OpenOrdersAreTakenUpAgain) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::RecordCosts));
    const auto step = walk.next();
    const auto first = perform(walk.store, walk.results(), step, walk.ids, fixedClock());
    const auto orders = walk.store.session().facts->orders.size();
    const auto again = perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock());
    EXPECT_EQ(first->toRecord, again->toRecord);
    EXPECT_EQ(walk.store.session().facts->orders.size(), orders);
    EXPECT_EQ(openOrders(walk.store.session()).size(), first->toRecord.size());
}

TEST(NextStepTest, ByHandTheWholePathGoesOnFrameTimesAlone) {
    // A game of one's own, logs with frame times only: one lane, the frame.
    SessionStore store{Session{}};
    auto game = smallGame();
    ASSERT_TRUE(store.apply(useMachine(store.addMachine(tower()))).has_value());
    ASSERT_TRUE(store.apply(useGame(store.addGame(game), game)).has_value());
    run::Brief brief;
    brief.target = Fps(60);
    ASSERT_TRUE(store.apply(setBrief(brief)).has_value());
    ASSERT_TRUE(store.apply(useRig(RigKind::Hand)).has_value());
    const auto ids = seededIdSource(3);
    ResultsCache cache;
    double wobble = 0.0;
    for (int i = 0; i < 40; ++i) {
        const auto results = compute(store.session(), cache, {});
        const auto step = nextStep(store.session(), results);
        if (!results.limits.empty()) {
            EXPECT_EQ(results.limits.front().brake, limits::Brake::CannotTell);
        }
        if (step.action == Action::Done) break;
        const auto performed = perform(store, results, step, ids, fixedClock());
        ASSERT_TRUE(performed.has_value()) << report::Wording().error(performed.error()).all();
        for (const auto& order : performed->toRecord) {
            double ms = order.variant.values.at("heavy") == "low" ? 13.0 : 18.0;
            if (order.variant.values.at("crowd") == "few") ms -= 1.0;
            if (order.variant.cap) ms = std::max(ms, 1000 / order.variant.cap->value());
            wobble = wobble > 0.03 ? -0.04 : wobble + 0.013;
            run::Run run;
            run.id = {ids()};
            run.order = order.id;
            run.maker = run::Maker::Hand;
            run.capture = std::make_shared<const capture::Capture>(flatCapture(ms + wobble, 2500));
            attach(store, std::move(run));
        }
    }
    const auto results = compute(store.session(), cache, {});
    EXPECT_EQ(nextStep(store.session(), results).action, Action::Done);
    ASSERT_EQ(results.costs->lanes.size(), 1U);
    EXPECT_EQ(results.costs->lanes[0].lane, run::Lane::Frame);
    EXPECT_EQ(store.session().edits->choice->values.at("heavy"), "low");
    EXPECT_EQ(results.proof->wishes.front().state, WishState::Met);
}

TEST(NextStepTest, ALogThatDoesNotFitItsOrderIsSaid) {
    run::Order order;
    order.seconds = 60;
    EXPECT_FALSE(mismatch(order, flatCapture(20, 3000)));
    const auto shortOne = mismatch(order, flatCapture(20, 500));
    ASSERT_TRUE(shortOne);
    EXPECT_EQ(shortOne->code, ErrorCode::OrderMismatch);
    EXPECT_EQ(shortOne->what, "10/60");
    EXPECT_TRUE(mismatch(order, flatCapture(20, 9000)));
}

TEST(NextStepTest, AChoiceThatMissesIsTakenAgainButNotForEver) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::RecordCheck));
    ASSERT_TRUE(walk.step());
    Results results = walk.results();
    ASSERT_TRUE(results.check && results.proposal);
    results.check->holds = false;
    results.choiceStale.clear();
    auto& level = results.proposal->values.at("reeds"); // another choice than the one that was run
    level = level == "sparse" ? "normal" : "sparse";
    results.earlierChecks.assign(7, results.checkRuns.front());
    EXPECT_EQ(nextStep(walk.store.session(), results).reason, Reason::CheckMissed);
    results.earlierChecks.push_back(results.checkRuns.front());
    EXPECT_EQ(nextStep(walk.store.session(), results).action, Action::ChooseCap) << "after eight the proof decides";
    results.earlierChecks.clear();
    results.proposal->values = walk.store.session().edits->choice->values;
    EXPECT_EQ(nextStep(walk.store.session(), results).action, Action::ChooseCap) << "nothing better is known";
}

TEST(NextStepTest, AHeadsetIsTunedByItsGpuAndWithoutACap) {
    SessionStore store = demoStore();
    const auto game = gameNamed("chalk-ridge.toml");
    run::Brief brief;
    brief.target = Fps(90);
    for (const auto& edit : {useMachine(store.addMachine(machineNamed("plover-headset.toml"))),
                             useGame(store.addGame(game), game), setBrief(brief)})
        ASSERT_TRUE(store.apply(edit).has_value());
    Walk walk(store);
    ASSERT_TRUE(walk.until(Action::ChooseCap));
    // The CPU reading is a wait, and the frame time is the headset's.
    ASSERT_EQ(walk.results().costs->lanes.size(), 1U);
    EXPECT_EQ(walk.results().costs->lanes.front().lane, run::Lane::Gpu);
    for (const auto& part : walk.results().limits) EXPECT_EQ(part.brake, limits::Brake::Refresh);
    EXPECT_EQ(walk.results().cap->offers.front().school, choose::CapSchool::None);
    ASSERT_TRUE(walk.until(Action::Done));
    EXPECT_FALSE(walk.store.session().edits->cap->cap);
    EXPECT_EQ(walk.results().proof->wishes.front().state, WishState::Met);
}

TEST(NextStepTest, TwoVariantsAreComparedOverAllTheirRuns) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::KeepResult));
    const auto results = walk.results();
    const auto& s = walk.store.session();
    const RunId before = results.baselineRuns.front(), after = results.checkRuns.front();
    const auto compared = compareVariants(s, results, before, after);
    ASSERT_TRUE(compared);
    EXPECT_EQ(compared->figure, stats::Figure::Average);
    EXPECT_GE(compared->comparison.before.count, results.baselineRuns.size() + 3) << "the proof's runs before it too";
    EXPECT_EQ(compared->comparison.after.count, results.checkRuns.size());
    EXPECT_EQ(compared->comparison.verdict, stats::Verdict::Differs);
    EXPECT_GT(compared->comparison.difference.estimate, 0);
    EXPECT_FALSE(compareVariants(s, results, before, results.baselineRuns.back())) << "one variant";
    EXPECT_FALSE(compareVariants(s, results, s.facts->runs.front().id, after)) << "the warm-up run does not count";
    const auto single = compareVariants(s, results, before, results.costRuns.front());
    EXPECT_EQ(single->comparison.verdict, stats::Verdict::NotEnoughRuns);
}

TEST(NextStepTest, AValueThatWaitsForAReloadIsSeenAsNotApplied) {
    SessionStore store = demoStore();
    const auto game = gameNamed("rainmarket.toml");
    ASSERT_TRUE(store.apply(useGame(store.addGame(game), game)).has_value());
    Walk walk(store);
    ASSERT_TRUE(walk.until(Action::RecordCosts));
    // The textures are lowered, once without and once with reloading the save.
    std::vector<run::Order> orders;
    for (const bool reload : {false, true}) {
        run::Order o;
        o.id = {walk.ids()};
        o.variant = walk.store.session().baselineVariant();
        o.variant.values["textures"] = "low";
        o.route = game.routes.front().name;
        o.seconds = game.routes.front().seconds();
        o.purpose = run::Purpose::Cost;
        o.conditions.reload = reload;
        o.seed = reload ? 901 : 902;
        orders.push_back(o);
    }
    walk.store.addOrders(orders);
    const auto rig = rig::simulatedRig(*walk.store.session().machine(), game);
    const RecordHooks hooks{{}, {}, [&](run::Run run) { attach(walk.store, std::move(run)); }};
    ASSERT_TRUE(
        recordAll(**rig, orders, rigStateOf(walk.store.session()), hooks, {}, walk.ids, fixedClock()).has_value());
    const auto& runs = walk.store.session().facts->runs;
    const auto& found = walk.results().baseline.examined;
    EXPECT_TRUE(found.at(runs[runs.size() - 2].id).front().found);
    EXPECT_FALSE(found.at(runs.back().id).front().found);
}

TEST(NextStepTest, RunsOfAnotherGameDoNotCountAndLeaveTheMachineWarm) {
    SessionStore store = demoStore();
    ASSERT_TRUE(store.apply(useMachine(store.addMachine(machineNamed("marram-desktop.toml")))).has_value());
    Walk walk(store);
    ASSERT_TRUE(walk.until(Action::RecordCosts));
    const auto warm = rigStateOf(walk.store.session());
    EXPECT_EQ(warm.shadersMet, 1);
    const auto game = gameNamed("rainmarket.toml");
    ASSERT_TRUE(walk.store.apply(useGame(walk.store.addGame(game), game)).has_value());
    EXPECT_EQ(walk.next().action, Action::RecordWarmUp);
    EXPECT_TRUE(walk.results().baselineRuns.empty());
    const auto other = rigStateOf(walk.store.session());
    EXPECT_EQ(other.shadersMet, 0);
    EXPECT_EQ(other.power, warm.power);
    ASSERT_TRUE(walk.step());
    EXPECT_EQ(rigStateOf(walk.store.session()).applied.at("textures"), "high");
}

TEST(NextStepTest, RunsOfAnotherMachineDoNotCount) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::RecordCosts));
    const auto before = walk.results().baselineRuns;
    ASSERT_EQ(before.size(), 4U);
    // Another desktop with the same panel: same values, same resolution, other chips.
    ASSERT_TRUE(walk.store.apply(useMachine(walk.store.addMachine(machineNamed("marram-desktop.toml")))).has_value());
    EXPECT_TRUE(walk.results().baselineRuns.empty());
    EXPECT_EQ(walk.next().action, Action::RecordWarmUp);
    EXPECT_EQ(rigStateOf(walk.store.session()).shadersMet, 0) << "it was never played there";
    EXPECT_TRUE(openOrders(walk.store.session()).empty());
    ASSERT_TRUE(walk.step());
    EXPECT_TRUE(rigStateOf(walk.store.session()).power) << "the state is that machine's own now";
    // A corrected description is the same machine.
    auto corrected = machineNamed("marram-desktop.toml");
    corrected.gpuMemory = Mebibytes(10 * 1024);
    ASSERT_TRUE(walk.store.apply(useMachine(walk.store.addMachine(corrected))).has_value());
    EXPECT_EQ(walk.next().action, Action::RecordBaseline);
    ASSERT_TRUE(walk.store.apply(useMachine(0)).has_value());
    EXPECT_EQ(walk.results().baselineRuns, before) << "and back again";
    EXPECT_FALSE(rigStateOf(walk.store.session()).power);
}
