// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/path/answer.h>

using namespace impasto;
using namespace impasto::document;
using namespace impasto::results;
using namespace impasto::path;
using namespace impasto::proof;
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
    EXPECT_EQ(s.leftOut(s.facts->runs.front()), LeftOut::WarmUp);
    EXPECT_GE(walk.results().get<proof::Proof>()->before, 3U);
}

TEST(NextStepTest, ALockIsInEveryProposalAndInEveryTestRun) {
    Walk walk = walkedDemo(Action::AcceptChoice);
    ASSERT_TRUE(walk.store.apply(lockSetting("shadows", "ultra")).has_value());
    for (int i = 0; i < 20 && walk.next().action == Action::RecordCosts; ++i) {
        EXPECT_EQ(walk.results().get<results::NextRun>()->values->at("shadows"), "ultra");
        ASSERT_TRUE(walk.step());
    }
    ASSERT_EQ(walk.next().action, Action::AcceptChoice);
    ASSERT_NE(results::proposalOf(walk.results()), nullptr);
    EXPECT_EQ(results::proposalOf(walk.results())->values.at("shadows"), "ultra");
    ASSERT_TRUE(walk.store.apply(lockSetting("shadows", std::nullopt)).has_value());
    EXPECT_NE(results::proposalOf(walk.results())->values.at("shadows"), "ultra");
}

TEST(NextStepTest, EveryTestRunThatIsExpectedComesAndThenNoMore) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.store.apply(setTarget(Fps(84))).has_value());
    ASSERT_TRUE(walk.until(Action::RecordCosts));
    std::size_t made = 0;
    std::set<game::Values> sets;
    while (walk.next().action == Action::RecordCosts) {
        const auto* next = walk.results().get<results::NextRun>();
        ASSERT_TRUE(next != nullptr && next->values);
        EXPECT_GE(next->least, 1U);
        EXPECT_GT(next->most, next->least);
        EXPECT_TRUE(sets.insert(*next->values).second) << "no set is asked for twice";
        ASSERT_EQ(walk.next().runs, 1U) << "one at a time: the next rests on it";
        ASSERT_TRUE(walk.step());
        ASSERT_LT(++made, 20U);
    }
    EXPECT_LE(walk.results().get<results::NextRun>()->gain, results::goodEnough);
}

TEST(NextStepTest, WhatIsGoodEnoughIsThePersonsToSay) {
    Walk walk = walkedDemo(Action::RecordCosts);
    const double gain = walk.results().get<results::NextRun>()->gain;
    ASSERT_GT(gain, results::goodEnough);
    EXPECT_EQ(walk.store.apply(document::setGoodEnough(0)).error().code, ErrorCode::OutOfRange);
    EXPECT_EQ(walk.store.apply(document::setGoodEnough(0.6)).error().code, ErrorCode::OutOfRange);
    ASSERT_TRUE(walk.store.apply(document::setGoodEnough(std::min(0.5, 1.01 * gain))).has_value());
    EXPECT_NE(walk.next().action, Action::RecordCosts) << "as much as is missed now is accepted";
    walk.store.undo();
    EXPECT_EQ(walk.next().action, Action::RecordCosts);
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
        const wording::Words w;
        EXPECT_FALSE(wording::action(w, store.session(), results, step).empty()) << mask;
        EXPECT_FALSE(wording::reason(w, store.session(), results, step).empty()) << mask;
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
    Walk walk = walkedDemo(Action::RecordCosts);
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
        if (!results::verdictsOf(results).empty()) {
            EXPECT_EQ(results::verdictsOf(results).front().brake, limits::Brake::CannotTell);
        }
        if (step.action == Action::Done) break;
        const auto performed = perform(store, results, step, ids, fixedClock());
        ASSERT_TRUE(performed.has_value()) << wording::error(wording::Words(), performed.error()).all();
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
            store.addRuns({std::move(run)});
        }
    }
    const auto results = compute(store.session(), cache, {});
    EXPECT_EQ(nextStep(store.session(), results).action, Action::Done);
    EXPECT_TRUE(results.get<results::Costs>()->hidden) << "CPU and GPU were never seen themselves";
    EXPECT_EQ(results.get<results::Costs>()->lanes.size(), 2U);
    EXPECT_EQ(store.session().edits->settings.choice->values.at("heavy"), "low");
    EXPECT_EQ(results.get<proof::Proof>()->wishes.front().state, WishState::Met);
}

TEST(NextStepTest, AnImpossibleTargetIsSaidWhateverWasChosenBefore) {
    Walk walk = walkedDemo(Action::Done);
    ASSERT_TRUE(walk.store.apply(setTarget(Fps(400))).has_value());
    EXPECT_EQ(walk.next().action, Action::RecordCosts) << "everything at its lowest first: what can be reached";
    EXPECT_EQ(walk.results().get<results::NextRun>()->values, walk.store.session().lowestVariant().values);
    ASSERT_TRUE(walk.step());
    EXPECT_EQ(walk.next().action, Action::LowerTarget) << "and then no more";
    EXPECT_EQ(walk.next().reason, Reason::NothingFits);
    const Fps reaches = *walk.next().target;
    EXPECT_LT(reaches.value(), 200);
    ASSERT_TRUE(walk.step());
    EXPECT_EQ(walk.store.session().edits->goal.brief->target, reaches) << "and what fits leads on";
    // A sum of costs may reach a little less than the one run of it.
    for (int i = 0; i < 6 && walk.next().action == Action::LowerTarget; ++i) ASSERT_TRUE(walk.step());
    EXPECT_NE(walk.next().action, Action::LowerTarget);
    EXPECT_GT(walk.store.session().edits->goal.brief->target.value(), 0.85 * reaches.value());
}

TEST(NextStepTest, ACancelledWarmUpIsNoWarmUp) {
    Walk walk(demoStore());
    ASSERT_EQ(walk.next().action, Action::RecordWarmUp);
    const auto performed = perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock());
    run::Run run;
    run.id = {walk.ids()};
    run.order = performed->toRecord.front().id;
    run.interrupted = true;
    run.capture = std::make_shared<const capture::Capture>(flatCapture(16, 40, 8, 12));
    walk.store.addRuns({run});
    EXPECT_EQ(walk.next().action, Action::RecordWarmUp) << "its shaders are not compiled";
    EXPECT_EQ(walk.store.session().leftOut(run), LeftOut::Interrupted);
    ASSERT_TRUE(walk.step());
    EXPECT_EQ(walk.next().action, Action::RecordBaseline);
    EXPECT_FALSE(walk.store.undoable() == "leave-out") << "its mark is no edit of the user's";
    const auto& warmUp = walk.store.session().facts->runs.back();
    EXPECT_EQ(walk.store.session().leftOut(warmUp), LeftOut::WarmUp);
    ASSERT_TRUE(walk.store.apply(countRun(warmUp.id)).has_value());
    EXPECT_TRUE(walk.store.session().counts(warmUp)) << "unless a person says so";
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
    ASSERT_EQ(walk.results().get<results::Costs>()->lanes.size(), 1U);
    EXPECT_EQ(walk.results().get<results::Costs>()->lanes.front().lane, run::Lane::Gpu);
    for (const auto& part : results::verdictsOf(walk.results())) EXPECT_EQ(part.brake, limits::Brake::Refresh);
    EXPECT_EQ(walk.results().get<results::CapView>()->offers.front().school, pace::CapSchool::None);
    ASSERT_TRUE(walk.until(Action::Done));
    EXPECT_FALSE(walk.store.session().edits->pacing.cap->plan.cap);
    for (const auto& part : walk.results().get<proof::Proof>()->parts)
        for (const auto figure : {frames::HeldFigure::Average, frames::HeldFigure::OnTime})
            EXPECT_EQ(part.of(figure).state, WishState::Met) << part.part;
}

TEST(NextStepTest, AHeadsetIsOfferedItsModesAlone) {
    SessionStore store = demoStore();
    const auto game = gameNamed("saltmarsh-courier.toml");
    run::Brief brief;
    brief.target = Fps(144);
    for (const auto& edit : {useMachine(store.addMachine(machineNamed("plover-headset.toml"))),
                             useGame(store.addGame(game), game), setBrief(brief)})
        ASSERT_TRUE(store.apply(edit).has_value());
    Walk walk(store);
    EXPECT_EQ(walk.next().reason, Reason::BeyondPanel);
    EXPECT_EQ(walk.next().target, Fps(120));
    ASSERT_TRUE(walk.step());
    // The GPU could; its CPU, of which the runtime shows waits alone, cannot: the proof tells.
    ASSERT_TRUE(walk.until(Action::LowerTarget));
    const double offered = walk.next().target->value();
    EXPECT_TRUE(offered == 72 || offered == 80 || offered == 90) << offered;
}

TEST(NextStepTest, ARateToBeShownEndsInAProofOfBothRates) {
    for (const double shown : {120.0, 139.0}) { // more than the panel shows is refused: panel_test.cpp
        SessionStore store = demoStore();
        const auto game = gameNamed("saltmarsh-courier.toml");
        run::Brief brief;
        brief.target = Fps(60);
        brief.shown = Fps(shown);
        for (const auto& edit : {useMachine(store.addMachine(machineNamed("fenwick-duo.toml"))),
                                 useGame(store.addGame(game), game), setBrief(brief)})
            ASSERT_TRUE(store.apply(edit).has_value());
        Walk walk(store);
        int steps = 0;
        while (walk.next().action != Action::Done && walk.next().action != Action::LowerTarget && steps < 80) {
            ASSERT_TRUE(walk.step());
            ++steps;
        }
        ASSERT_LT(steps, 80) << shown << ": it never ends";
        if (shown < 130) {
            ASSERT_EQ(walk.next().action, Action::Done) << "two of 70, on the second GPU";
            ASSERT_TRUE(walk.store.session().edits->record.kept->held());
        }
        if (walk.next().action != Action::Done) continue;
        // What is called held was: by the recordings.
        const auto& s = walk.store.session();
        const auto& cap = *s.edits->pacing.cap;
        double sum = 0, runs = 0;
        for (const auto& id : results::idsOf<results::ProofRuns>(walk.results()))
            if (const auto* run = s.facts->run(id); s.orderOf(*run)->purpose == run::Purpose::ProofAfter) {
                EXPECT_EQ(s.orderOf(*run)->variant.generation, cap.plan.generation);
                sum += capture::shownRate(*run->capture).value();
                ++runs;
            }
        if (s.edits->record.kept->held()) {
            EXPECT_GE(sum / runs, 0.99 * shown);
        }
    }
}

TEST(NextStepTest, TwoVariantsAreComparedOverAllTheirRuns) {
    Walk walk = walkedDemo(Action::KeepResult);
    const auto results = walk.results();
    const auto& s = walk.store.session();
    const RunId before = results::idsOf<results::BaselineRuns>(results).front(),
                after = results::idsOf<results::AfterRuns>(results).front();
    const auto compared = compareVariants(s, results, before, after);
    ASSERT_TRUE(compared);
    EXPECT_EQ(compared->figure->key, frames::averageFps);
    EXPECT_GE(compared->comparison.before.count, results::idsOf<results::BaselineRuns>(results).size() + 3)
        << "the proof's runs before it too";
    EXPECT_GE(compared->comparison.after.count, 3U);
    EXPECT_EQ(compared->comparison.verdict, stats::Verdict::Differs);
    EXPECT_LE(compared->comparison.after.estimate, s.edits->pacing.cap->plan.cap->value()) << "the cap holds it";
    EXPECT_FALSE(compareVariants(s, results, before, before)) << "one variant";
    EXPECT_FALSE(compareVariants(s, results, s.facts->runs.front().id, after)) << "the warm-up run does not count";
    const auto single = compareVariants(s, results, before, results::idsOf<results::CostRuns>(results).back());
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
    const auto rig = rig_sim::simulatedRig(originals(), *walk.store.session().machine(), game);
    const RecordHooks hooks{{}, {}, [&](run::Run run) { walk.store.addRuns({std::move(run)}); }};
    ASSERT_TRUE(
        recordAll(**rig, orders, rigStateOf(walk.store.session()), hooks, {}, walk.ids, fixedClock()).has_value());
    const auto& runs = walk.store.session().facts->runs;
    const auto found = walk.results().get<Siblings>()->examined;
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
    EXPECT_TRUE(results::idsOf<results::BaselineRuns>(walk.results()).empty());
    const auto other = rigStateOf(walk.store.session());
    EXPECT_EQ(other.shadersMet, 0);
    EXPECT_EQ(other.power, warm.power);
    ASSERT_TRUE(walk.step());
    EXPECT_EQ(rigStateOf(walk.store.session()).applied.at("textures"), "high");
}

TEST(NextStepTest, RunsOfAnotherMachineDoNotCount) {
    Walk walk = walkedDemo(Action::RecordCosts);
    const auto before = results::idsOf<results::BaselineRuns>(walk.results());
    ASSERT_EQ(before.size(), 1U);
    // Another desktop with the same panel: same values, same resolution, other chips.
    ASSERT_TRUE(walk.store.apply(useMachine(walk.store.addMachine(machineNamed("marram-desktop.toml")))).has_value());
    EXPECT_TRUE(results::idsOf<results::BaselineRuns>(walk.results()).empty());
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
    EXPECT_EQ(results::idsOf<results::BaselineRuns>(walk.results()), before) << "and back again";
    EXPECT_FALSE(rigStateOf(walk.store.session()).power);
}
