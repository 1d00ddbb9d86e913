// SPDX-License-Identifier: GPL-3.0-or-later
// Two states held against each other: what must be found, what must not, and on the simulated rig against what is
// known.
#include "support/support.h"

#include <impasto/limits/pairs.h>

using namespace impasto;
using namespace impasto::limits;

namespace {

using Shared = std::shared_ptr<const capture::Capture>;

/// Frames that vary as a game's do, with CPU and GPU work, and so much besides the GPU's.
Shared varied(double onGpu, double besides, double onCpu = 6) {
    auto c = support::flatCapture(onGpu + besides, 3000, onCpu, onGpu);
    for (std::size_t i = 0; i < c.frames(); ++i) {
        const double swing = 0.1 * static_cast<double>(i % 9) - 0.4;
        (*c.gpuWorkMs)[i] += swing;
        (*c.cpuWorkMs)[i] += swing / 2;
        c.framesMs[i] += swing;
    }
    return std::make_shared<const capture::Capture>(std::move(c));
}

std::vector<PairSign> signsOf(const std::vector<Shared>& before, const std::vector<Shared>& after) {
    std::vector<PairSign> out;
    for (const auto& f : heldAgainst(before, after, {}, {}, nullptr)) out.push_back(f.sign);
    return out;
}

using Signs = std::vector<PairSign>;

/// On the rig, with the route's first preset.
Shared recorded(const machine::Machine& machine, const game::Game& game, std::uint64_t seed, bool direct,
                const game::Values& changed = {}) {
    const auto rig = rig_sim::simulatedRig(support::originals(), machine, game);
    run::Order order;
    order.variant.values = game.presets.front().values;
    for (const auto& [id, level] : changed) order.variant.values[id] = level;
    order.variant.resolution = machine.panel.native;
    order.variant.direct = direct;
    order.conditions.warmUpSeconds = 600;
    order.route = game.routes.front().name;
    order.seconds = game.routes.front().seconds();
    order.seed = seed;
    auto recording = (*rig)->record(order, {1}, [](const rig::FrameSample&) {}, {});
    EXPECT_TRUE(recording.has_value());
    return std::make_shared<const capture::Capture>(std::move(recording->capture));
}

} // namespace

TEST(PairsTest, WhatMovedNothingWasNotApplied) {
    EXPECT_EQ(signsOf({varied(10, 0.1)}, {varied(10.01, 0.1)}), Signs{PairSign::NotApplied});
    EXPECT_EQ(signsOf({varied(10, 0.1)}, {varied(10.3, 0.1)}), Signs{}) << "3% on the GPU";
    EXPECT_EQ(signsOf({varied(10, 0.1)}, {varied(10, 0.1, 6.4)}), Signs{}) << "hidden behind the GPU";
    EXPECT_EQ(signsOf({varied(10, 0.1)}, {}), Signs{}) << "held against nothing";
    // With frame times alone it is as likely that something else holds them.
    auto times = *varied(10, 0.1);
    times.cpuWorkMs.reset();
    times.gpuWorkMs.reset();
    const auto alone = std::make_shared<const capture::Capture>(times);
    const auto found = heldAgainst(std::vector{alone}, std::vector{alone}, {}, {}, nullptr);
    ASSERT_EQ(found.size(), 1U);
    EXPECT_LE(found.front().sure, 0.5);
}

TEST(PairsTest, HitchesOfTheFirstRunAloneAreFirstSight) {
    auto hitching = *varied(10, 0.1);
    for (std::size_t i = 40; i < hitching.frames(); i += 100) hitching.framesMs[i] += 45;
    const auto first = std::make_shared<const capture::Capture>(hitching);
    const auto found = heldAgainst(std::vector{first}, std::vector{varied(10.2, 0.1)}, {}, {}, nullptr);
    ASSERT_EQ(found.size(), 1U);
    EXPECT_EQ(found.front().sign, PairSign::HitchesFirstOnly);
    EXPECT_NEAR(found.front().before, 100 * 0.45 / 10.55, 0.3);
    EXPECT_EQ(found.front().after, 0);
    EXPECT_EQ(signsOf({first}, {first}), Signs{PairSign::NotApplied}) << "they are in both";
    EXPECT_EQ(signsOf({varied(10.2, 0.1)}, {first}), Signs{}) << "in the second: no first sight";
}

TEST(PairsTest, ATimeBesideTheWorkThatComesOrGoesIsACopyRoute) {
    EXPECT_EQ(signsOf({varied(10, 2)}, {varied(10, 0.1)}), Signs{PairSign::CopyRouteOff});
    EXPECT_EQ(signsOf({varied(10, 0.1)}, {varied(10, 2)}), Signs{PairSign::CopyRouteOn});
    EXPECT_EQ(signsOf({varied(12, 2)}, {varied(10, 0.1)}), Signs{}) << "the work changed as well";
    EXPECT_EQ(signsOf({varied(10, 2)}, {varied(10, 1.6)}), Signs{}) << "most of it is still there";
    // Flat frames are held by a cap or a sync: what is left of them is a wait.
    const auto capped = std::make_shared<const capture::Capture>(support::flatCapture(16.67, 3000, 6, 10));
    EXPECT_EQ(signsOf({capped}, {varied(10, 0.1)}), Signs{});
    // Frames under a limiter that is late by a little are not flat: the cap that was said tells.
    run::Variant variant;
    variant.cap = Fps(1000.0 / 12);
    const std::vector late{varied(10, 2)}, free{varied(10, 0.1)};
    EXPECT_TRUE(heldAgainst(late, free, variant, {}, nullptr).empty());
}

TEST(PairsTest, OnTheRigTheRouteAndASettingAreTold) {
    const auto machine = support::machineNamed("sedge-laptop.toml");
    ASSERT_TRUE(machine.copyRoute);
    const auto game = support::saltmarsh();
    std::vector<Shared> through, direct; // several: runs differ by more than a copy takes
    for (const std::uint64_t seed : {3, 4, 5, 6}) {
        through.push_back(recorded(machine, game, seed, false));
        direct.push_back(recorded(machine, game, seed + 10, true));
    }
    const auto found = heldAgainst(through, direct, {}, machine.panel, &machine);
    EXPECT_TRUE(std::any_of(found.begin(), found.end(), [](const auto& f) {
        return f.sign == PairSign::CopyRouteOff && f.before > f.after + 0.3 && f.sure <= 0.5;
    })) << "in the GPU's reading";
    EXPECT_TRUE(heldAgainst(through, direct, {}, machine.panel, nullptr).empty()) << "nobody says that it is wired so";
    EXPECT_FALSE(std::any_of(found.begin(), found.end(), [](const auto& f) { return f.sign == PairSign::NotApplied; }));
    const auto back = heldAgainst(direct, through, {}, machine.panel, &machine);
    EXPECT_TRUE(std::any_of(back.begin(), back.end(), [](const auto& f) { return f.sign == PairSign::CopyRouteOn; }));
    for (const auto& f : back) EXPECT_NE(f.sign, PairSign::NotApplied);
    // A heavy setting at its lowest is applied, and no route.
    const auto& setting = game.settings.front();
    const std::vector lower{recorded(machine, game, 5, false, {{setting.id, setting.levels.front().name}})};
    for (const auto& f : heldAgainst(through, lower, {}, machine.panel, &machine))
        EXPECT_TRUE(f.sign != PairSign::NotApplied && f.sign != PairSign::CopyRouteOff) << keyOf(f.sign);
}
