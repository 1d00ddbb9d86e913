// SPDX-License-Identifier: GPL-3.0-or-later
// A session in which runs of an earlier one of the same game count in part, against one without,
// on the simulator's true costs.
#include "support/support.h"

#include <cmath>
#include <impasto/results/earlier.h>
#include <impasto/rig_truth/truth.h>
#include <impasto/wording/layers.h>

using namespace impasto;
using namespace impasto::support;
using path::Action;

namespace {

Walk sessionOf(const machine::Machine& machine, const game::Game& game, double target) {
    auto store = demoStore();
    run::Brief brief;
    brief.target = Fps(target);
    for (const auto& edit : {document::useMachine(store.addMachine(machine)),
                             document::useGame(store.addGame(game), game), document::setBrief(brief)})
        EXPECT_TRUE(store.apply(edit).has_value());
    return Walk(std::move(store));
}

/// The laptop's session, walked until its choice was tried.
Walk& learnt() {
    static Walk walk = sessionOf(machineNamed("sedge-laptop.toml"), gameNamed("tin-harbour.toml"), 60);
    static const bool there = walk.until(Action::RecordProof);
    EXPECT_TRUE(there);
    return walk;
}

std::size_t testRuns(Walk& walk) {
    return results::idsOf<results::CostRuns>(walk.results()).size();
}

/// In the hidden truth, in every part, without a cap.
void expectHeld(const document::Session& session, double target) {
    for (const auto& part : session.game()->routes.front().parts) {
        const auto work = rig_truth::partWork(originals(), *session.machine(), *session.game(),
                                              *session.chosenVariant(false), part.name);
        EXPECT_LE(std::max(work->cpuMs, work->gpuMs), budgetOf(Fps(target)).value()) << part.name;
    }
}

} // namespace

TEST(EarlierTest, WhatALaptopTaughtSparesADesktopRunsAndItsChoiceHolds) {
    const auto machine = tower();
    const auto game = gameNamed("tin-harbour.toml");
    auto usual = sessionOf(machine, game, 80), taught = sessionOf(machine, game, 80);
    const auto earlier = results::earlierOf(learnt().store.session(), learnt().results(), taught.store.session());
    ASSERT_TRUE(earlier.has_value());
    EXPECT_GE(earlier->runs.size(), 4U);
    EXPECT_NE(earlier->chips, document::chipsOf(&machine));
    ASSERT_TRUE(taught.store.apply(document::beginWith(*earlier)).has_value());
    ASSERT_TRUE(usual.until(Action::RecordProof));
    ASSERT_TRUE(taught.until(Action::RecordProof));
    EXPECT_LT(testRuns(taught), testRuns(usual));
    EXPECT_EQ(taught.results().get<results::Costs>()->earlier, results::Earlier::Counts);
    expectHeld(taught.store.session(), 80);
}

TEST(EarlierTest, RunsThatSpeakAgainstThisOnesAreLeftAsideAndTheChoiceHolds) {
    auto walk = sessionOf(machineNamed("sedge-laptop.toml"), gameNamed("tin-harbour.toml"), 60);
    auto earlier = *results::earlierOf(learnt().store.session(), learnt().results(), walk.store.session());
    // Each is said to have taken what another one did: the more was lowered, the slower.
    for (std::size_t i = 0, j = earlier.runs.size() - 1; i < j; ++i, --j)
        std::swap(earlier.runs[i].taken, earlier.runs[j].taken);
    for (auto& run : earlier.runs) run.taken[1] *= run.values == earlier.runs.front().values ? 1 : 1.6;
    ASSERT_TRUE(walk.store.apply(document::beginWith(earlier)).has_value());
    ASSERT_TRUE(walk.until(Action::RecordProof));
    EXPECT_EQ(walk.results().get<results::Costs>()->earlier, results::Earlier::FitsNoMore);
    EXPECT_NE(wording::earlierRuns(wording::Words(), walk.store.session(), walk.results()).find("left aside"),
              std::string::npos);
    expectHeld(walk.store.session(), 60);
}

TEST(EarlierTest, WhatCannotTeachIsRefused) {
    auto other = sessionOf(tower(), saltmarsh(), 60);
    EXPECT_EQ(results::earlierOf(learnt().store.session(), learnt().results(), other.store.session()).error().code,
              ErrorCode::UnknownName)
        << "another game";
    auto fresh = sessionOf(tower(), gameNamed("tin-harbour.toml"), 240);
    const auto of = [&](Walk& walk) {
        return results::earlierOf(walk.store.session(), walk.results(), learnt().store.session());
    };
    EXPECT_EQ(of(fresh).error().code, ErrorCode::LacksRuns) << "no run";
    ASSERT_TRUE(fresh.until(Action::RecordCosts));
    EXPECT_EQ(of(fresh).error().code, ErrorCode::LacksRuns) << "no setting was moved";

    document::EarlierRuns bad{"x", {}, {}, {{{{"shadows", "low"}}, {5, -1, 0}}}};
    EXPECT_EQ(fresh.store.apply(document::beginWith(bad)).error().code, ErrorCode::BadValue);
    bad.runs.front().taken[1] = std::numeric_limits<double>::quiet_NaN();
    EXPECT_EQ(fresh.store.apply(document::beginWith(bad)).error().code, ErrorCode::BadValue);
    bad.runs.front().taken[1] = 8;
    bad.runs.resize(document::mostEarlierRuns + 1, bad.runs.front());
    EXPECT_EQ(fresh.store.apply(document::beginWith(bad)).error().code, ErrorCode::BadValue) << "too many";
    bad.runs.resize(1);
    ASSERT_TRUE(fresh.store.apply(document::beginWith(bad)).has_value());
    const auto words = [&] { return wording::earlierRuns(wording::Words(), fresh.store.session(), fresh.results()); };
    EXPECT_FALSE(words().empty());
    ASSERT_TRUE(fresh.store.apply(document::beginWith({})).has_value());
    EXPECT_TRUE(words().empty());
    fresh.store.undo();
    EXPECT_TRUE(fresh.store.session().edits->settings.earlier);
    const auto game = saltmarsh();
    ASSERT_TRUE(fresh.store.apply(document::useGame(fresh.store.addGame(game), game)).has_value());
    EXPECT_FALSE(fresh.store.session().edits->settings.earlier) << "of another game nothing was learnt";
}
