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

TEST(NextStepTest, ALockOnALevelThatWasNotMeasuredIsMeasuredAndStays) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::AcceptChoice));
    ASSERT_FALSE(walk.results().get<results::Costs>()->lanes.front().fit.indexOf({"shadows", "ultra"}));
    ASSERT_TRUE(walk.store.apply(lockSetting("shadows", "ultra")).has_value());
    EXPECT_EQ(walk.next().action, Action::RecordCosts);
    EXPECT_EQ(walk.next().runs, 1U);
    ASSERT_TRUE(walk.step());
    ASSERT_EQ(walk.next().action, Action::AcceptChoice);
    ASSERT_NE(results::proposalOf(walk.results()), nullptr);
    EXPECT_EQ(results::proposalOf(walk.results())->values.at("shadows"), "ultra");
    ASSERT_TRUE(walk.store.apply(lockSetting("shadows", std::nullopt)).has_value());
    EXPECT_NE(results::proposalOf(walk.results())->values.at("shadows"), "ultra");
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
    ASSERT_EQ(results.get<results::Costs>()->lanes.size(), 1U);
    EXPECT_EQ(results.get<results::Costs>()->lanes[0].lane, run::Lane::Frame);
    EXPECT_EQ(store.session().edits->settings.choice->values.at("heavy"), "low");
    EXPECT_EQ(results.get<proof::Proof>()->wishes.front().state, WishState::Met);
}

TEST(NextStepTest, AStrayLogNeverCountsUnasked) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::Done));
    const auto baseline = results::idsOf<results::BaselineRuns>(walk.results());
    const auto basis = results::standingOf(walk.results()).now;
    const auto log = [&](double ms) {
        ReadLog out;
        out.run.id = {walk.ids()};
        auto frames = flatCapture(ms, 4000, ms / 2);
        frames.cpuWorkMs->at(7) = std::nan(""); // a cell that says nothing
        out.run.capture = std::make_shared<const capture::Capture>(std::move(frames));
        return out;
    };
    const auto stray = answer(walk.store, {log(30), log(9)});
    ASSERT_TRUE(stray.has_value());
    EXPECT_EQ(stray->beside, 2U);
    const auto& session = walk.store.session();
    EXPECT_EQ(session.leftOut(*session.facts->run(stray->runs[0])), LeftOut::Beside);
    EXPECT_EQ(walk.next().action, Action::Done) << "a finished session stays finished";
    EXPECT_EQ(results::idsOf<results::BaselineRuns>(walk.results()), baseline);
    EXPECT_EQ(results::standingOf(walk.results()).now, basis);
    // The same frames are the same run, whatever the file is called.
    const auto again = answer(walk.store, {log(9)});
    ASSERT_TRUE(again.has_value());
    EXPECT_EQ(again->known, std::vector<RunId>{stray->runs[1]});
    EXPECT_EQ(walk.store.session().facts->runs.size(), session.facts->runs.size());
    // Deleted ones may come back; asked for, it counts.
    ASSERT_TRUE(walk.store.apply(hideRun(stray->runs[1])).has_value());
    EXPECT_TRUE(answer(walk.store, {log(9)})->known.empty());
    ASSERT_TRUE(walk.store.apply(countRun(stray->runs[0])).has_value());
    EXPECT_EQ(results::idsOf<results::BaselineRuns>(walk.results()).size(), baseline.size() + 1);
}

TEST(NextStepTest, EveryMisfitIsLeftOutAndTheFitsAreTaken) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.store.apply(useRig(RigKind::Hand)).has_value());
    run::Order order;
    order.id = {walk.ids()};
    order.machine = walk.store.session().machine()->name;
    order.game = walk.store.session().game()->name;
    order.route = walk.store.session().edits->subject.route;
    order.variant = walk.store.session().baselineVariant();
    walk.store.addOrders({order});
    ASSERT_EQ(openOrders(walk.store.session()).size(), 1U);
    const double seconds = openOrders(walk.store.session()).front().seconds;
    const auto log = [&](double ms, double share) {
        ReadLog out;
        out.run.id = {walk.ids()};
        out.run.capture = std::make_shared<const capture::Capture>(
            flatCapture(ms, static_cast<std::size_t>(share * seconds * 1000 / ms)));
        return out;
    };
    const auto answered = answer(walk.store, {log(16, 0.2), log(17, 0.3), log(18, 1), log(19, 0.1)});
    ASSERT_TRUE(answered.has_value());
    const auto& session = walk.store.session();
    const auto reason = [&](std::size_t i) { return session.edits->runs.leftOut.find(answered->runs[i]); };
    for (const std::size_t misfit : {0U, 1U}) {
        ASSERT_NE(reason(misfit), session.edits->runs.leftOut.end()) << misfit;
        EXPECT_EQ(reason(misfit)->second, LeftOut::Mismatch);
    }
    EXPECT_TRUE(session.facts->run(answered->runs[2])->order);
    EXPECT_TRUE(answered->mismatch);
}

TEST(NextStepTest, ALogThatDoesNotFitItsOrderIsSaid) {
    Walk walk(demoStore());
    const auto& session = walk.store.session();
    run::Order order;
    order.seconds = 60;
    order.variant = session.baselineVariant();
    const auto uneven = [](double ms) {
        auto c = flatCapture(ms, static_cast<std::size_t>(60000 / ms), 8, ms);
        for (std::size_t i = 0; i < c.frames(); ++i) c.framesMs[i] *= 1 + 0.06 * std::sin(static_cast<double>(i));
        return c;
    };
    EXPECT_FALSE(mismatch(session, order, uneven(18.7)));
    const auto capped = mismatch(session, order, flatCapture(1000.0 / 60, 3600, 8, 9));
    ASSERT_TRUE(capped) << "as with a cap, and the order has none";
    EXPECT_EQ(capped->what, "capped 60");
    order.variant.cap = Fps(60);
    EXPECT_FALSE(mismatch(session, order, flatCapture(1000.0 / 60, 3600, 8, 9)));
    order.variant.cap.reset();
    const auto shortOne = mismatch(session, order, flatCapture(20, 500));
    ASSERT_TRUE(shortOne);
    EXPECT_EQ(shortOne->code, ErrorCode::OrderMismatch);
    EXPECT_EQ(shortOne->what, "10/60");
    EXPECT_TRUE(mismatch(session, order, flatCapture(20, 9000)));
    // Another rate than that of its siblings.
    ASSERT_TRUE(walk.until(Action::RecordCosts));
    auto again = *walk.store.session().facts->orderOf(walk.store.session().facts->runs.back());
    const auto other = mismatch(walk.store.session(), again, flatCapture(33, 2270, 20, 30));
    ASSERT_TRUE(other);
    EXPECT_EQ(other->what.substr(0, 8), "rate 30/");
}

TEST(NextStepTest, OrdersAreAListAndAnswerByNameOrByWish) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::RecordCosts));
    ASSERT_TRUE(walk.store.apply(useRig(RigKind::Hand)).has_value());
    ASSERT_TRUE(perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock()).has_value());
    auto open = openOrders(walk.store.session());
    ASSERT_GT(open.size(), 4U);
    const auto levelOf = [&](const run::Order& order) {
        for (const auto& [id, level] : order.variant.values)
            if (walk.store.session().edits->settings.baseline.at(id) != level) return std::pair(id, level);
        return std::pair<std::string, std::string>();
    };
    const auto log = [&](std::string name, double share = 1) {
        ReadLog out;
        out.run.id = {walk.ids()};
        out.run.name = std::move(name);
        const double seconds = open.front().seconds;
        auto c = flatCapture(17, static_cast<std::size_t>(share * 1000 * seconds / 17), 11, 16.8);
        c.framesMs.front() += 0.001 * static_cast<double>(walk.store.session().facts->runs.size());
        out.run.capture = std::make_shared<const capture::Capture>(std::move(c));
        return out;
    };
    // A file that names its level answers that order, not the oldest.
    const auto [setting, level] = levelOf(open[3]);
    const auto named = answer(walk.store, {log(setting + " " + level + ".csv")});
    ASSERT_TRUE(named.has_value());
    EXPECT_EQ(walk.store.session().facts->run(named->runs.front())->order, open[3].id);
    // The one in view is answered, whatever the file is called.
    auto wished = log("run.csv");
    wished.wants = open[2].id;
    const auto answered = answer(walk.store, {wished});
    EXPECT_EQ(walk.store.session().facts->run(answered->runs.front())->order, open[2].id);
    // One that does not fit leaves its order open, and answers it once it is counted.
    const auto misfit = answer(walk.store, {log("short.csv", 0.2)});
    ASSERT_TRUE(misfit->mismatch);
    EXPECT_EQ(openOrders(walk.store.session()).front().id, open[0].id);
    ASSERT_TRUE(walk.store.apply(countRun(misfit->runs.front())).has_value());
    EXPECT_NE(openOrders(walk.store.session()).front().id, open[0].id);
    // What cannot be set is skipped, and is not ordered again.
    const auto skipped = openOrders(walk.store.session()).front();
    const auto before = walk.results().get<results::Costs>()->toMeasure.size();
    ASSERT_TRUE(walk.store.apply(withdrawOrder(skipped.id)).has_value());
    EXPECT_EQ(walk.results().get<results::Costs>()->toMeasure.size(), before - 1);
    for (const auto& order : openOrders(walk.store.session())) EXPECT_NE(order.id, skipped.id);
    walk.store.undo();
    EXPECT_EQ(openOrders(walk.store.session()).front().id, skipped.id);
    // Other start values: what waits would not count any more.
    auto values = walk.store.session().edits->settings.baseline;
    values["shadows"] = values["shadows"] == "low" ? "medium" : "low";
    ASSERT_TRUE(walk.store.apply(setBaseline(*walk.store.session().game(), values)).has_value());
    const auto left = openOrders(walk.store.session());
    EXPECT_LT(left.size(), 4U);
    for (const auto& order : left) EXPECT_EQ(levelOf(order).first, "shadows") << "one change from what is set now";
}

TEST(NextStepTest, AChoiceThatMissesIsTakenAgainButNotForEver) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::RecordCheck));
    ASSERT_TRUE(walk.step());
    Results results = walk.results();
    ASSERT_TRUE(results.get<Check>() != nullptr && proposalOf(results) != nullptr);
    auto check = *results.get<Check>();
    check.holds = false;
    results.put(std::make_shared<const Check>(check));
    Standing standing = standingOf(results);
    standing.choice.clear();
    results.put(std::make_shared<const Standing>(standing));
    Proposed other = *results.get<Proposed>(); // another choice than the one that was run
    auto& level = other.proposal->values.at("reeds");
    level = level == "sparse" ? "normal" : "sparse";
    results.put(std::make_shared<const Proposed>(other));
    const RunId run = idsOf<CheckRuns>(results).front();
    const auto earlier = [&](std::size_t count) {
        results.put(std::make_shared<const EarlierChecks>(EarlierChecks{std::vector<RunId>(count, run)}));
        return nextStep(walk.store.session(), results);
    };
    EXPECT_EQ(earlier(7).reason, Reason::CheckMissed);
    EXPECT_EQ(earlier(8).action, Action::ChooseCap) << "after eight the proof decides";
    other.proposal->values = walk.store.session().edits->settings.choice->values;
    results.put(std::make_shared<const Proposed>(other));
    EXPECT_EQ(earlier(0).action, Action::ChooseCap) << "nothing better is known";
}

TEST(NextStepTest, AnImpossibleTargetIsSaidWhateverWasChosenBefore) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::Done));
    ASSERT_TRUE(walk.store.apply(setTarget(Fps(400))).has_value());
    EXPECT_EQ(walk.next().action, Action::RecordLowest) << "before all levels are measured, whether it can be reached";
    ASSERT_TRUE(walk.until(Action::LowerTarget));
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

TEST(NextStepTest, TwoVariantsAreComparedOverAllTheirRuns) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::KeepResult));
    const auto results = walk.results();
    const auto& s = walk.store.session();
    const RunId before = results::idsOf<results::BaselineRuns>(results).front(),
                after = results::idsOf<results::CheckRuns>(results).front();
    const auto compared = compareVariants(s, results, before, after);
    ASSERT_TRUE(compared);
    EXPECT_EQ(compared->figure->key, frames::averageFps);
    EXPECT_GE(compared->comparison.before.count, results::idsOf<results::BaselineRuns>(results).size() + 3)
        << "the proof's runs before it too";
    EXPECT_GE(compared->comparison.after.count, results::idsOf<results::CheckRuns>(results).size());
    EXPECT_EQ(compared->comparison.verdict, stats::Verdict::Differs);
    EXPECT_GT(compared->comparison.difference.estimate, 0);
    EXPECT_FALSE(compareVariants(s, results, before, results::idsOf<results::BaselineRuns>(results).back()))
        << "one variant";
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
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(Action::RecordCosts));
    const auto before = results::idsOf<results::BaselineRuns>(walk.results());
    ASSERT_EQ(before.size(), 4U);
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
