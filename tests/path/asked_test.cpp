// SPDX-License-Identifier: GPL-3.0-or-later
// Watts, hours and latency that a brief asks: what is proposed keeps them where it can, and the proof says what was
// measured.
#include "support/support.h"

#include <impasto/choose/front.h>
#include <impasto/pace/power.h>
#include <impasto/results/costs.h>
#include <impasto/results/limits.h>
#include <impasto/results/pace.h>
#include <impasto/results/power.h>
#include <impasto/results/proof.h>
#include <impasto/wording/bounds.h>
#include <impasto/wording/choice.h>

using namespace impasto;
using namespace impasto::document;
using namespace impasto::results;
using namespace impasto::path;
using namespace impasto::support;
using impasto::run::Bound;

namespace {

/// The demo with what is asked, its brief else unchanged.
SessionStore asking(Bound bound, double asked) {
    auto store = demoStore();
    auto brief = *store.session().edits->goal.brief;
    brief.bounds[bound] = asked;
    EXPECT_TRUE(store.apply(setBrief(brief)).has_value());
    return store;
}

const proof::WishOutcome& boundOf(const proof::Proof& proof) {
    return *std::find_if(proof.wishes.begin(), proof.wishes.end(), [](const auto& w) { return w.bound.has_value(); });
}

/// The mean over the proof's runs after, of what their recordings say.
double measured(const Session& session, const proof::Proof& proof, Bound bound) {
    double sum = 0, runs = 0;
    for (const auto& run : proof.runs) {
        if (!run.after) continue;
        sum += *pace::boundFigures(*session.facts->run(run.id)->capture, {})[bound];
        ++runs;
    }
    return sum / runs;
}

} // namespace

TEST(AskedTest, WattsThatACapKeepsAreMetAndThoseOfTheRecordings) {
    Walk walk = walkedDemo(Action::ChooseCap);
    const auto* caps = walk.results().get<CapView>();
    ASSERT_TRUE(caps != nullptr && caps->power);
    const double free = caps->power->uncapped().watts;
    // Not what no cap draws, and more than the target's cap is expected to.
    double expected = free;
    for (const auto& offer : caps->offers)
        if (offer.applies && offer.held && offer.bounds[Bound::Power])
            expected = std::min(expected, *offer.bounds[Bound::Power]);
    ASSERT_LT(expected, 0.97 * free);
    Walk asked(asking(Bound::Power, std::ceil(1.08 * expected)));
    ASSERT_TRUE(asked.until(Action::Done));
    const auto* proof = asked.results().get<proof::Proof>();
    ASSERT_NE(proof, nullptr);
    const auto& outcome = boundOf(*proof);
    EXPECT_EQ(outcome.state, proof::WishState::Met)
        << outcome.after.estimate << " of " << outcome.wanted << ", free " << free;
    const double watts = measured(asked.store.session(), *proof, Bound::Power);
    EXPECT_NEAR(outcome.after.estimate, watts, 0.01);
    EXPECT_LE(watts, std::ceil(1.08 * expected)) << "met is said of what was measured";
    EXPECT_EQ(proof->wishes.front().state, proof::WishState::Met) << "and the target is held";
}

TEST(AskedTest, WattsThatNoCapKeepsAreSoughtWithOtherSettings) {
    Walk free = walkedDemo(Action::Done);
    const auto before = *free.store.session().edits->settings.choice;
    const double drawn = measured(free.store.session(), *free.results().get<proof::Proof>(), Bound::Power);
    const double asked = std::floor(0.93 * drawn);
    Walk walk(asking(Bound::Power, asked));
    ASSERT_TRUE(walk.until(Action::Done));
    const auto& session = walk.store.session();
    EXPECT_NE(session.edits->settings.choice->values, before.values);
    EXPECT_LT(game::pictureValue(*session.game(), session.edits->settings.choice->values),
              game::pictureValue(*session.game(), before.values))
        << "watts are paid with the picture";
    const auto* proof = walk.results().get<proof::Proof>();
    EXPECT_EQ(boundOf(*proof).state, proof::WishState::Met);
    EXPECT_LE(measured(session, *proof, Bound::Power), asked);
    EXPECT_EQ(proof->wishes.front().state, proof::WishState::Met);
    EXPECT_TRUE(session.edits->record.kept->held());
}

TEST(AskedTest, TheFirstProposalLeavesRoomForWhatIsAskedAndItsWattsAreForetold) {
    auto plain = walkedDemo(Action::AcceptChoice);
    const auto* limits = plain.results().get<Limits>();
    ASSERT_TRUE(limits != nullptr && limits->power);
    EXPECT_EQ(limits->fill, 1.0);
    EXPECT_TRUE(limits->askedShares.empty());
    const auto before = proposalOf(plain.results())->values;
    const double asked = std::floor(0.8 * limits->power->uncapped().watts);
    Walk walk(asking(Bound::Power, asked));
    ASSERT_TRUE(walk.until(Action::AcceptChoice));
    const auto& with = *walk.results().get<Limits>();
    ASSERT_TRUE(with.fill && *with.fill < 1);
    const auto target = walk.store.session().edits->goal.brief->target;
    const auto wattsOf = [&](const game::Values& values) {
        return *drawsOf(walk.results(), values, target, walk.rules.power);
    };
    const auto* proposal = proposalOf(walk.results());
    ASSERT_NE(proposal, nullptr);
    for (const auto& lane : proposal->lanes) {
        EXPECT_LE(lane.usableMs, *with.fill * 1.3 * budgetOf(target).value());
        EXPECT_GE(lane.leftMs(), -0.001 * lane.usableMs);
    }
    EXPECT_LE(wattsOf(proposal->values).watts.low, asked) << "what surely draws more is not proposed";
    EXPECT_LE(wattsOf(proposal->values).watts.middle, wattsOf(before).watts.middle);
    const auto words = wording::fillAsked(wording::Words(), *walk.store.session().edits->goal.brief, with.fill);
    EXPECT_NE(words.find(fmt::format("power at most {:.0f} W", asked)), std::string::npos) << words;
    // Why not the highest level of what was lowered: what is asked, and no rate that it would not hold.
    const auto ground = *groundOf(walk.results());
    for (const auto& [setting, level] : before)
        if (proposal->values.at(setting) != level) {
            const auto why = choose::whyNot(ground, proposal->values, target, {setting, level});
            ASSERT_TRUE(why.has_value());
            const auto said = wording::whyNot(wording::Words(), walk.store.session(), *why, target);
            EXPECT_EQ(said.find("would hold only"), std::string::npos) << said;
        }
    // What is foretold of the kept set, from the baseline's watts, is what its runs then drew.
    ASSERT_TRUE(walk.until(Action::Done));
    const auto& edits = *walk.store.session().edits;
    const auto told = drawsOf(walk.results(), edits.settings.choice->values, edits.pacing.cap->plan.pacedTo().value(),
                              walk.rules.power);
    const double drew = measured(walk.store.session(), *walk.results().get<proof::Proof>(), Bound::Power);
    ASSERT_TRUE(told);
    EXPECT_GE(drew, told->watts.low);
    EXPECT_LE(drew, told->watts.high);
}

TEST(AskedTest, ALowTargetLeavesFramesLittleOfTheTimeAndThatIsNotCalledOutOfReach) {
    auto plain = walkedDemo(Action::AcceptChoice);
    const auto& power = *plain.results().get<Limits>()->power;
    const double rate = 0.42 * power.uncapped().rate.value();
    auto store = asking(Bound::Power, 1.03 * pace::wattsAt(power, Fps(rate), plain.rules.power).low);
    ASSERT_TRUE(store.apply(setTarget(Fps(std::floor(rate)))).has_value());
    Walk walk(std::move(store));
    ASSERT_TRUE(walk.until(Action::AcceptChoice)) << static_cast<int>(walk.next().action);
    const auto fill = fillOf(walk.results());
    ASSERT_TRUE(fill);
    EXPECT_LT(*fill, 0.5);
    EXPECT_TRUE(walk.results().get<Costs>()->askedFits);
    const auto& brief = *walk.store.session().edits->goal.brief;
    EXPECT_EQ(wording::fillAsked(wording::Words(), brief, fill).find("No settings"), std::string::npos);
}

TEST(AskedTest, WhatIsAskedOfWattsIsNoReasonToFindNothing) {
    // Much that is asked, at a target that hardly fits without it.
    auto store = asking(Bound::Power, 70);
    ASSERT_TRUE(store.apply(setTarget(Fps(80))).has_value());
    Walk walk(std::move(store));
    ASSERT_TRUE(walk.until(Action::AcceptChoice)) << static_cast<int>(walk.next().action);
    const auto& limits = *walk.results().get<Limits>();
    const auto* costs = walk.results().get<Costs>();
    ASSERT_TRUE(limits.fill && *limits.fill < 1) << limits.power->uncapped().watts;
    EXPECT_FALSE(costs->askedFits);
    EXPECT_FALSE(fillOf(walk.results())) << "and it is said";
    EXPECT_NE(proposalOf(walk.results()), nullptr);
    EXPECT_FALSE(walk.results().get<Proposed>()->error);
}

TEST(AskedTest, WattsThatNothingKeepsAreSavedAsNotHeldAndTheTargetStaysFirst) {
    Walk walk(asking(Bound::Power, 5));
    ASSERT_TRUE(walk.until(Action::KeepResult));
    const auto* proof = walk.results().get<proof::Proof>();
    ASSERT_NE(proof, nullptr);
    EXPECT_EQ(proof->wishes.front().state, proof::WishState::Met);
    EXPECT_EQ(boundOf(*proof).state, proof::WishState::NotMet);
    const auto step = walk.next();
    const auto words = wording::reason(wording::Words(), walk.store.session(), walk.results(), step);
    EXPECT_NE(words.find("power at most 5 W is missed by"), std::string::npos) << words;
    ASSERT_TRUE(walk.step());
    ASSERT_TRUE(walk.store.session().edits->record.kept);
    EXPECT_FALSE(walk.store.session().edits->record.kept->held());
    EXPECT_TRUE(walk.store.session().edits->record.kept->missed());
}

TEST(AskedTest, WhatNoRunTellsEndsInNotProvenAfterTheFirstLooks) {
    Walk walk(asking(Bound::BatteryHours, 2)); // a tower has no battery
    ASSERT_TRUE(walk.until(Action::KeepResult));
    const auto* proof = walk.results().get<proof::Proof>();
    ASSERT_NE(proof, nullptr);
    EXPECT_TRUE(boundOf(*proof).untold);
    EXPECT_FALSE(proof->wantsRuns());
    ASSERT_TRUE(walk.step());
    const auto& kept = *walk.store.session().edits->record.kept;
    EXPECT_FALSE(kept.held());
    EXPECT_FALSE(kept.missed()) << "nor missed";
}

TEST(AskedTest, AGpuLoadIsASafeLimitOfTheChoice) {
    Walk walk(asking(Bound::GpuLoad, 0.7));
    ASSERT_TRUE(walk.until(Action::AcceptChoice));
    EXPECT_NEAR(safeShareOf(walk.store.session(), walk.results(), run::Lane::Gpu), 0.7, 1e-9);
    Walk loose(asking(Bound::GpuLoad, 1));
    ASSERT_TRUE(loose.until(Action::RecordCosts));
    Walk plain = walkedDemo(Action::RecordCosts);
    EXPECT_EQ(safeShareOf(loose.store.session(), loose.results(), run::Lane::Gpu),
              safeShareOf(plain.store.session(), plain.results(), run::Lane::Gpu))
        << "never looser than was measured";
    ASSERT_TRUE(walk.until(Action::Done));
    const auto* proof = walk.results().get<proof::Proof>();
    EXPECT_EQ(boundOf(*proof).state, proof::WishState::Met);
    EXPECT_LE(measured(walk.store.session(), *proof, Bound::GpuLoad), 0.7);
}
