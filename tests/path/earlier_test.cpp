// SPDX-License-Identifier: GPL-3.0-or-later
// A session that begins with what an earlier one of the same game learnt, against one that begins with what is usual,
// on the simulator's true costs.
#include "support/support.h"

#include <cmath>
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
    static Walk walk = sessionOf(machineNamed("sedge-laptop.toml"), gameNamed("rainmarket.toml"), 75);
    static const bool there = walk.until(Action::RecordProof);
    EXPECT_TRUE(there);
    return walk;
}

struct Missed {
    double sum = 0;
    std::size_t levels = 0, covered = 0;
};
/// How far the GPU's costs of all levels lie off the truth, of those settings that were learnt of, and how many of
/// their intervals hold it.
Missed missed(Walk& walk, const document::EarlierCosts& of) {
    Missed out;
    const auto results = walk.results(); // kept
    const auto& session = walk.store.session();
    const auto* lane = results.get<results::Costs>()->of(run::Lane::Gpu);
    const auto work = [&](const game::Values& values) {
        auto variant = session.baselineVariant();
        variant.values = values;
        return rig_truth::partWork(originals(), *session.machine(), *session.game(), variant, lane->worstPart)->gpuMs;
    };
    const auto& baseline = session.edits->settings.baseline;
    for (const auto& cost : of.costs)
        for (const auto& level : cost.levels) {
            const auto index = lane->levels.indexOf({cost.setting, level});
            if (!index) continue;
            auto values = baseline;
            values[cost.setting] = level;
            const double off = std::abs(lane->levels.estimate[*index] - (work(values) - work(baseline)));
            out.sum += off;
            out.covered += off <= lane->levels.halfWidth(*index) ? 1 : 0;
            ++out.levels;
        }
    return out;
}

std::size_t testRuns(Walk& walk) {
    return results::idsOf<results::CostRuns>(walk.results()).size();
}

} // namespace

TEST(EarlierTest, WhatALaptopTaughtBringsADesktopNearerToItsCosts) {
    const auto machine = tower();
    const auto game = gameNamed("rainmarket.toml");
    auto usual = sessionOf(machine, game, 90), taught = sessionOf(machine, game, 90);
    const auto costs = results::earlierCosts(learnt().store.session(), learnt().results(), taught.store.session());
    ASSERT_TRUE(costs.has_value());
    EXPECT_GE(costs->costs.size(), 3U) << "settings that runs moved";
    EXPECT_NE(costs->chips, document::chipsOf(&machine));
    ASSERT_TRUE(taught.store.apply(document::beginWith(*costs)).has_value());
    ASSERT_TRUE(usual.until(Action::RecordCosts));
    ASSERT_TRUE(taught.until(Action::RecordCosts));
    const auto before = missed(usual, *costs), after = missed(taught, *costs);
    ASSERT_EQ(before.levels, after.levels);
    ASSERT_GE(after.levels, 6U);
    EXPECT_LT(after.sum, 0.7 * before.sum) << "after one run each";
    EXPECT_GE(after.covered * 10, after.levels * 8) << "and is not too sure of it";
    ASSERT_TRUE(usual.until(Action::RecordProof));
    ASSERT_TRUE(taught.until(Action::RecordProof));
    EXPECT_LE(testRuns(taught), testRuns(usual));
    const auto& session = taught.store.session();
    for (const auto& part : game.routes.front().parts) {
        const auto work = rig_truth::partWork(originals(), machine, game, *session.chosenVariant(false), part.name);
        EXPECT_LE(std::max(work->cpuMs, work->gpuMs), budgetOf(Fps(90)).value()) << part.name;
    }
}

TEST(EarlierTest, CostsThatAreNotThoseOfTheGameAreDoubtedAndTheChoiceHolds) {
    const auto machine = machineNamed("sedge-laptop.toml");
    const auto game = gameNamed("rainmarket.toml");
    auto walk = sessionOf(machine, game, 75);
    auto costs = *results::earlierCosts(learnt().store.session(), learnt().results(), walk.store.session());
    // Each is told what another costs, and is sure of it.
    const auto first = costs.costs.front().share;
    for (std::size_t i = 0; i < costs.costs.size(); ++i) {
        const auto& other = i + 1 < costs.costs.size() ? costs.costs[i + 1].share : first;
        for (std::size_t k = 0; k < other.size(); ++k)
            if (!other[k].empty())
                for (std::size_t l = 0; l < costs.costs[i].share[k].size(); ++l)
                    costs.costs[i].share[k][l] = *std::max_element(other[k].begin(), other[k].end()) *
                                                 static_cast<double>(l) /
                                                 static_cast<double>(costs.costs[i].share[k].size() - 1);
        costs.costs[i].doubt = 0.05;
    }
    ASSERT_TRUE(walk.store.apply(document::beginWith(costs)).has_value());
    ASSERT_TRUE(walk.until(Action::RecordProof));
    EXPECT_GT(walk.results().get<results::Costs>()->ground.belief().flat(), 0.3) << "it is noticed";
    for (const auto& part : game.routes.front().parts) {
        const auto work =
            rig_truth::partWork(originals(), machine, game, *walk.store.session().chosenVariant(false), part.name);
        EXPECT_LE(std::max(work->cpuMs, work->gpuMs), budgetOf(Fps(75)).value()) << part.name;
    }
}

TEST(EarlierTest, WhatCannotTeachIsRefused) {
    auto other = sessionOf(tower(), saltmarsh(), 60);
    EXPECT_EQ(results::earlierCosts(learnt().store.session(), learnt().results(), other.store.session()).error().code,
              ErrorCode::UnknownName)
        << "another game";
    auto fresh = sessionOf(tower(), gameNamed("rainmarket.toml"), 60);
    const auto of = [&](Walk& walk) {
        return results::earlierCosts(walk.store.session(), walk.results(), learnt().store.session());
    };
    EXPECT_EQ(of(fresh).error().code, ErrorCode::LacksRuns) << "no run";
    ASSERT_TRUE(fresh.until(Action::RecordCosts));
    EXPECT_EQ(of(fresh).error().code, ErrorCode::LacksRuns) << "no setting was moved";

    document::EarlierCosts bad{"x", 3, {}, {}, {{"shadows", {"low", "high"}, {{{0, 1.5}, {}, {}}}, 0.2}}};
    EXPECT_EQ(fresh.store.apply(document::beginWith(bad)).error().code, ErrorCode::BadValue);
    bad.costs.front().share[0] = {0, 0.2, 0.3};
    EXPECT_EQ(fresh.store.apply(document::beginWith(bad)).error().code, ErrorCode::BadValue) << "a share too many";
    bad.costs.front().share[0] = {0, 0.2};
    ASSERT_TRUE(fresh.store.apply(document::beginWith(bad)).has_value());
    EXPECT_FALSE(wording::earlierCosts(wording::Words(), fresh.store.session()).empty());
    ASSERT_TRUE(fresh.store.apply(document::beginWith({})).has_value());
    EXPECT_TRUE(wording::earlierCosts(wording::Words(), fresh.store.session()).empty());
    fresh.store.undo();
    EXPECT_TRUE(fresh.store.session().edits->settings.earlier);
    const auto game = saltmarsh();
    ASSERT_TRUE(fresh.store.apply(document::useGame(fresh.store.addGame(game), game)).has_value());
    EXPECT_FALSE(fresh.store.session().edits->settings.earlier) << "of another game nothing was learnt";
}
