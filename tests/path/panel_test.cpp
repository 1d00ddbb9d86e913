// SPDX-License-Identifier: GPL-3.0-or-later
// What a panel never shows is told before anything is measured.
#include "support/support.h"

#include <impasto/pace/cap.h>
#include <impasto/results/pace.h>
#include <impasto/wording/path.h>

using namespace impasto;
using namespace impasto::document;
using namespace impasto::path;
using namespace impasto::support;

TEST(PanelTest, AShownRateThatNoPanelShowsIsToldBeforeAnythingIsMeasured) {
    const auto stepOn = [](const char* machine, double target, double shown) {
        SessionStore store = demoStore();
        const auto game = gameNamed("saltmarsh-courier.toml");
        run::Brief brief;
        brief.target = Fps(target);
        brief.shown = Fps(shown);
        for (const auto& edit :
             {useMachine(store.addMachine(machineNamed(machine))), useGame(store.addGame(game), game), setBrief(brief)})
            EXPECT_TRUE(store.apply(edit).has_value());
        Walk walk(store);
        const auto step = walk.next();
        return step.reason == Reason::ShownBeyondPanel
                   ? wording::reason(wording::Words(), walk.store.session(), walk.results(), step)
                   : std::string();
    };
    EXPECT_NE(stepOn("pocket-heron.toml", 30, 96).find("at most 60 fps"), std::string::npos);
    EXPECT_EQ(stepOn("pocket-heron.toml", 30, 60), "") << "as fast as it shows";
    EXPECT_EQ(stepOn("curlew-pocket.toml", 40, 90), "") << "in its fastest mode";
    EXPECT_NE(stepOn("curlew-pocket.toml", 40, 96), "");
    EXPECT_NE(stepOn("fenwick-duo.toml", 60, 400), "");
    EXPECT_NE(stepOn("plover-headset.toml", 72, 144).find("runtime"), std::string::npos);
}

TEST(PanelTest, OnlyACapThatHoldsTheFramesTeachesHowLateTheLimiterIs) {
    const auto learntFrom = [](double cap) {
        Walk walk = walkedDemo(Action::ChooseCap);
        EXPECT_TRUE(walk.store.apply(chooseCap({pace::CapSchool::Own, {Fps(cap), run::Sync::VariableTearing}, {}}))
                        .has_value());
        EXPECT_EQ(walk.next().action, Action::RecordProof);
        EXPECT_TRUE(walk.step());
        return walk.results().get<results::CapView>()->replay.measuredLateness;
    };
    auto plain = walkedDemo(Action::ChooseCap);
    const auto& replay = plain.results().get<results::CapView>()->replay;
    EXPECT_FALSE(replay.measuredLateness) << "no cap was run";
    EXPECT_TRUE(learntFrom(60));
    EXPECT_FALSE(learntFrom(replay.average().value() + 20)) << "the frames do not reach it: they hold themselves";
    EXPECT_FALSE(learntFrom(143.5)) << "so near the panel's top that the panel holds them";
}

TEST(PanelTest, ACapAppliedElsewhereIsOrderedProvenThereAndLearntOfThatPlaceAlone) {
    Walk walk = walkedDemo(Action::ChooseCap);
    const auto& caps = *walk.results().get<results::CapView>();
    const auto first = caps.offers.front().plan;
    ASSERT_TRUE(first.cap);
    auto elsewhere = first;
    elsewhere.limiter = run::LimiterPlace::Driver;
    const auto latency = [&](const pace::CapPlan& plan) {
        return pace::heldAt(pace::replayedFrames(caps.replay, plan), run::LimiterPlace::Engine).latencyMs;
    };
    EXPECT_DOUBLE_EQ(
        latency(elsewhere),
        pace::heldAt(pace::replayedFrames(caps.replay, first, run::LimiterPlace::Driver), run::LimiterPlace::Driver)
            .latencyMs);
    EXPECT_GT(latency(elsewhere), latency(first) + 1) << "it answers later";
    ASSERT_TRUE(walk.store.apply(chooseCap({pace::CapSchool::Own, elsewhere, {}})).has_value());
    EXPECT_EQ(walk.next().action, Action::RecordProof);
    ASSERT_TRUE(walk.step());
    std::size_t after = 0;
    for (const auto& order : walk.store.session().facts->orders)
        if (order.purpose == run::Purpose::ProofAfter) {
            ++after;
            EXPECT_EQ(order.variant.limiter, run::LimiterPlace::Driver);
        }
    EXPECT_GT(after, 0U);
    EXPECT_EQ(walk.results().get<proof::Proof>()->after, after);
    const auto& proven = walk.results().get<results::CapView>()->replay.proven;
    ASSERT_EQ(proven.size(), 1U);
    EXPECT_EQ(proven.front().plan, elsewhere);
    EXPECT_FALSE(walk.results().get<results::CapView>()->replay.measuredLateness) << "another limiter's";
    // The same cap in the engine is another plan, and wants its own proof.
    ASSERT_TRUE(walk.store.apply(chooseCap({pace::CapSchool::Own, first, {}})).has_value());
    EXPECT_EQ(walk.results().get<proof::Proof>()->after, 0U);
    EXPECT_EQ(walk.next().action, Action::RecordProof);
}
