// SPDX-License-Identifier: GPL-3.0-or-later
// What must not differ between runs that are compared: their state, their evenness, their parts.
#include "support/support.h"

#include <impasto/path/perform.h>

using namespace impasto;
using namespace impasto::document;
using namespace impasto::results;
using namespace impasto::path;
using namespace impasto::support;

namespace {

/// A run of the wanted order at a steady rate.
run::Run steadyRun(const run::Order& order, double ms, IdSource& ids) {
    run::Run run;
    run.id = {ids()};
    run.order = order.id;
    run.maker = run::Maker::Hand;
    run.capture =
        std::make_shared<const capture::Capture>(flatCapture(ms, static_cast<std::size_t>(1000 * order.seconds / ms)));
    return run;
}

/// Answers all that is ordered, each with the next of the frame times; the last one again where they are used up.
void answerWith(Walk& walk, std::vector<double> ms) {
    std::size_t next = 0;
    for (const auto& order : openOrders(walk.store.session())) {
        walk.store.addRuns({steadyRun(order, ms.at(std::min(next, ms.size() - 1)), walk.ids)});
        ++next;
    }
}

/// As many baseline runs as there are frame times; the path asks for one alone.
void baselineOf(Walk& walk, const std::vector<double>& ms) {
    for (std::size_t i = 1; i < ms.size(); ++i) {
        auto order = openOrders(walk.store.session()).front();
        order.id = {walk.ids()};
        order.seed += i;
        walk.store.addOrders({order});
    }
    answerWith(walk, ms);
}

Walk byHand() {
    Walk walk(demoStore());
    EXPECT_TRUE(walk.store.apply(useRig(RigKind::Hand)).has_value());
    const auto step = walk.next();
    EXPECT_TRUE(perform(walk.store, walk.results(), step, walk.ids, fixedClock()).has_value());
    answerWith(walk, {20});
    EXPECT_EQ(walk.next().action, Action::RecordBaseline);
    EXPECT_TRUE(perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock()).has_value());
    return walk;
}

} // namespace

TEST(NextStepTest, AnUnevenBaselineIsSettledBeforeCostRuns) {
    Walk walk = byHand();
    baselineOf(walk, {20, 24, 20.1, 19.9});
    auto step = walk.next();
    ASSERT_EQ(step.action, Action::LeaveOutRun);
    EXPECT_EQ(step.reason, Reason::Uneven);
    ASSERT_TRUE(step.run);
    const RunId odd = *step.run;
    EXPECT_NEAR(walk.results().of<RunFigures>(odd)->summary.average.value(), 1000 / 24.0, 0.01);
    const wording::Words w;
    EXPECT_NE(wording::reason(w, walk.store.session(), walk.results(), step).find("unlike the others"),
              std::string::npos);
    // Either it is left out, and the three that agree are enough ...
    ASSERT_TRUE(perform(walk.store, walk.results(), step, walk.ids, fixedClock()).has_value());
    EXPECT_EQ(walk.store.session().leftOut(*walk.store.session().facts->run(odd)), LeftOut::Odd);
    step = walk.next();
    EXPECT_NE(step.action, Action::RecordBaseline);
    EXPECT_NE(step.action, Action::LeaveOutRun);
    // ... or it counts all the same, and the path goes on.
    walk.store.undo();
    ASSERT_TRUE(walk.store.apply(countRun(odd)).has_value());
    EXPECT_NE(walk.next().action, Action::LeaveOutRun);
    EXPECT_EQ(results::idsOf<BaselineRuns>(walk.results()).size(), 4U);
}

TEST(NextStepTest, ABaselineWithoutOneOddRunIsRepeatedAndThenTakenAsItIs) {
    Walk walk = byHand();
    baselineOf(walk, {20, 24, 17, 20.1});
    std::size_t orders = 0;
    for (; walk.next().reason == Reason::Uneven && orders < 20; ++orders) {
        ASSERT_EQ(walk.next().action, Action::RecordBaseline);
        ASSERT_TRUE(perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock()).has_value());
        answerWith(walk, {orders % 2 == 0 ? 24.1 : 17.1});
    }
    EXPECT_EQ(orders, 4U) << "eight runs, and no more";
    EXPECT_NE(walk.next().action, Action::RecordBaseline);
}

TEST(NextStepTest, ManyRunsOfTheBaselineAreNoTestRuns) {
    Walk walk = byHand();
    baselineOf(walk, std::vector<double>(30, 20));
    ASSERT_EQ(walk.results().get<results::Costs>()->runs, 30U);
    EXPECT_EQ(walk.next().action, Action::RecordCosts);
}

TEST(NextStepTest, OfManyPartsTheHeaviestAreLearnt) {
    Walk walk = byHand();
    auto run = steadyRun(openOrders(walk.store.session()).front(), 20, walk.ids);
    capture::Capture many;
    for (int part = 0; part < 60; ++part) {
        many.marks.push_back({fmt::format("place {}", part), many.framesMs.size()});
        for (int i = 0; i < 60; ++i) many.framesMs.push_back(12 + 0.1 * part + 0.01 * (i % 3));
    }
    run.capture = std::make_shared<const capture::Capture>(std::move(many));
    walk.store.addRuns({run});
    const auto* costs = walk.results().get<results::Costs>();
    ASSERT_TRUE(costs != nullptr && costs->ground.chooser);
    const auto& parts = costs->ground.belief().layout().parts;
    ASSERT_EQ(parts.size(), 8U);
    EXPECT_EQ(parts.front(), "place 52");
    EXPECT_EQ(parts.back(), "place 59");
}

TEST(NextStepTest, RunsOfAnotherStateAreNotCompared) {
    Walk walk = walkedDemo(Action::RecordCosts);
    ASSERT_EQ(results::idsOf<BaselineRuns>(walk.results()).size(), 1U);
    ASSERT_TRUE(walk.store.apply(setState("conditions.supply", "battery")).has_value());
    EXPECT_TRUE(results::idsOf<BaselineRuns>(walk.results()).empty());
    ASSERT_EQ(walk.next().action, Action::RecordBaseline);
    ASSERT_TRUE(walk.step());
    const auto& last = walk.store.session().facts->runs.back();
    EXPECT_EQ(walk.store.session().orderOf(last)->conditions.supply, run::Supply::Battery) << "the rig was told";
    EXPECT_EQ(results::idsOf<BaselineRuns>(walk.results()).size(), 1U);
    ASSERT_TRUE(walk.store.apply(setState("conditions.supply", "mains")).has_value());
    EXPECT_EQ(results::idsOf<BaselineRuns>(walk.results()).size(), 1U) << "the first again";
    // A driver that was updated begins anew, with a warm-up run of its own.
    ASSERT_TRUE(walk.store.apply(setState("conditions.driver_updated", "true")).has_value());
    ASSERT_EQ(walk.next().action, Action::RecordWarmUp);
    ASSERT_TRUE(walk.step());
    EXPECT_TRUE(walk.store.session().orderOf(walk.store.session().facts->runs.back())->conditions.driverUpdated);
    ASSERT_EQ(walk.next().action, Action::RecordBaseline);
    EXPECT_EQ(walk.next().runs, 1U);
    ASSERT_TRUE(walk.step());
    EXPECT_FALSE(walk.store.session().orderOf(walk.store.session().facts->runs.back())->conditions.driverUpdated);
    EXPECT_EQ(results::idsOf<BaselineRuns>(walk.results()).size(), 1U);
}

TEST(NextStepTest, StartValuesAreAskedForWhereNobodySaidThem) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.store.apply(askStart(true)).has_value());
    ASSERT_EQ(walk.next().action, Action::SayStart);
    ASSERT_TRUE(perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock()).has_value());
    EXPECT_EQ(walk.next().action, Action::RecordWarmUp);
}

TEST(NextStepTest, ALogWithoutPartsHasThoseOfItsRoute) {
    Walk walk = byHand();
    answerWith(walk, {20});
    const auto& id = results::idsOf<BaselineRuns>(walk.results()).front();
    const auto* figures = walk.results().of<RunFigures>(id);
    ASSERT_NE(figures, nullptr);
    const auto& route = *walk.store.session().route();
    ASSERT_EQ(figures->parts.size(), route.parts.size());
    for (std::size_t i = 0; i < route.parts.size(); ++i) {
        EXPECT_EQ(figures->parts[i].part, route.parts[i].name);
        EXPECT_NEAR(static_cast<double>(figures->parts[i].frames) * 0.020, route.parts[i].seconds, 0.05);
    }
}
