// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/pace/plan.h>

using namespace impasto;
using namespace impasto::pace;

namespace {

const display::Panel follows{{2560, 1440}, Hertz(144), display::RefreshRange{Hertz(48), Hertz(144)}};
const display::Panel panel60{{1920, 1080}, Hertz(60), {}};
const display::Panel headset{{2160, 2160}, Hertz(90), {}, {}, true};
constexpr double error = 0.3;

CapPlan plan(double cap, const display::Panel& panel, run::Style style = run::Style::Battery) {
    return planFor(Fps(cap), panel, style, error);
}

} // namespace

TEST(PlanTest, TheSyncFollowsThePanel) {
    EXPECT_EQ(plan(60, follows), (CapPlan{Fps(60), run::Sync::Variable}));
    EXPECT_EQ(plan(36, follows).sync, run::Sync::Fixed) << "below the range, an even one: 144 / 4";
    EXPECT_EQ(plan(30, panel60), (CapPlan{Fps(30.15), run::Sync::Fixed, Hertz(60)}));
    EXPECT_EQ(plan(60, panel60), (CapPlan{{}, run::Sync::Fixed, Hertz(60)}));
    EXPECT_EQ(plan(40, panel60), (CapPlan{Fps(40), run::Sync::None, Hertz(60)}));
    EXPECT_EQ(plan(30, panel60, run::Style::Competitive).sync, run::Sync::None) << "latency first";
    EXPECT_EQ(planFor(Fps(60), {}, run::Style::Battery, error), CapPlan{Fps(60)}) << "no panel is known";
}

TEST(PlanTest, WhatAPanelDoesNotAllow) {
    const auto of = [](const CapPlan& p, const display::Panel& panel) { return conflictOf(p, panel, error); };
    EXPECT_EQ(of({Fps(140), run::Sync::Variable}, follows), CapConflict::InsideMargin);
    EXPECT_EQ(of({Fps(138), run::Sync::Variable}, follows), std::nullopt);
    EXPECT_EQ(of({{}, run::Sync::Variable}, follows), CapConflict::NoCap);
    EXPECT_EQ(of({Fps(200)}, follows), CapConflict::AbovePanel);
    EXPECT_EQ(of({Fps(68)}, panel60), CapConflict::AbovePanel);
    EXPECT_EQ(of({Fps(40), run::Sync::Fixed, Hertz(60)}, panel60), CapConflict::Uneven);
    EXPECT_EQ(of({Fps(30.15), run::Sync::Fixed, Hertz(60)}, panel60), std::nullopt);
    EXPECT_EQ(of({Fps(90)}, headset), CapConflict::Headset);
    EXPECT_EQ(of({}, headset), std::nullopt);
    EXPECT_EQ(conflictOf({Fps(500)}, {}, error), std::nullopt);
}

TEST(PlanTest, ATargetThatNoModeShows) {
    EXPECT_EQ(beyondPanel(panel60, Fps(75)), Hertz(60));
    EXPECT_FALSE(beyondPanel(panel60, Fps(60)));
    EXPECT_FALSE(beyondPanel({}, Fps(500)));
    const display::Panel modes{{1280, 800}, Hertz(60), {}, {Hertz(60), Hertz(90)}};
    EXPECT_FALSE(beyondPanel(modes, Fps(90)));
}

TEST(PlanTest, EvenRatesOfEveryMode) {
    const display::Panel modes{{1280, 800}, Hertz(60), {}, {Hertz(60), Hertz(80)}};
    std::vector<double> rates;
    for (const auto& p : evenPlans(modes, Fps(25))) rates.push_back(std::round(p.pacedTo()->value()));
    EXPECT_EQ(rates, (std::vector<double>{27, 30, 40, 60, 80}));
}
