// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/frames/places.h>
#include <impasto/frames/summary.h>
#include <impasto/stats/compare.h>
#include <impasto/stats/stats.h>

using namespace impasto;
using namespace impasto::frames;

namespace {

/// A route of a minute that swings by a third and has a heavy half; a run is `factor` slower throughout, and its frames
/// scatter by themselves and with those before.
capture::Capture routeRun(RandomStream& s, double factor) {
    capture::Capture c;
    double at = 0, drift = 0;
    bool second = false;
    c.marks.push_back({"light", 0});
    while (at < 60000) {
        if (!second && at >= 30000) {
            second = true;
            c.marks.push_back({"heavy", c.frames()});
        }
        drift = 0.9 * drift + 0.01 * s.normal();
        const double scene = (second ? 19 : 14) * (1 + 0.15 * std::sin(at / 1900) + 0.1 * std::sin(at / 700));
        double ms = scene * factor * (1 + drift + 0.03 * s.normal());
        if (s.uniform() < 0.002) ms *= 2.5;
        c.framesMs.push_back(ms);
        at += ms / factor; // the route goes by the clock
    }
    return c;
}

std::vector<capture::Capture> family(RandomStream& s, std::size_t runs, double between) {
    std::vector<capture::Capture> out;
    for (std::size_t r = 0; r < runs; ++r) out.push_back(routeRun(s, 1 + between * s.normal()));
    return out;
}

Captures pointers(const std::vector<capture::Capture>& runs) {
    Captures out;
    for (const auto& run : runs) out.push_back(&run);
    return out;
}

double average(const capture::Capture& c) {
    return 1000 * static_cast<double>(c.frames()) / capture::durationMs(c);
}

} // namespace

TEST(PlacesTest, TheSpreadBetweenRunsIsFoundBehindTheRoute) {
    constexpr double truth = 0.005;
    RandomStream s(4, "between");
    double sum = 0;
    std::size_t none = 0;
    constexpr std::size_t families = 200;
    for (std::size_t f = 0; f < families; ++f) {
        const auto runs = family(s, 5, truth);
        std::vector<double> averages;
        for (const auto& run : runs) averages.push_back(average(run));
        const auto found = stats::familyOf(averages, errorsWithoutRoute(pointers(runs)));
        ASSERT_TRUE(found->betweenSd);
        sum += *found->betweenSd / found->mean.estimate / families;
        none += *found->betweenSd == 0 ? 1 : 0;
    }
    EXPECT_NEAR(sum, truth, 0.25 * truth);
    EXPECT_LE(none, families / 10);
}

TEST(PlacesTest, RunsThatDifferByChanceAloneHaveAboutTheirOwnErrors) {
    RandomStream s(5, "none");
    double spread = 0, own = 0;
    for (std::size_t f = 0; f < 60; ++f) {
        const auto runs = family(s, 4, 0);
        std::vector<double> averages;
        for (const auto& run : runs) averages.push_back(average(run));
        const double sd = *stats::standardDeviation(averages);
        spread += sd * sd / 60;
        const double error = errorsWithoutRoute(pointers(runs)).front();
        own += error * error / 60;
    }
    EXPECT_NEAR(std::sqrt(own / spread), 1, 0.25);
}

TEST(PlacesTest, RunsOfOtherPartsAreNotLaidOver) {
    RandomStream s(6, "parts");
    auto runs = family(s, 3, 0);
    EXPECT_EQ(errorsWithoutRoute(pointers(runs)).size(), 3U);
    runs[1].marks.front().part = "harbour";
    EXPECT_TRUE(errorsWithoutRoute(pointers(runs)).empty());
    EXPECT_TRUE(sags(pointers(runs)).empty());
    runs.resize(1);
    EXPECT_TRUE(errorsWithoutRoute(pointers(runs)).empty()) << "one run does not tell the route";
    std::vector<RunDoubt> doubt(1);
    doubt[0].average.standardError = 0.3;
    takeRouteOut(doubt, pointers(runs));
    EXPECT_EQ(doubt[0].average.standardError, 0.3);
}

TEST(PlacesTest, ClocksThatSagAndComeBackAreFoundInTheirStretch) {
    RandomStream s(7, "sag");
    auto runs = family(s, 4, 0.002);
    for (const auto& each : sags(pointers(runs))) EXPECT_FALSE(each.found) << each.figure;
    double at = 0;
    for (double& ms : runs[2].framesMs) {
        at += ms;
        if (at > 12000 && at < 19000) ms *= 1.08;
    }
    const auto all = sags(pointers(runs));
    ASSERT_EQ(all.size(), 4U);
    const auto& found = all[2];
    ASSERT_TRUE(found.found);
    EXPECT_NEAR(found.figure, 1 / 1.08 - 1, 0.02);
    EXPECT_NEAR(found.where->fromMs, 12000, 1500);
    EXPECT_NEAR(found.where->toMs, 19500, 2000);
    EXPECT_FALSE(all[0].found) << "the others did not change";
    runs.resize(2);
    EXPECT_TRUE(sags(pointers(runs)).empty()) << "of two nobody knows which is right";
}
