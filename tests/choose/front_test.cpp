// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/choose/front.h>

#include "choose/ground.h"

#include <impasto/rig_truth/truth.h>

using namespace impasto;
using namespace impasto::choose;
using namespace impasto::support;

namespace {

/// Brute force over all eleven settings is a million sets.
const game::Values& lockedMost() {
    static const game::Values locked = [] {
        game::Values out;
        for (const char* id : {"texture_filter", "textures", "boats", "view_distance", "water_physics", "reeds"})
            out[id] = groundOf(atChoice()).baseline.at(id);
        return out;
    }();
    return locked;
}

/// Every set of the settings that are not held.
std::vector<Standpoint> allSets(const Ground& ground, const game::Values& locked) {
    std::vector<game::Setting> free;
    for (const auto& s : saltmarsh().settings)
        if (!locked.contains(s.id) && s.weight > 0) free.push_back(s);
    std::vector<Standpoint> out;
    std::vector<std::size_t> at(free.size(), 0);
    for (;;) {
        game::Values values = ground.baseline;
        for (const auto& [id, level] : locked) values[id] = level;
        for (std::size_t i = 0; i < free.size(); ++i) values[free[i].id] = free[i].levels[at[i]].name;
        out.push_back(*standpointOf(ground, values));
        std::size_t i = 0;
        while (i < at.size() && ++at[i] == free[i].levels.size()) at[i++] = 0;
        if (i == at.size()) return out;
    }
}

double bestOf(const std::vector<Standpoint>& sets, Fps target, const std::function<bool(const game::Values&)>& may) {
    double best = -1;
    for (const auto& set : sets)
        if (set.holds.value() >= 0.9995 * target.value() && set.memoryFits && may(set.values))
            best = std::max(best, set.picture);
    return best;
}

} // namespace

TEST(FrontTest, EqualsBruteForce) {
    const auto ground = held(groundOf(atChoice()), lockedMost());
    const auto sets = allSets(ground, lockedMost());
    const auto front = frontOf(ground, {}, 200);
    ASSERT_TRUE(front.has_value());
    ASSERT_GT(front->size(), 8U);
    for (std::size_t i = 0; i < front->size(); ++i) {
        const auto& point = (*front)[i];
        const auto again = standpointOf(ground, point.values);
        EXPECT_NEAR(point.holds.value(), again->holds.value(), 1e-9);
        EXPECT_NEAR(point.picture, game::pictureValue(saltmarsh(), point.values), 1e-4);
        if (i == 0) continue;
        EXPECT_GT(point.holds.value(), (*front)[i - 1].holds.value());
        EXPECT_LT(point.picture, (*front)[i - 1].picture);
    }
    // What settings do to each other is taken in where an answer lies: a set elsewhere may be a hair better.
    const double step = (front->back().holds.value() - front->front().holds.value()) / 199;
    for (const auto& set : sets) {
        if (!set.memoryFits || set.holds.value() > front->back().holds.value()) continue;
        double beside = 0;
        for (const auto& point : *front)
            if (point.holds.value() >= set.holds.value() - 1.1 * step) beside = std::max(beside, point.picture);
        EXPECT_LE(set.picture, beside + 0.009) << set.holds.value();
    }
}

TEST(FrontTest, AllSettingsOpenNoRandomSetLiesAboveIt) {
    const auto ground = groundOf(atChoice());
    const auto front = frontOf(ground);
    ASSERT_TRUE(front.has_value());
    EXPECT_LE(front->size(), 49U);
    const double step = (front->back().holds.value() - front->front().holds.value()) / 47;
    std::uint64_t state = 5;
    for (int round = 0; round < 400; ++round) {
        game::Values values = ground.baseline;
        for (const auto& setting : saltmarsh().settings) {
            state = state * 6364136223846793005U + 1442695040888963407U;
            if (setting.weight > 0) values[setting.id] = setting.levels[(state >> 33U) % setting.levels.size()].name;
        }
        const auto set = standpointOf(ground, values);
        double beside = 0;
        for (const auto& point : *front)
            if (point.holds.value() >= set->holds.value() - 1.1 * step) beside = std::max(beside, point.picture);
        if (beside > 0) EXPECT_LE(set->picture, beside + 0.006);
    }
}

TEST(FrontTest, WaysAreTheBestOfTheirSize) {
    const auto ground = held(groundOf(atChoice()), lockedMost());
    const auto sets = allSets(ground, lockedMost());
    for (const double target : {60.0, 70.0}) {
        const auto ways = waysTo(ground, Fps(target));
        ASSERT_TRUE(ways.has_value());
        ASSERT_GE(ways->size(), 2U);
        double most = 0;
        for (const auto& way : *ways) {
            EXPECT_EQ(way.proposal.values.at("render_scale"), way.size.name);
            EXPECT_TRUE(fits(way.proposal.lanes));
            EXPECT_TRUE(way.proposal.proven) << "so few sets are searched to the end";
            const auto mine = [&](const game::Values& values) { return values.at("render_scale") == way.size.name; };
            EXPECT_NEAR(way.proposal.picture, bestOf(sets, Fps(target), mine), 0.006) << way.size.name;
            most = std::max(most, way.proposal.picture);
        }
        EXPECT_TRUE(std::is_sorted(ways->begin(), ways->end(),
                                   [](const Way& a, const Way& b) { return a.size.scale > b.size.scale; }));
        EXPECT_NEAR(most, propose(ground, Fps(target))->picture, 1e-9) << "the best of them is the choice";
    }
}

TEST(FrontTest, InventedFramesTakeTheirShareOfTheGpu) {
    const auto ground = held(groundOf(atChoice()), lockedMost());
    auto with = ground;
    with.inventedMs = 3;
    const auto sets = allSets(with, lockedMost()); // with what each of them then holds
    const auto way = wayWithInvented(ground, Fps(60), 3);
    ASSERT_TRUE(way.has_value()) << way.error().what;
    EXPECT_EQ(way->base, Fps(60));
    EXPECT_NEAR(way->proposal.picture, bestOf(sets, Fps(60), [](const auto&) { return true; }), 0.006);
    EXPECT_LT(way->proposal.picture, propose(ground, Fps(60))->picture) << "3 ms are not free";
    for (const auto& lane : way->proposal.lanes) {
        const auto free = *outcomeOf(ground, way->proposal.values, Fps(60));
        const auto same = std::find_if(free.begin(), free.end(), [&](const auto& l) { return l.lane == lane.lane; });
        EXPECT_NEAR(same->usableMs - lane.usableMs, lane.lane == run::Lane::Gpu ? 3 : 0, 1e-9);
    }
    // What a set holds is the rate at which it just fits, and less than without.
    const auto& values = way->proposal.values;
    const double holds = standpointOf(with, values)->holds.value();
    EXPECT_LT(holds, standpointOf(ground, values)->holds.value());
    EXPECT_TRUE(fits(*outcomeOf(with, values, Fps(0.995 * holds))));
    EXPECT_FALSE(fits(*outcomeOf(with, values, Fps(1.005 * holds))));
    EXPECT_NEAR(wayWithInvented(ground, Fps(60), 0)->proposal.picture, propose(ground, Fps(60))->picture, 1e-9);
}

TEST(FrontTest, WhyNotIsTrue) {
    const auto ground = held(groundOf(atChoice()), lockedMost());
    const auto sets = allSets(ground, lockedMost());
    const Fps target(66);
    const auto choice = propose(ground, target)->values;
    std::size_t refused = 0;
    for (const auto& setting : saltmarsh().settings) {
        if (setting.weight == 0 || lockedMost().contains(setting.id)) continue;
        for (const auto& level : setting.levels) {
            const auto answer = whyNot(ground, choice, target, {setting.id, level.name});
            ASSERT_TRUE(answer.has_value());
            auto swapped = choice;
            swapped[setting.id] = level.name;
            EXPECT_EQ(answer->swapped.values, swapped);
            EXPECT_EQ(answer->over.empty(), fits(*outcomeOf(ground, swapped, target)));
            EXPECT_EQ(answer->barred, Barred::No);
            const double best =
                bestOf(sets, target, [&](const game::Values& v) { return v.at(setting.id) == level.name; });
            ASSERT_EQ(answer->with.has_value(), best > 0) << setting.id << level.name;
            if (answer->with) {
                EXPECT_EQ(answer->with->values.at(setting.id), level.name);
                EXPECT_NEAR(answer->with->picture, best, 0.006);
                EXPECT_LE(answer->with->picture, answer->chosen.picture + 1e-9) << "the choice is the best of all";
            }
            for (const auto& over : answer->over) EXPECT_GT(over.lane.meanMs + over.lane.marginMs, over.lane.usableMs);
            if (!answer->over.empty()) {
                EXPECT_LT(answer->swapped.holds.value(), target.value());
                ++refused;
            }
        }
    }
    EXPECT_GT(refused, 0U);
}

TEST(FrontTest, WhatMayNotBeChosenSaysWhy) {
    const auto all = groundOf(atChoice());
    const auto locked = held(all, {{"shadows", "low"}});
    const auto choice = propose(locked, Fps(60))->values;
    EXPECT_EQ(whyNot(locked, choice, Fps(60), {"shadows", "ultra"})->barred, Barred::Locked);
    EXPECT_EQ(whyNot(locked, choice, Fps(60), {"fog", "off"})->barred, Barred::No);
    Ground without = all;
    without.chooser = std::make_shared<const Chooser>(all.belief(), saltmarsh(),
                                                      Allowed::of(all.belief().layout(), {}, {{"fog", "medium"}}));
    EXPECT_EQ(whyNot(without, choice, Fps(60), {"fog", "medium"})->barred, Barred::CannotBeSet);
    EXPECT_EQ(whyNot(all, choice, Fps(60), {"fog", "none"}).error().code, ErrorCode::UnknownName);
    EXPECT_EQ(whyNot(all, choice, Fps(60), {"grain", "on"}).error().code, ErrorCode::UnknownName);
    EXPECT_EQ(whyNot({}, choice, Fps(60), {"fog", "off"}).error().code, ErrorCode::LacksRuns);
    EXPECT_EQ(frontOf({}).error().code, ErrorCode::LacksRuns);
    const auto beyond = whyNot(all, choice, Fps(400), {"fog", "off"});
    ASSERT_TRUE(beyond.has_value());
    EXPECT_FALSE(beyond->with.has_value());
}

TEST(FrontTest, NoLevelThatStillFitsIsLeft) {
    const auto ground = groundOf(atChoice());
    for (double target = 50; target <= 90; target += 5) {
        const auto choice = propose(ground, Fps(target));
        if (!choice) continue;
        for (const auto& setting : saltmarsh().settings) {
            if (setting.weight == 0 || setting.changesSize()) continue;
            const auto now = *setting.levelIndex(choice->values.at(setting.id));
            for (std::size_t l = now + 1; l < setting.levels.size(); ++l) {
                auto more = choice->values;
                more[setting.id] = setting.levels[l].name;
                const auto set = *ground.belief().layout().setOf(more);
                EXPECT_LT(ground.chooser->standing(set, ground.room(Fps(target))).sure, usualSafety)
                    << target << " " << setting.id << " " << setting.levels[l].name;
            }
        }
    }
}

TEST(FrontTest, TheLeastMemoryIsEnoughAndLittleLessIsNot) {
    auto& walk = atChoice();
    const auto ground = groundOf(walk);
    const auto& resources = ground.belief().resources();
    const auto memory = static_cast<std::size_t>(
        std::find(resources.begin(), resources.end(), cost::Resource::GpuMemory) - resources.begin());
    ASSERT_LT(memory, resources.size());
    const auto fitsInto = [&](double mib, double picture) {
        auto room = ground.room(Fps(60));
        room[memory].front() = usableMemoryShare * mib;
        const auto best = ground.chooser->best(room, usualSafety);
        return best->fits && best->picture >= picture;
    };
    double before = 0;
    for (const double picture : {0.0, 0.8, 0.95}) {
        const auto least = leastMemoryFor(ground, Fps(60), picture);
        ASSERT_TRUE(least && *least) << picture;
        const double mib = (*least)->size.value();
        EXPECT_TRUE(fitsInto(mib, picture)) << picture;
        EXPECT_FALSE(fitsInto(mib - 20, picture)) << picture;
        EXPECT_GE((*least)->proposal.picture, picture);
        EXPECT_GE(mib, before) << "more of the picture takes no less";
        before = mib;
        // The truth of the set lies within it.
        run::Variant variant;
        variant.values = (*least)->proposal.values;
        variant.resolution = walk.store.session().baselineVariant().resolution;
        for (const auto& part : walk.store.session().route()->parts)
            EXPECT_LE(rig_truth::partWork(originals(), *walk.store.session().machine(), *walk.store.session().game(),
                                          variant, part.name)
                          ->gpuMemoryMib,
                      mib);
    }
    EXPECT_GT(before, (*leastMemoryFor(ground, Fps(60), 0))->size.value());
    EXPECT_FALSE(leastMemoryFor(ground, Fps(60), 1.01)->has_value());
    EXPECT_FALSE(leastMemoryFor(ground, Fps(5000), 0)->has_value());
    EXPECT_EQ(leastMemoryFor(Ground{}, Fps(60), 0).error().code, ErrorCode::LacksRuns);
}
