// SPDX-License-Identifier: GPL-3.0-or-later
// What a brief asks besides rates, as goals of a proof.
#include "support/support.h"

#include <cmath>
#include <impasto/proof/proof.h>
#include <impasto/wording/proof.h>
#include <set>

using namespace impasto;
using namespace impasto::proof;
using impasto::run::Bound;

namespace {

/// The goal of a bound, with one run before and these after; none: the run does not tell it.
WishOutcome judged(Bound bound, double asked, const std::vector<std::optional<double>>& after) {
    const auto summary = *frames::summarize(std::vector<double>(3000, 15.0));
    std::vector<frames::PartHeld> parts{{"whole", 3000, Fps(66), 1, Fps(66)}};
    run::Brief brief;
    brief.target = Fps(60);
    brief.bounds[bound] = asked;
    std::vector<Side> sides{{{seededIdSource(1)()}, false, &summary, &parts}};
    sides.back().bounds[bound] = 2 * asked;
    for (std::size_t i = 0; i < after.size(); ++i) {
        sides.push_back({{seededIdSource(i + 2)()}, true, &summary, &parts});
        sides.back().bounds[bound] = after[i];
    }
    const auto proof = *prove(sides, brief, {});
    EXPECT_EQ(proof.wishes.size(), 2U);
    EXPECT_EQ(proof.wishes.front().state, WishState::Met) << "the target";
    return proof.wishes.back();
}

} // namespace

TEST(BoundsTest, MostAndLeastAreJudgedEachItsWay) {
    for (const auto bound : run::allBounds) {
        const auto [low, high] = run::rangeOf(bound);
        const double asked = std::sqrt(low * high), under = 0.97 * asked, over = 1.03 * asked;
        const auto of = [&](double value) { return judged(bound, asked, {value, 1.001 * value, 0.999 * value}).state; };
        EXPECT_EQ(of(under), run::isLeast(bound) ? WishState::NotMet : WishState::Met) << run::keyOf(bound);
        EXPECT_EQ(of(over), run::isLeast(bound) ? WishState::Met : WishState::NotMet) << run::keyOf(bound);
        EXPECT_EQ(judged(bound, asked, {under, over, asked}).state, WishState::NotEnoughRuns) << run::keyOf(bound);
        const auto outcome = judged(bound, asked, {over, over, over});
        EXPECT_EQ(outcome.wish, Wish::Bound);
        EXPECT_EQ(outcome.bound, bound);
        EXPECT_EQ(outcome.wanted, asked);
        EXPECT_NEAR(outcome.difference.estimate, over - 2 * asked, 1e-9 * asked);
        EXPECT_NEAR(outcome.keeps(over), run::isLeast(bound) ? 1.03 : 1 / 1.03, 1e-9) << "more is better";
    }
}

TEST(BoundsTest, WhatNoRunTellsIsNeitherMetNorWaitedFor) {
    for (const auto& after : std::vector<std::vector<std::optional<double>>>{
             {{}, {}, {}}, {100, 101, {}}}) { // a log among them that does not tell it
        const auto outcome = judged(Bound::Power, 150, after);
        EXPECT_EQ(outcome.state, WishState::NotEnoughRuns);
        EXPECT_TRUE(outcome.untold);
        const auto words = wording::goalShort(wording::Words(), outcome);
        EXPECT_NE(words.find("power at most 150 W"), std::string::npos) << words;
        EXPECT_NE(words.find("watts"), std::string::npos) << words;
    }
    EXPECT_FALSE(judged(Bound::Power, 150, {100, 101, 102}).untold);
    run::ReadOff counter;
    counter.average = Fps(64);
    counter.least = Fps(62);
    std::vector<ReadSide> read;
    for (std::uint64_t i = 0; i < 6; ++i) read.push_back({{seededIdSource(i + 1)()}, i >= 3, &counter});
    run::Brief brief;
    brief.target = Fps(60);
    brief.bounds[Bound::GpuTemperature] = 80;
    const auto proof = *prove(read, brief, {});
    EXPECT_TRUE(proof.wishes.back().untold) << "a counter tells no temperature";
    EXPECT_FALSE(proof.wantsRuns()) << "more runs decide nothing";
    EXPECT_EQ(proof.open(), 1U) << "and it is not called met";
    EXPECT_EQ(proof.met() + 1, proof.wishes.size());
}

TEST(BoundsTest, AMissIsTheLogarithmOfTheRatio) {
    EXPECT_EQ(run::missOf(Bound::Power, 100, 100), 0);
    EXPECT_EQ(run::missOf(Bound::Power, 100, 50), 0);
    EXPECT_NEAR(run::missOf(Bound::Power, 100, 110), std::log(1.1), 1e-12);
    EXPECT_EQ(run::missOf(Bound::BatteryHours, 2, 3), 0);
    EXPECT_NEAR(run::missOf(Bound::BatteryHours, 2, 1), std::log(2.0), 1e-12);
    run::BoundFigures asked, is;
    asked[Bound::Power] = 100;
    asked[Bound::Fan] = 0.5;
    EXPECT_EQ(run::missOf(asked, is), 0) << "nothing is told";
    is[Bound::Power] = 120;
    is[Bound::Latency] = 500; // not asked
    EXPECT_NEAR(run::missOf(asked, is), std::log(1.2 * run::spared), 1e-12);
    is[Bound::Power] = 99;
    EXPECT_GT(run::missOf(asked, is), 0) << "too near for a few runs to tell";
    std::set<std::string_view> keys;
    for (const auto bound : run::allBounds) keys.insert(run::keyOf(bound));
    EXPECT_EQ(keys.size(), run::allBounds.size());
}

TEST(BoundsTest, WhatIsAskedReadsAsItWasTyped) {
    const wording::Words w;
    EXPECT_EQ(wording::boundAsked(w, Bound::Power, 15), "power at most 15 W");
    EXPECT_EQ(wording::boundAsked(w, Bound::BatteryHours, 2.5), "battery at least 2.5 h");
    EXPECT_EQ(wording::boundAsked(w, Bound::GpuTemperature, 80), "GPU at most 80 °C");
    EXPECT_EQ(wording::boundAsked(w, Bound::GpuLoad, 0.9), "GPU load at most 90%");
    EXPECT_EQ(wording::boundMissed(w, Bound::Latency, 30, 41.26), "latency at most 30 ms: 41.3 ms");
    EXPECT_EQ(wording::typedFrom(Bound::Fan, 40), 0.4);
    EXPECT_EQ(wording::typedFrom(Bound::GpuTemperature, 80), 80);
}
