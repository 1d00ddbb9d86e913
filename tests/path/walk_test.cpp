// SPDX-License-Identifier: GPL-3.0-or-later
// The ways to walk, over the whole path with the simulator's noise.
#include "support/support.h"

#include <impasto/rig_truth/truth.h>
#include <impasto/wording/walk.h>

using namespace impasto;
using namespace impasto::document;
using namespace impasto::path;
using namespace impasto::support;

namespace {

std::optional<choose::Stride> strideNow(support::Walk& walk) {
    const auto* walking = walk.results().get<results::Walking>();
    return walking == nullptr ? std::nullopt : std::optional(walking->stride);
}

} // namespace

TEST(WalkPathTest, AWayLeadsToAProofAndWhatItKeepsIsTrulyHeld) {
    for (const auto school : {choose::WalkSchool::TopDown, choose::WalkSchool::UpscaleFirst}) {
        support::Walk walk(demoStore());
        ASSERT_TRUE(walk.store.apply(takeWalk(school)).has_value());
        ASSERT_TRUE(walk.until(Action::Done)) << choose::keyOf(school);
        const auto& session = walk.store.session();
        ASSERT_TRUE(session.edits->record.kept && session.edits->record.kept->held()) << choose::keyOf(school);
        const auto variant = *session.chosenVariant(true);
        for (const auto& part : session.route()->parts) {
            const auto work = rig_truth::partWork(originals(), *session.machine(), *session.game(), variant, part.name);
            ASSERT_TRUE(work.has_value());
            EXPECT_LE(std::max(work->cpuMs, work->gpuMs), budgetOf(session.edits->goal.brief->target).value())
                << choose::keyOf(school) << " in " << part.name;
        }
        const auto* proposed = walk.results().get<results::Proposed>();
        ASSERT_TRUE(proposed != nullptr && proposed->walked);
        EXPECT_EQ(session.edits->settings.choice->values, proposed->proposal->values);
        EXPECT_FALSE(proposed->proposal->proven) << "a walk proves nothing best";
        EXPECT_NE(wording::proven(wording::Words(), *proposed).find("held"), std::string::npos);
    }
}

TEST(WalkPathTest, AWayIsTakenInTheMiddleAndGivenUpAgain) {
    support::Walk walk = walkedDemo(Action::RecordCosts);
    ASSERT_TRUE(walk.step());
    const auto measured = walk.results().get<results::Proposed>()->proposal->values;
    ASSERT_TRUE(walk.store.apply(takeWalk(choose::WalkSchool::BottomUp)).has_value());
    ASSERT_EQ(walk.next().action, Action::RecordCosts);
    EXPECT_EQ(strideNow(walk)->move, choose::Move::AllDown);
    EXPECT_EQ(wording::stride(wording::Words(), walk.store.session(), walk.results()),
              "Everything at its lowest, at full size.");
    EXPECT_EQ(walk.results().get<results::NextRun>()->most, 0U) << "how many steps are left is not told";
    ASSERT_TRUE(walk.step());
    const auto stride = strideNow(walk);
    ASSERT_TRUE(stride && stride->stands);
    EXPECT_EQ(stride->move, choose::Move::Raise);
    const std::string said = wording::stride(wording::Words(), walk.store.session(), walk.results());
    EXPECT_NE(said.find("→"), std::string::npos) << said;
    walk.store.undo();
    // Undone is the way alone: the run was made, and teaches the measured way too.
    EXPECT_EQ(strideNow(walk), std::nullopt);
    EXPECT_EQ((results::countOf<results::CostRuns, results::ReadCosts>(walk.results())), 2U);
    EXPECT_FALSE(walk.results().get<results::Proposed>()->walked);
    EXPECT_NE(results::proposalOf(walk.results()), nullptr);
    EXPECT_EQ(measured.size(), results::proposalOf(walk.results())->values.size());
}

TEST(WalkPathTest, APresetIsCalledByItsNameUnlessALockChangesIt) {
    support::Walk walk = walkedDemo(Action::RecordCosts);
    ASSERT_TRUE(walk.store.apply(takeWalk(choose::WalkSchool::PresetFirst)).has_value());
    const auto said = [&] { return wording::stride(wording::Words(), walk.store.session(), walk.results()); };
    EXPECT_EQ(said(), "Preset medium.") << "the highest is in use, and did not hold";
    ASSERT_TRUE(walk.store.apply(lockSetting("shadows", "ultra")).has_value());
    EXPECT_EQ(said().find("Preset medium"), std::string::npos) << said();
    EXPECT_EQ(walk.results().get<results::NextRun>()->values->at("shadows"), "ultra");
}

TEST(WalkPathTest, WhatWasStoppedByHandGoesOnWithAnotherWay) {
    support::Walk walk = walkedDemo(Action::RecordCosts);
    ASSERT_TRUE(walk.store.apply(stopMeasuring(true)).has_value());
    ASSERT_NE(walk.next().action, Action::RecordCosts);
    ASSERT_TRUE(walk.store.apply(takeWalk(choose::WalkSchool::TopDown)).has_value());
    EXPECT_EQ(walk.next().action, Action::RecordCosts);
}
