// SPDX-License-Identifier: GPL-3.0-or-later
// Ways to run (renderer, translation), whose levels have no order, and sizes of the output: learnt at true costs,
// chosen together with all else, against every set there is.
#include "choose/believed.h"

#include <impasto/game/start.h>
#include <impasto/rig_truth/hold.h>

using namespace impasto;
using namespace impasto::choose;
using namespace impasto::support;

namespace {

game::Game barge() {
    return gameNamed("peat-barge.toml");
}

/// After runs of the set in use and of each of these changes to it, one at a time.
Ground after(const machine::Machine& machine, const game::Game& game, const std::vector<cost::LevelKey>& changes,
             const game::Values& locked = {}) {
    Ground out;
    out.baseline = game.presets.front().values;
    std::vector<std::string> parts;
    for (const auto& part : game.routes.front().parts) parts.push_back(part.name);
    const auto layout = cost::Layout::of(game, out.baseline, parts);
    std::vector<cost::SeenRun> runs{trueRun(machine, game, layout, out.baseline)};
    for (const auto& [setting, level] : changes) {
        auto values = out.baseline;
        values[setting] = level;
        runs.push_back(trueRun(machine, game, layout, values));
    }
    out.chooser = std::make_shared<const Chooser>(*cost::Belief::of(layout, runs), game,
                                                  Allowed::of(layout, locked, {}, game.rules));
    for (const auto resource : out.belief().resources())
        out.shares.push_back(std::vector<double>(out.belief().partsOf(resource), 0.95));
    return out;
}

const std::vector<cost::LevelKey> bothWays{{"renderer", "newer"}, {"runs_as", "translated"}};

/// What the set with this level takes more than the set in use.
double dearer(const Ground& ground, cost::Resource resource, std::size_t part, const cost::LevelKey& key) {
    auto values = ground.baseline;
    values[key.setting] = key.level;
    const auto& layout = ground.belief().layout();
    return ground.belief().tell(resource, part, *layout.setOf(values)).mean -
           ground.belief().tell(resource, part, *layout.setOf(ground.baseline)).mean;
}

} // namespace

TEST(WaysToRunTest, WhatAWayCostsIsLearntInEitherDirection) {
    const auto machine = machineNamed("sedge-laptop.toml");
    const auto game = barge();
    const auto ground = after(machine, game, bothWays);
    const auto& layout = ground.belief().layout();
    const auto before = trueRun(machine, game, layout, ground.baseline);
    for (const auto& key : bothWays) {
        auto values = ground.baseline;
        values[key.setting] = key.level;
        const auto with = trueRun(machine, game, layout, values);
        for (const auto resource : {cost::Resource::Cpu, cost::Resource::Gpu})
            for (std::size_t p = 0; p < layout.parts.size(); ++p) {
                const std::size_t k = cost::indexOf(resource);
                const double truth = *with.taken[k][p] - *before.taken[k][p];
                EXPECT_NEAR(dearer(ground, resource, p, key), truth, 0.25 * std::abs(truth) + 0.1) << key.level;
            }
    }
    EXPECT_LT(dearer(ground, cost::Resource::Cpu, 1, bothWays[0]), -1) << "the newer renderer spares the CPU";
    EXPECT_GT(dearer(ground, cost::Resource::Gpu, 1, bothWays[0]), 0.4) << "and loads the GPU";
    // Taken apart: nothing is below zero, and the way that costs more is a layer of its own.
    for (const auto lane : {run::Lane::Cpu, run::Lane::Gpu}) {
        const auto slabs = slabsOf(ground, lane, layout.parts[1], ground.baseline);
        ASSERT_TRUE(slabs.has_value());
        double sum = 0;
        for (const auto& slab : slabs->slabs) {
            EXPECT_GE(slab.ms, -1e-9) << slab.setting;
            sum += slab.ms;
            if (slab.setting == "renderer") EXPECT_EQ(slab.ms > 1, lane == run::Lane::Cpu);
        }
        EXPECT_NEAR(sum, slabs->totalMs, 1e-9);
    }
}

TEST(WaysToRunTest, BeforeAnyRunNoWayIsThoughtToBeDearerThanAnother) {
    const auto ground = after(machineNamed("sedge-laptop.toml"), barge(), {});
    const auto& belief = ground.belief();
    for (const auto& key : bothWays) {
        EXPECT_NEAR(dearer(ground, cost::Resource::Cpu, 0, key), 0, 0.02) << key.level;
        EXPECT_NEAR(dearer(ground, cost::Resource::Gpu, 0, key), 0, 0.02) << key.level;
        auto values = ground.baseline;
        values[key.setting] = key.level;
        const auto told = belief.tell(cost::Resource::Cpu, 0,
                                      {*belief.layout().setOf(ground.baseline), *belief.layout().setOf(values)});
        const double doubt = std::sqrt(told.covariance[0] + told.covariance[3] - 2 * told.covariance[1]);
        EXPECT_GT(doubt, 0.02 * told.mean[0]) << "but that is not known";
    }
}

TEST(WaysToRunTest, TheChoiceOverWaysAndOutputsEqualsBruteForce) {
    const auto machine = machineNamed("sedge-laptop.toml");
    const auto game = barge();
    auto changes = bothWays;
    changes.insert(changes.end(), {{"resolution", "1920x1080"}, {"upscaling", "temporal 1.5"}});
    const auto ground = after(machine, game, changes, {{"ripples", "full"}, {"mist", "soft"}});
    const auto& chooser = *ground.chooser;
    const auto sets = every(chooser);
    std::set<std::pair<std::string, std::string>> chosen;
    std::set<std::string> outputs;
    for (const double target : {50.0, 70.0, 90.0, 110.0, 130.0}) {
        const auto room = ground.room(Fps(target));
        double most = -1;
        for (const auto& set : sets)
            if (chooser.picture(set) > most && chooser.standing(set, room).sure >= usualSafety)
                most = chooser.picture(set);
        const auto proposal = propose(ground, Fps(target));
        if (most < 0) {
            EXPECT_EQ(proposal.error().code, ErrorCode::NothingFits) << target;
            continue;
        }
        ASSERT_TRUE(proposal.has_value()) << target;
        EXPECT_NEAR(proposal->picture, most, 0.006) << target;
        EXPECT_NEAR(proposal->picture, game::pictureValue(game, proposal->values), 1e-4) << "ways show the same";
        chosen.emplace(proposal->values.at("renderer"), proposal->values.at("runs_as"));
        outputs.insert(proposal->values.at("resolution"));
    }
    EXPECT_GE(chosen.size(), 2U) << "the target decides the way";
    EXPECT_GE(outputs.size(), 2U) << "and the output";
}

TEST(WaysToRunTest, AWayIsLeftAsItIsWhereAnotherGainsNothing) {
    const auto ground = after(machineNamed("thornbury-tower.toml"), barge(), bothWays);
    const auto proposal = propose(ground, Fps(20));
    ASSERT_TRUE(proposal.has_value());
    EXPECT_NEAR(proposal->picture, 1, 1e-4) << "everything fits";
    EXPECT_EQ(proposal->values.at("renderer"), ground.baseline.at("renderer"));
    EXPECT_EQ(proposal->values.at("runs_as"), ground.baseline.at("runs_as"));
    auto other = ground;
    other.baseline["renderer"] = "newer"; // in use: another start, another way that stays
    const auto game = barge();
    auto layout = cost::Layout::of(game, other.baseline, ground.belief().layout().parts);
    const auto chooser = Chooser(
        *cost::Belief::of(layout, {trueRun(machineNamed("thornbury-tower.toml"), game, layout, other.baseline)}), game,
        Allowed::of(layout, {}, {}, game.rules));
    const auto best = chooser.best(other.room(Fps(20)), usualSafety);
    ASSERT_TRUE(best.has_value());
    EXPECT_EQ(layout.valuesOf(best->set).at("renderer"), "newer");
}

TEST(WaysToRunTest, StartsAndWalksKeepTheWay) {
    const auto machine = machineNamed("sedge-laptop.toml");
    const auto game = barge();
    for (const char* style : {"competitive", "cinematic", "weak-machine", "headset"}) {
        const auto* set = game::styleSet(style);
        ASSERT_NE(set, nullptr) << style;
        const auto values = game::valuesOf(*set, game, game.presets.front().values);
        EXPECT_EQ(values.at("renderer"), "older") << style;
        EXPECT_EQ(values.at("runs_as"), "native") << style;
        EXPECT_EQ(values.at("resolution"), "2560x1440") << style;
    }
    const auto ground = after(machine, game, {});
    const auto& layout = ground.belief().layout();
    const auto start = *layout.setOf(ground.baseline);
    for (const auto way : {WalkSchool::TopDown, WalkSchool::BottomUp, WalkSchool::BothEnds}) {
        const auto stride = strideOf(way, *ground.chooser, ground.room(Fps(60)), {{start, 1.4}}, {start, {}});
        ASSERT_TRUE(stride.next) << keyOf(way);
        EXPECT_EQ(layout.valuesOf(*stride.next).at("renderer"), "older") << keyOf(way);
        EXPECT_EQ(layout.valuesOf(*stride.next).at("runs_as"), "native") << keyOf(way);
    }
}

TEST(WaysToRunTest, TuningFindsTheWayAndItHolds) {
    auto store = demoStore();
    const auto game = barge();
    const auto machine = machineNamed("sedge-laptop.toml");
    run::Brief brief;
    brief.target = Fps(80);
    for (const auto& edit : {document::useMachine(store.addMachine(machine)),
                             document::useGame(store.addGame(game), game), document::setBrief(brief)})
        ASSERT_TRUE(store.apply(edit).has_value());
    Walk walk(std::move(store));
    ASSERT_TRUE(walk.until(path::Action::Done));
    const auto& session = walk.store.session();
    ASSERT_TRUE(session.edits->settings.choice);
    const auto& values = session.edits->settings.choice->values;
    std::size_t moved = 0;
    for (const auto& order : session.facts->orders) moved += order.variant.values.at("renderer") == "newer" ? 1 : 0;
    EXPECT_GT(moved, 0U) << "the other renderer was run";
    run::Variant start = session.baselineVariant();
    rig_truth::Room room;
    for (std::size_t p = 0; p < game.routes.front().parts.size(); ++p)
        room.parts.push_back({budgetOf(brief.target).value(), budgetOf(brief.target).value()});
    room.gpuMemoryMib = machine.gpuMemory.value();
    const auto best = rig_truth::bestValues(originals(), machine, game, start, game.routes.front().name, room, {});
    ASSERT_TRUE(best.has_value() && best->has_value());
    EXPECT_GE(game::pictureValue(game, values), 0.9 * (*best)->picture);
    EXPECT_EQ(values.at("renderer"), (*best)->values.at("renderer")) << "the CPU decides";
    const auto chosen = session.chosenVariant(true);
    const auto truth = rig_truth::partTruth(originals(), machine, game, *chosen, "village quay");
    ASSERT_TRUE(truth.has_value());
    EXPECT_LE(truth->work.cpuMs, budgetOf(brief.target).value());
    EXPECT_LE(truth->work.gpuMs, budgetOf(brief.target).value());
}
