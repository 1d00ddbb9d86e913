// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/path/answer.h>
#include <impasto/path/perform.h>
#include <impasto/results/sets.h>

using namespace impasto;
using namespace impasto::document;
using namespace impasto::path;
using namespace impasto::support;

TEST(AnswerTest, AStrayLogNeverCountsUnasked) {
    Walk walk = walkedDemo(Action::Done);
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

TEST(AnswerTest, LogsOfTwoVariantsAreNeverPooled) {
    Walk walk(SessionStore{Session{}});
    RandomStream s(4, "variants");
    const auto log = [&](double ms) {
        ReadLog out;
        out.run.id = {walk.ids()};
        auto frames = flatCapture(ms, 3000, ms / 2);
        for (double& v : frames.framesMs) v *= 1 + 0.02 * s.normal();
        out.run.capture = std::make_shared<const capture::Capture>(std::move(frames));
        return out;
    };
    const auto given = answer(walk.store, {log(16), log(12), log(16.1), log(12.05), log(15.9)});
    ASSERT_TRUE(given.has_value());
    EXPECT_EQ(given->variants, 2U);
    auto session = walk.store.session();
    const auto nameOf = [&](std::size_t i) { return session.variantName(*session.facts->run(given->runs[i])); };
    EXPECT_EQ(nameOf(0), "");
    EXPECT_EQ(nameOf(1), "variant 2");
    EXPECT_EQ(nameOf(3), "variant 2");
    EXPECT_EQ(results::idsOf<results::BaselineRuns>(walk.results()),
              (std::vector<RunId>{given->runs[0], given->runs[2], given->runs[4]}));
    const auto sets = results::setsOf(session, walk.results());
    ASSERT_EQ(sets.size(), 2U);
    EXPECT_EQ(sets[0].counted.size(), 3U);
    EXPECT_EQ(sets[1].counted.size(), 2U);
    EXPECT_NEAR(sets[1].figures.at(frames::averageFps).mean.estimate, 1000 / 12.03, 0.5);
    const auto compared = results::compareVariants(session, walk.results(), given->runs[0], given->runs[1]);
    ASSERT_TRUE(compared);
    EXPECT_EQ(compared->comparison.verdict, stats::Verdict::Differs);
    // In words of one's own, and back.
    ASSERT_TRUE(sayVariant(walk.store, given->runs[1], "copy route off").has_value());
    session = walk.store.session();
    EXPECT_EQ(nameOf(1), "copy route off");
    EXPECT_EQ(results::setsOf(session, walk.results()).size(), 3U);
    ASSERT_TRUE(sayVariant(walk.store, given->runs[1], "").has_value());
    session = walk.store.session();
    EXPECT_EQ(nameOf(1), "");
    EXPECT_EQ(results::idsOf<results::BaselineRuns>(walk.results()).size(), 4U);
    EXPECT_FALSE(sayVariant(walk.store, given->runs[1], std::string(200, 'x')).has_value());
    // Runs that only scatter are of one variant; one odd run is no variant.
    EXPECT_EQ(answer(walk.store, {log(16.2), log(15.8), log(16), log(12.5)})->variants, 1U);
}

TEST(AnswerTest, AVariantThatIsNamedIsHeldAgainstTheBaseline) {
    Walk walk(SessionStore{Session{}});
    RandomStream s(5, "states");
    const auto log = [&](double besides) { // 10 ms on the GPU, and so much besides
        ReadLog out;
        out.run.id = {walk.ids()};
        auto frames = flatCapture(10 + besides, 3000, 6, 10);
        for (std::size_t i = 0; i < frames.frames(); ++i) {
            const double swing = 0.2 * s.normal();
            (*frames.gpuWorkMs)[i] += swing;
            frames.framesMs[i] += swing;
        }
        out.run.capture = std::make_shared<const capture::Capture>(std::move(frames));
        return out;
    };
    const auto given = answer(walk.store, {log(2), log(2.01), log(0.1), log(0.11)});
    ASSERT_TRUE(given.has_value());
    ASSERT_EQ(given->variants, 2U);
    const auto found = [&] { return walk.results().get<results::NamedStates>()->ofRun; };
    EXPECT_FALSE(found().contains(given->runs[0])) << "of the baseline";
    for (const std::size_t i : {2U, 3U}) {
        ASSERT_EQ(found().at(given->runs[i]).size(), 1U);
        const auto one = found().at(given->runs[i]).front();
        EXPECT_EQ(one.sign, limits::PairSign::CopyRouteOff);
        EXPECT_NEAR(one.before - one.after, 1.9, 0.1);
    }
    // Named back it is of the baseline, and held against nothing.
    for (const std::size_t i : {2U, 3U}) ASSERT_TRUE(sayVariant(walk.store, given->runs[i], "").has_value());
    EXPECT_TRUE(found().empty());
}

TEST(AnswerTest, EveryMisfitIsLeftOutAndTheFitsAreTaken) {
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

TEST(AnswerTest, ALogThatDoesNotFitItsOrderIsSaid) {
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
    auto again = *walk.store.session().orderOf(walk.store.session().facts->runs.back());
    const auto other = mismatch(walk.store.session(), again, flatCapture(33, 2270, 20, 30));
    ASSERT_TRUE(other);
    EXPECT_EQ(other->what.substr(0, 8), "rate 30/");
}

TEST(AnswerTest, ALogOfAnotherProgramDoesNotFit) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.store.apply(useRig(RigKind::Hand)).has_value());
    const auto log = [&](double ms, const char* program) {
        ReadLog out;
        out.run.id = {walk.ids()};
        auto frames = flatCapture(ms, static_cast<std::size_t>(75000 / ms));
        if (*program != '\0') frames.notes["program"] = program;
        out.run.capture = std::make_shared<const capture::Capture>(std::move(frames));
        return out;
    };
    ASSERT_TRUE(perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock()).has_value());
    ASSERT_FALSE(answer(walk.store, {log(18.7, "harbour")})->mismatch);
    ASSERT_TRUE(walk.store.apply(countRun(walk.store.session().facts->runs.back().id)).has_value());
    ASSERT_TRUE(perform(walk.store, walk.results(), walk.next(), walk.ids, fixedClock()).has_value());
    const auto open = openOrders(walk.store.session()).size();
    const auto other = answer(walk.store, {log(18.8, "browser")});
    ASSERT_TRUE(other->mismatch);
    EXPECT_EQ(other->mismatch->what, "program browser\nharbour");
    EXPECT_EQ(wording::error(wording::Words(), *other->mismatch).what,
              "The log does not fit the order: it is of the program browser, the other runs are of harbour.");
    EXPECT_EQ(openOrders(walk.store.session()).size(), open);
    EXPECT_FALSE(answer(walk.store, {log(18.9, "harbour")})->mismatch);
    EXPECT_FALSE(answer(walk.store, {log(18.6, "")})->mismatch) << "one that does not say is not judged by it";
}

TEST(AnswerTest, OrdersAreAListAndAnswerByNameOrByWish) {
    Walk walk = walkedDemo(Action::RecordCosts);
    ASSERT_TRUE(walk.store.apply(useRig(RigKind::Hand)).has_value());
    std::vector<run::Order> orders; // several at once, as a session of another day may have left them
    for (const auto& [setting, level] : {std::pair("shadows", "low"),
                                         {"fog", "off"},
                                         {"boats", "few"},
                                         {"reeds", "sparse"},
                                         {"view_distance", "near"}}) {
        run::Order o;
        o.id = {walk.ids()};
        o.variant = walk.store.session().baselineVariant();
        o.variant.values[setting] = level;
        o.route = walk.store.session().edits->subject.route;
        o.machine = walk.store.session().machine()->name;
        o.seconds = walk.store.session().route()->seconds();
        o.conditions = walk.store.session().edits->subject.state.conditions;
        o.purpose = run::Purpose::Cost;
        o.seed = 900 + orders.size();
        orders.push_back(o);
    }
    walk.store.addOrders(orders);
    auto open = openOrders(walk.store.session());
    ASSERT_EQ(open.size(), 5U);
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
    ASSERT_TRUE(walk.store.apply(withdrawOrder(skipped.id)).has_value());
    const auto level0 = levelOf(skipped);
    const auto& cannot = walk.results().get<results::Skipped>()->levels;
    EXPECT_EQ(std::count(cannot.begin(), cannot.end(), level0), 1);
    if (const auto* next = walk.results().get<results::NextRun>(); next != nullptr && next->values) {
        EXPECT_NE(next->values->at(level0.first), level0.second);
    }
    EXPECT_NE(results::proposalOf(walk.results())->values.at(level0.first), level0.second) << "nor chosen";
    for (const auto& order : openOrders(walk.store.session())) EXPECT_NE(order.id, skipped.id);
    walk.store.undo();
    EXPECT_EQ(openOrders(walk.store.session()).front().id, skipped.id);
    // Other start values: what waits would not count any more.
    auto values = walk.store.session().edits->settings.baseline;
    values["shadows"] = values["shadows"] == "low" ? "medium" : "low";
    ASSERT_TRUE(walk.store.apply(setBaseline(*walk.store.session().game(), values)).has_value());
    EXPECT_TRUE(openOrders(walk.store.session()).empty()) << "they were made for other start values";
}
