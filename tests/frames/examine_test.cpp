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

TEST(ExamineTest, AMenuBeforeAndAfterIsProposed) {
    auto c = played({});
    c.marks.clear(); // as in a log of another tool
    for (const auto& column : capture::optionalColumns) (c.*column.values).reset();
    const auto before = pollutionOf(c);
    EXPECT_TRUE(before.empty()) << "a route with parts is no menu";
    const double whole = capture::durationMs(c), median = *quantile(c.framesMs, 0.5);
    c.framesMs.insert(c.framesMs.begin(), 700, median / 3);
    c.framesMs.insert(c.framesMs.end(), 900, median / 3);
    const auto found = pollutionOf(c);
    ASSERT_EQ(found.size(), 2U);
    EXPECT_EQ(found[0].fromMs, 0);
    EXPECT_NEAR(found[0].toMs, 700 * median / 3, 1000);
    EXPECT_NEAR(found[1].toMs, capture::durationMs(c), 1e-6);
    EXPECT_NEAR(capture::durationMs(capture::without(c, found)), whole, 2000);
}

TEST(ExamineTest, LoadingAndStallsAreProposed) {
    EXPECT_TRUE(pollutionOf(played({})).empty()) << "hitches of the route are no pollution";
    auto c = played({});
    const double whole = capture::durationMs(c);
    c.framesMs.insert(c.framesMs.begin(), {700, 300, 250});
    c.framesMs.insert(c.framesMs.begin() + 2000, 2500); // another window
    c.framesMs.push_back(900);
    const auto found = pollutionOf(c);
    ASSERT_EQ(found.size(), 3U);
    EXPECT_EQ(found[0].fromMs, 0);
    EXPECT_NEAR(found[0].toMs, 1550, 20);
    EXPECT_NEAR(found[1].toMs - found[1].fromMs, 2800, 1);
    EXPECT_NEAR(found[2].toMs, capture::durationMs(c), 1e-6);
    const auto trimmed = capture::without(c, found);
    EXPECT_NEAR(capture::durationMs(trimmed), whole - 900, 100);
    EXPECT_TRUE(pollutionOf({}).empty());
    // A real program's start.
    const auto real = logs::readLog(support::testFile("logs/real-program-slow.csv"));
    const auto start = pollutionOf(*real);
    ASSERT_FALSE(start.empty());
    EXPECT_EQ(start.front().fromMs, 0);
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
    EXPECT_FALSE(notApplied({}));
    EXPECT_FALSE(notApplied(std::vector<Paid>{{10, {10}}}));
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
