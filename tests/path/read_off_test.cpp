// SPDX-License-Identifier: GPL-3.0-or-later
// Figures read off a counter in place of a recording: what they may be, what they tell, and a whole path of them.
#include "support/support.h"

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/path/answer.h>
#include <impasto/path/perform.h>

using namespace impasto;
using namespace impasto::document;
using namespace impasto::path;
using namespace impasto::support;

namespace {

/// What the simulated rig plays for an order, in the state that the last one left: nothing of it is in the session.
frames::Summary played(Walk& walk, const run::Order& order, rig::RigState& state) {
    const auto& session = walk.store.session();
    const auto rig = rig_sim::simulatedRig(originals(), *session.machine(), *session.game());
    std::optional<capture::Capture> recorded;
    const path::RecordHooks hooks{{}, {}, [&](const run::Run& run) {
                                      recorded = *run.capture;
                                      state = *rig::stateOf(run.rigState);
                                  }};
    EXPECT_TRUE(recordAll(**rig, {{order}}, state, hooks, {}, walk.ids, fixedClock()));
    return *frames::summarize(recorded->framesMs);
}

/// A player who looks at the game's counter: whole numbers, the more off the more it moves.
run::ReadOff watched(const frames::Summary& summary, RandomStream& eye) {
    run::ReadOff out;
    const double moves = (summary.fastestSecond.value() - summary.slowestSecond.value()) / summary.average.value();
    out.average = Fps(std::round(summary.average.value() * (1 + std::min(0.01, 0.15 * moves) * eye.normal())));
    out.least = Fps(std::min(out.average.value(), std::floor(summary.slowestSecond.value())));
    out.most = Fps(std::max(out.average.value(), std::ceil(summary.fastestSecond.value())));
    return out;
}

/// The demo by hand at a rate, its goals those that a counter shows.
SessionStore byHand(double target, std::uint64_t seed = 7) {
    auto store = demoStore(seed);
    run::Brief brief = *store.session().edits->goal.brief;
    brief.target = Fps(target);
    brief.lowestLow.reset();
    EXPECT_TRUE(store.apply(together("start", {useRig(RigKind::Hand), setBrief(brief)})));
    return store;
}

} // namespace

/// From nothing to a result.
void walkWholePath(double target, std::uint64_t seed) {
    Walk walk(byHand(target, seed));
    RandomStream eye(seed, "eye");
    rig::RigState state;
    std::size_t readings = 0;
    for (int i = 0; i < 60 && walk.next().action != Action::Done; ++i) {
        const auto step = walk.next();
        ASSERT_NE(step.action, Action::SayBrief);
        const auto performed = perform(walk.store, walk.results(), step, walk.ids, fixedClock());
        ASSERT_TRUE(performed.has_value()) << wording::error(wording::Words(), performed.error()).all();
        for (const auto& order : performed->toRecord) {
            const auto sum = played(walk, order, state);
            const auto off = watched(sum, eye);
            const auto answered = answer(walk.store, order.id, off, walk.ids, fixedClock());
            ASSERT_TRUE(answered.has_value());
            EXPECT_FALSE(answered->mismatch.has_value());
            ++readings;
        }
    }
    ASSERT_EQ(walk.next().action, Action::Done);
    const auto& session = walk.store.session();
    EXPECT_LE(readings, 26U);
    for (const auto& run : session.facts->runs) EXPECT_TRUE(run.readOff.has_value() && run.capture->frames() == 0);
    const auto* proof = walk.results().get<proof::Proof>();
    ASSERT_NE(proof, nullptr);
    EXPECT_TRUE(proof->readOff);
    ASSERT_TRUE(session.edits->record.kept && session.edits->record.kept->held());
    // What is called held is held, as far as a counter can see: asked of the simulator, not of the readings.
    const auto after = session.chosenVariant(true);
    run::Order again = session.facts->orders.back();
    again.variant = *after;
    for (std::uint64_t more = 100; more < 104; ++more) {
        again.seed = more;
        const auto summary = played(walk, again, state);
        EXPECT_GE(summary.average.value(), 0.98 * target);
        EXPECT_GE(summary.slowestSecond.value(), 0.85 * target);
    }
    EXPECT_GT(game::pictureValue(*session.game(), session.edits->settings.choice->values), 0.75);
}

TEST(ReadOffTest, AWholePathOfFiguresFromACounter) {
    for (const auto& [target, seed] : {std::pair(60.0, 3U), {60.0, 4U}, {72.0, 5U}, {50.0, 6U}}) {
        SCOPED_TRACE(fmt::format("{} fps, seed {}", target, seed));
        walkWholePath(target, seed);
    }
}

TEST(ReadOffTest, ATableOfRatesStandsWithoutAnOrder) {
    const run::ReadOff table{Fps(61), Fps(52), Fps(70), {}, {}, {52, 61, 70, 61}};
    Walk empty(byHand(60));
    const auto first = answer(empty.store, std::nullopt, table, empty.ids, fixedClock(), "rates.csv");
    ASSERT_TRUE(first.has_value());
    EXPECT_EQ(first->beside, 0U);
    ASSERT_EQ(results::idsOf<results::ReadBaseline>(empty.results()).size(), 1U) << "it counts for the settings in use";
    EXPECT_EQ(empty.store.session().facts->run(first->runs.front())->readOff->rates, table.rates);
    const auto again = answer(empty.store, std::nullopt, table, empty.ids, fixedClock(), "rates.csv");
    EXPECT_EQ(again->known, first->runs) << "it is there";
    EXPECT_EQ(empty.store.session().facts->runs.size(), 1U);
    empty.store.undo();
    EXPECT_TRUE(results::idsOf<results::ReadBaseline>(empty.results()).empty());
    // Where runs were ordered and none waits for it, it does not count unasked.
    Walk walk(byHand(60));
    const auto performed = perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock());
    for (const auto& order : performed->toRecord)
        ASSERT_TRUE(answer(walk.store, order.id, {Fps(62), {}, {}, {}, {}}, walk.ids, fixedClock()));
    const auto beside = answer(walk.store, std::nullopt, table, walk.ids, fixedClock(), "rates.csv");
    ASSERT_TRUE(beside.has_value());
    EXPECT_EQ(beside->beside, 1U);
    EXPECT_EQ(walk.store.session().leftOut(*walk.store.session().facts->run(beside->runs.front())),
              document::LeftOut::Beside);
}

TEST(ReadOffTest, WhatCannotBeIsRefused) {
    Walk walk(byHand(60));
    const auto performed = perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock());
    const auto order = performed->toRecord.front().id;
    const auto keyOf = [&](const run::ReadOff& figures) {
        const auto answered = answer(walk.store, order, figures, walk.ids, fixedClock());
        return answered ? std::string("taken") : answered.error().where.key;
    };
    EXPECT_EQ(keyOf({Fps(0), {}, {}, {}, {}}), "average_fps");
    EXPECT_EQ(keyOf({Fps(std::nan("")), {}, {}, {}, {}}), "average_fps");
    EXPECT_EQ(keyOf({Fps(1e9), {}, {}, {}, {}}), "average_fps");
    EXPECT_EQ(keyOf({Fps(60), {}, {}, {}, {}, {60, -1}}), "rates");
    EXPECT_EQ(keyOf({Fps(60), {}, {}, {}, {}, {60, std::nan("")}}), "rates");
    EXPECT_EQ(keyOf({Fps(60), {}, {}, {}, {}, std::vector<double>(100'001, 60.0)}), "rates");
    EXPECT_EQ(keyOf({Fps(60), Fps(70), {}, {}, {}}), "least_fps");
    EXPECT_EQ(keyOf({Fps(60), {}, Fps(50), {}, {}}), "most_fps");
    EXPECT_EQ(keyOf({Fps(60), {}, {}, Fps(61), {}}), "one_percent_low_fps");
    EXPECT_EQ(keyOf({Fps(60), {}, {}, {}, Mebibytes(-1)}), "gpu_memory_mib");
    EXPECT_TRUE(walk.store.session().facts->runs.empty());
    EXPECT_EQ(keyOf({Fps(60), Fps(50), Fps(70), Fps(45), Mebibytes(6000)}), "taken");
    EXPECT_EQ(answer(walk.store, order, {Fps(60), {}, {}, {}, {}}, walk.ids, fixedClock()).error().code,
              ErrorCode::UnknownName)
        << "its order waits no more";
}

TEST(ReadOffTest, OneFarFromTheOthersIsLeftOutAndUndoTakesItAway) {
    Walk walk(byHand(60));
    const auto warmUp = perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock());
    ASSERT_TRUE(answer(walk.store, warmUp->toRecord.front().id, {Fps(49), {}, {}, {}, {}}, walk.ids, fixedClock()));
    const auto first = perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock());
    ASSERT_TRUE(answer(walk.store, first->toRecord.front().id, {Fps(52), {}, {}, {}, {}}, walk.ids, fixedClock()));
    ASSERT_TRUE(walk.store.apply(lockSetting("shadows", "high")));
    // The same values once more, at twice the rate.
    auto order = *walk.store.session().facts->order(first->toRecord.front().id);
    order.id = {walk.ids()};
    walk.store.addOrders({order});
    const auto odd = answer(walk.store, order.id, {Fps(104), {}, {}, {}, {}}, walk.ids, fixedClock());
    ASSERT_TRUE(odd.has_value());
    ASSERT_TRUE(odd->mismatch.has_value());
    EXPECT_EQ(odd->mismatch->what, "rate 104/52");
    const auto& session = walk.store.session();
    EXPECT_EQ(session.leftOut(*session.facts->run(odd->runs.front())), LeftOut::Mismatch);
    EXPECT_FALSE(session.answered(order));
    ASSERT_TRUE(walk.store.apply(countRun(odd->runs.front())));
    EXPECT_TRUE(walk.store.session().readOff(*walk.store.session().facts->run(odd->runs.front())));
    walk.store.undo();
    walk.store.undo();
    EXPECT_FALSE(walk.store.session().shown(*walk.store.session().facts->run(odd->runs.front())));
}

TEST(ReadOffTest, AReadingWeighsLessThanARecording) {
    const auto doubtAfter = [](bool recorded) {
        Walk walk = walkedDemo(Action::RecordCosts);
        EXPECT_TRUE(walk.store.apply(useRig(RigKind::Hand)));
        const auto performed = perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock());
        const auto& order = performed->toRecord.front();
        auto state = rigStateOf(walk.store.session());
        const auto summary = played(walk, order, state);
        if (recorded) {
            const auto rig =
                rig_sim::simulatedRig(originals(), *walk.store.session().machine(), *walk.store.session().game());
            const path::RecordHooks hooks{{}, {}, [&](run::Run run) {
                                              capture::Capture times = *run.capture; // nothing else
                                              times.cpuWorkMs.reset();
                                              times.gpuWorkMs.reset();
                                              times.tracks.clear();
                                              run.capture = std::make_shared<const capture::Capture>(std::move(times));
                                              walk.store.addRuns({std::move(run)});
                                          }};
            EXPECT_TRUE(
                recordAll(**rig, {{order}}, rigStateOf(walk.store.session()), hooks, {}, walk.ids, fixedClock()));
        } else {
            EXPECT_TRUE(answer(walk.store, order.id, {summary.average, {}, {}, {}, {}}, walk.ids, fixedClock()));
        }
        const auto ground = *results::groundOf(walk.results());
        EXPECT_TRUE(ground.belief().hidden()) << "one run of two tells no CPU and GPU";
        const auto set = *ground.belief().layout().setOf(order.variant.values);
        const auto part = ground.belief().layout().parts.size() - 1;
        const auto told = ground.belief().tell(cost::Resource::Gpu, part, set);
        return std::sqrt(told.variance) / told.mean;
    };
    const double recorded = doubtAfter(true), read = doubtAfter(false);
    EXPECT_LT(recorded, read);
    EXPECT_LT(read, 0.2) << "and it does tell something";
}

TEST(ReadOffTest, ALogTakesItsPlaceOnceItIsLeftOut) {
    Walk walk(byHand(60));
    const auto performed = perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock());
    const auto order = performed->toRecord.front();
    const auto read = answer(walk.store, order.id, {Fps(53), {}, {}, {}, {}}, walk.ids, fixedClock());
    EXPECT_TRUE(openOrders(walk.store.session()).empty());
    ASSERT_TRUE(walk.store.apply(hideRun(read->runs.front())));
    ASSERT_EQ(openOrders(walk.store.session()).size(), 1U);
    ReadLog log;
    log.run.id = {walk.ids()};
    log.run.capture = std::make_shared<const capture::Capture>(
        flatCapture(18.7, static_cast<std::size_t>(order.seconds * 1000 / 18.7)));
    const auto answered = answer(walk.store, {log});
    ASSERT_TRUE(answered.has_value());
    EXPECT_EQ(walk.store.session().orderOf(*walk.store.session().facts->run(answered->runs.front()))->id, order.id);
}

TEST(ReadOffTest, AFewFiguresTakeNothingFromRecordings) {
    Walk walk = walkedDemo(Action::ChooseCap);
    const auto before = *results::groundOf(walk.results());
    ASSERT_FALSE(before.belief().hidden());
    ASSERT_GE(before.belief().runs(), 3U);
    ASSERT_TRUE(walk.store.apply(useRig(RigKind::Hand)));
    const auto order = testOrder(walk.store.session(), walk.store.session().edits->settings.baseline, walk.ids);
    auto lowered = order;
    lowered.variant.values["shadows"] = "low";
    walk.store.addOrders({lowered});
    ASSERT_TRUE(answer(walk.store, lowered.id, {Fps(20), {}, {}, {}, {}}, walk.ids, fixedClock()))
        << "and however wrong";
    const auto after = *results::groundOf(walk.results());
    EXPECT_FALSE(after.belief().hidden()) << "CPU and GPU are still told apart";
    const auto set = *after.belief().layout().setOf(lowered.variant.values);
    EXPECT_NEAR(after.belief().tell(cost::Resource::Gpu, 0, set).mean,
                before.belief().tell(cost::Resource::Gpu, 0, set).mean, 1e-6);
}
