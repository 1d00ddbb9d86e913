// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/logs/import.h>

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/frames/examine.h>

using namespace impasto;
using namespace impasto::stats;
using namespace impasto::frames;

namespace {

Examined of(const capture::Capture& capture, Finding finding) {
    for (const auto& e : examine(capture))
        if (e.finding == finding) return e;
    ADD_FAILURE();
    return {};
}

capture::Capture played(const run::Variant& variant, const char* machineFile = "thornbury-tower.toml",
                        run::FanProfile fans = run::FanProfile::Automatic) {
    const auto machine = support::machineNamed(machineFile);
    const auto game = support::saltmarsh();
    run::Order order;
    order.variant = variant;
    if (order.variant.values.empty()) order.variant.values = game.presets.front().values;
    order.variant.resolution = machine.panel.native;
    order.route = game.routes.front().name;
    order.seconds = game.routes.front().seconds();
    order.conditions.fans = fans;
    return (*rig_sim::simulatedRig(support::originals(), machine, game))->record(order, {1}, {}, {})->capture;
}

} // namespace

TEST(ExamineTest, CapsAndSyncsFlatten) {
    EXPECT_FALSE(of(played({}), Finding::Flattened).found);
    run::Variant capped;
    capped.cap = Fps(40);
    EXPECT_TRUE(of(played(capped), Finding::Flattened).found);
    RandomStream s(1, "times");
    capture::Capture timesOnly;
    for (int i = 0; i < 2000; ++i) timesOnly.framesMs.push_back(16.7 + 0.05 * s.normal());
    EXPECT_TRUE(of(timesOnly, Finding::Flattened).found) << "they last alike";
    for (double& v : timesOnly.framesMs) v *= 1 + 0.03 * s.normal();
    EXPECT_FALSE(of(timesOnly, Finding::Flattened).found);
    run::Variant synced;
    synced.values = support::saltmarsh().preset("low")->values;
    synced.sync = run::Sync::Fixed;
    EXPECT_TRUE(of(played(synced, "pocket-heron.toml"), Finding::Flattened).found);
}

TEST(ExamineTest, WhatASecondGpuHoldsIsNotCapped) {
    run::Variant invented;
    invented.generation = {run::GenerationKind::External, 4, {}, true};
    EXPECT_FALSE(of(played(invented, "fenwick-duo.toml"), Finding::Flattened).found) << "at its limit";
    invented.generation->multiplier = 2;
    invented.cap = Fps(30);
    EXPECT_TRUE(of(played(invented, "fenwick-duo.toml"), Finding::Flattened).found) << "it has room, and a cap holds";
    run::Variant capped;
    capped.cap = Fps(30);
    auto copied = played(capped);
    copied.tracks.push_back({capture::Sensor::SecondGpuLoad, {500, 1000}, {97, 98}});
    EXPECT_TRUE(of(copied, Finding::Flattened).found) << "a GPU that only copies, at a clock that rests, holds nothing";
}

TEST(ExamineTest, AFrameThatGoesWithALaneIsNotHeld) {
    RandomStream s(5, "goes with");
    capture::Capture copied, capped, synced;
    for (auto* c : {&copied, &capped, &synced}) {
        c->cpuWorkMs.emplace();
        c->gpuWorkMs.emplace();
    }
    const auto add = [&](capture::Capture& c, double ms, double gpu) {
        c.framesMs.push_back(ms);
        c.cpuWorkMs->push_back(6 + 0.3 * s.normal());
        c.gpuWorkMs->push_back(gpu);
    };
    for (int i = 0; i < 3000; ++i) {
        const double gpu = 14 + std::sin(i / 90.0) + 0.5 * s.normal();
        add(copied, gpu + 2 + 0.1 * s.normal(), gpu); // another stage takes 2 ms of each
        add(capped, 20 + 0.6 * std::abs(s.normal()), gpu);
        add(synced, gpu > 14.9 ? 33.33 : 16.67, gpu);
    }
    EXPECT_FALSE(of(copied, Finding::Flattened).found);
    EXPECT_TRUE(of(capped, Finding::Flattened).found);
    EXPECT_TRUE(of(synced, Finding::Flattened).found);
}

TEST(ExamineTest, HalfARunAtItsCapIsSeen) {
    RandomStream s(3, "half");
    capture::Capture c;
    const auto frame = [&](double ms, double cpu, double gpu) {
        c.framesMs.push_back(ms);
        c.cpuWorkMs->push_back(cpu);
        c.gpuWorkMs->push_back(gpu);
    };
    c.cpuWorkMs.emplace();
    c.gpuWorkMs.emplace();
    for (int i = 0; i < 1800; ++i) frame(16.67 * (1 + 0.002 * s.normal()), 6 + 0.3 * s.normal(), 11 + 0.5 * s.normal());
    for (int i = 0; i < 1200; ++i) {
        const double gpu = 22 * (1 + 0.05 * s.normal());
        frame(gpu + 0.1, 7 + 0.3 * s.normal(), gpu);
    }
    EXPECT_TRUE(of(c, Finding::Flattened).found);
    EXPECT_NEAR(of(c, Finding::Flattened).figure, 30.0 / 56.4, 0.03);
    // The CPU's reading holds the wait.
    for (std::size_t i = 0; i < 1800; ++i) (*c.cpuWorkMs)[i] = 0.99 * c.framesMs[i];
    EXPECT_TRUE(of(c, Finding::Flattened).found);
    // A GPU that fills flat frames is at work.
    for (std::size_t i = 0; i < 1800; ++i) (*c.gpuWorkMs)[i] = 0.99 * c.framesMs[i] * (1 + 0.02 * s.normal());
    EXPECT_FALSE(of(c, Finding::Flattened).found);
    // With frame times alone it may be a cap, a sync or a limit.
    c.cpuWorkMs.reset();
    c.gpuWorkMs.reset();
    EXPECT_TRUE(of(c, Finding::Flattened).found);
    EXPECT_FALSE(of(c, Finding::Flattened).sure);
}

TEST(ExamineTest, HeatIsADriftAndAHeavyPartIsNone) {
    const auto steady = played({});
    EXPECT_FALSE(of(steady, Finding::Drifts).found) << "its parts differ by half";
    auto drifting = steady;
    for (const auto& part : capture::partsOf(steady))
        for (std::size_t i = part.first; i < part.last; ++i)
            drifting.framesMs[i] *=
                1 + 0.08 * static_cast<double>(i - part.first) / static_cast<double>(part.last - part.first);
    EXPECT_TRUE(of(drifting, Finding::Drifts).found);
    EXPECT_NEAR(of(drifting, Finding::Drifts).figure - of(steady, Finding::Drifts).figure, 0.04, 0.005);
    auto unmarked = drifting;
    unmarked.marks.clear();
    for (const auto& e : examine(unmarked)) EXPECT_NE(e.finding, Finding::Drifts) << "it may be the scene";
    // A cold laptop on quiet fans warms up while it is measured.
    EXPECT_TRUE(of(played({}, "whinbush-laptop.toml", run::FanProfile::Quiet), Finding::Drifts).found);
}

TEST(ExamineTest, StillReadingsAndShortRuns) {
    auto c = played({});
    EXPECT_FALSE(of(c, Finding::StandsStill).found);
    EXPECT_FALSE(of(c, Finding::TooShort).found);
    *c.cpuWorkMs = std::vector<double>(c.frames(), 16.7);
    EXPECT_EQ(of(c, Finding::StandsStill).figure, 1);
    *c.gpuWorkMs = *c.cpuWorkMs;
    EXPECT_EQ(of(c, Finding::StandsStill).figure, 3);
    (*c.cpuWorkMs)[700] = 95;
    EXPECT_EQ(of(c, Finding::StandsStill).figure, 3) << "one odd frame does not hide a wait";
    for (const auto& e : examine(support::flatCapture(16, 900)))
        EXPECT_NE(e.finding, Finding::StandsStill) << "nothing is said of readings that are not there";
    EXPECT_TRUE(of(support::flatCapture(16, 900), Finding::TooShort).found);
    EXPECT_EQ(of(support::flatCapture(16, 900), Finding::TooShort).figure, 9);
    EXPECT_TRUE(examine({}).empty());
}

TEST(ExamineTest, OneRunUnlikeItsSiblings) {
    const std::vector<double> runs{60.1, 59.8, 60.3, 52.0, 60.0};
    EXPECT_TRUE(unlike(runs, 3)->found);
    EXPECT_NEAR(unlike(runs, 3)->figure, -0.134, 0.002);
    EXPECT_FALSE(unlike(runs, 0)->found) << "the odd one widens its own family";
    EXPECT_FALSE(unlike(std::vector<double>{60, 61, 62}, 0)) << "too few to say";
    // Of four runs three are the siblings.
    const std::vector<double> four{60.1, 59.2, 60.9, 79};
    EXPECT_TRUE(unlike(four, 3)->found) << "a third above the others";
    EXPECT_FALSE(unlike(four, 0)->found);
    const std::vector<double> near{60.1, 59.2, 60.9, 62.5};
    EXPECT_FALSE(unlike(near, 3)->found);
    EXPECT_FALSE(unlike(near, 3)->sure) << "ten deviations of three runs are more than it is off";
    EXPECT_TRUE(unlike(std::vector<double>{60, 60.01, 60.02, 60.01, 60.02, 60.01}, 3)->sure);
    EXPECT_FALSE(unlike(std::vector<double>{60, 60.01, 60.02, 60.2}, 3)->found) << "far by the spread, but nothing";
}

TEST(ExamineTest, AnotherProgramIsSeenInTheLoad) {
    std::vector<Load> runs{{41, 60}, {42, 60.2}, {41.5, 59.9}, {55, 57}, {41, 60.1}};
    EXPECT_TRUE(background(runs, 3)->found);
    EXPECT_NEAR(background(runs, 3)->figure, 13.6, 0.1);
    EXPECT_FALSE(background(runs, 0)->found);
    runs[3].averageFps = 75;
    EXPECT_FALSE(background(runs, 3)->found) << "more frames need more of the CPU";
    runs.resize(3);
    EXPECT_FALSE(background(runs, 1)) << "too few to say";
}

TEST(ExamineTest, AChangeThatMovesNothingIsAskedAbout) {
    const Paid same{10.02, {10.0, 10.05, 9.95, 10.0}}, moved{9.2, {10.0, 10.05, 9.95, 10.0}},
        little{10.09, {10.0, 10.01, 9.99, 10.0}}, memory{7000, {7001, 7000, 6999}}, less{6200, {7001, 7000, 6999}};
    EXPECT_TRUE(notApplied(std::vector<Paid>{same})->found);
    EXPECT_TRUE(notApplied(std::vector<Paid>{same, memory})->found);
    EXPECT_FALSE(notApplied(std::vector<Paid>{moved})->found);
    EXPECT_NEAR(notApplied(std::vector<Paid>{moved})->figure, -0.08, 1e-9);
    EXPECT_FALSE(notApplied(std::vector<Paid>{same, less})->found) << "the memory tells";
    EXPECT_FALSE(notApplied(std::vector<Paid>{little})->found) << "small, but more than the runs differ";
    EXPECT_TRUE(notApplied(std::vector<Paid>{same})->sure);
    EXPECT_FALSE(notApplied(std::vector<Paid>{same}, false)->sure) << "frame times alone: another lane may limit";
    EXPECT_TRUE(capNotApplied(Fps(83), Fps(60)).found);
    EXPECT_FALSE(capNotApplied(Fps(60.2), Fps(60)).found) << "limiters let a little through";
    EXPECT_FALSE(capNotApplied(Fps(41), Fps(60)).found) << "slower than a cap is no fault of the cap";
    EXPECT_FALSE(notApplied({}));
    // Beside one run alone, what runs usually differ by is taken.
    EXPECT_TRUE(notApplied(std::vector<Paid>{{10.01, {10}}})->found);
    EXPECT_FALSE(notApplied(std::vector<Paid>{{10.08, {10}}})->found);
    EXPECT_FALSE(notApplied(std::vector<Paid>{{10, {}}}));
}

TEST(ExamineTest, AnUnevenBaselineNamesItsOddRun) {
    EXPECT_TRUE(evennessOf(std::vector<double>{60, 61, 59.5, 60.4}).even());
    EXPECT_FALSE(evennessOf(std::vector<double>{60, 61, 59.5, 60.4}).odd);
    const auto one = evennessOf(std::vector<double>{60, 61, 52, 60.4});
    EXPECT_FALSE(one.even());
    EXPECT_EQ(one.odd, 2U);
    EXPECT_NEAR(one.spread, 9 / 60.2, 1e-12);
    const auto two = evennessOf(std::vector<double>{60, 70, 50, 60.4});
    EXPECT_FALSE(two.even());
    EXPECT_FALSE(two.odd) << "without either one the others are uneven still";
    EXPECT_TRUE(evennessOf(std::vector<double>{60, 50}).odd == std::nullopt) << "of two neither is odd";
    EXPECT_TRUE(evennessOf({}).even());
}
