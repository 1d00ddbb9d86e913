// SPDX-License-Identifier: GPL-3.0-or-later
// Once a choice was run: taken, left or bettered.
#include "support/support.h"

using namespace impasto;
using namespace impasto::document;
using namespace impasto::results;
using namespace impasto::path;
using namespace impasto::support;

namespace {

/// The first choice was run; whether it held is said here.
Results checked(Walk& walk, bool holds) {
    EXPECT_TRUE(walk.until(Action::RecordCheck) && walk.step());
    Results results = walk.results();
    if (results.get<Check>() == nullptr) return results;
    auto check = *results.get<Check>();
    check.holds = holds;
    results.put(std::make_shared<const Check>(check));
    Standing standing = standingOf(results);
    standing.choice.clear();
    results.put(std::make_shared<const Standing>(standing));
    return results;
}

} // namespace

TEST(ChoiceCheckTest, AChoiceThatMissesIsTakenAgainButNotForEver) {
    Walk walk(demoStore());
    Results results = checked(walk, false);
    ASSERT_TRUE(results.get<Check>() != nullptr && proposalOf(results) != nullptr);
    Proposed other = *results.get<Proposed>(); // another choice than the one that was run
    auto& level = other.proposal->values.at("reeds");
    level = level == "sparse" ? "normal" : "sparse";
    results.put(std::make_shared<const Proposed>(other));
    const RunId run = idsOf<CheckRuns>(results).front();
    const auto earlier = [&](std::size_t count) {
        results.put(std::make_shared<const EarlierChecks>(EarlierChecks{std::vector<RunId>(count, run)}));
        return nextStep(walk.store.session(), results);
    };
    EXPECT_EQ(earlier(7).reason, Reason::CheckMissed);
    EXPECT_EQ(earlier(8).reason, Reason::CheckOpen) << "after eight it is run once more, and then the proof decides";
    other.proposal->values = walk.store.session().edits->settings.choice->values;
    results.put(std::make_shared<const Proposed>(other));
    EXPECT_EQ(earlier(0).reason, Reason::CheckOpen) << "nothing better is known: once more";
}

TEST(ChoiceCheckTest, AfterACheckThatHeldMoreIsTakenWhereMoreFits) {
    Walk walk(demoStore());
    Results results = checked(walk, true);
    ASSERT_TRUE(results.get<Check>() != nullptr && proposalOf(results) != nullptr);
    const auto& game = *walk.store.session().game();
    const auto chosen = walk.store.session().edits->settings.choice->values;
    const auto offered = [&](const game::Values& values) {
        Proposed other = *results.get<Proposed>();
        other.proposal->values = values;
        results.put(std::make_shared<const Proposed>(other));
        return nextStep(walk.store.session(), results).reason;
    };
    auto much = chosen, little = chosen;
    for (const auto& setting : game.settings) much[setting.id] = setting.levels.back().name;
    ASSERT_GT(game::pictureValue(game, much), 1.01 * game::pictureValue(game, chosen));
    EXPECT_EQ(offered(chosen), Reason::CapReady);
    EXPECT_EQ(offered(much), Reason::MoreFits);
    auto brief = *walk.store.session().edits->goal.brief;
    brief.lowestLow = Fps(57);
    ASSERT_TRUE(walk.store.apply(setBrief(brief)).has_value());
    EXPECT_EQ(offered(much), Reason::CapReady) << "its low would fall under what is asked for";
    walk.store.undo();
    brief.lowestLow.reset();
    brief.style = run::Style::Quiet;
    ASSERT_TRUE(walk.store.apply(setBrief(brief)).has_value());
    EXPECT_EQ(offered(much), Reason::CapReady) << "the room is worth more than the picture";
    walk.store.undo();
    results.put(
        std::make_shared<const EarlierChecks>(EarlierChecks{std::vector<RunId>(8, idsOf<CheckRuns>(results).front())}));
    EXPECT_EQ(offered(much), Reason::CapReady) << "not for ever";
    results.put(std::make_shared<const EarlierChecks>());
    ASSERT_TRUE(walk.store.apply(setGoodEnough(0.5)).has_value());
    EXPECT_EQ(offered(much), Reason::CapReady) << "so much may be missed";
    walk.store.undo();
    ASSERT_TRUE(walk.store.apply(stopMeasuring(true)).has_value());
    EXPECT_EQ(offered(much), Reason::CapReady) << "the choice so far was to be taken";
}
