// SPDX-License-Identifier: GPL-3.0-or-later
// A level that its player cannot set.
#include "support/support.h"

#include <impasto/cost/cost.h>
#include <impasto/document/edits/settings.h>
#include <impasto/path/perform.h>

using namespace impasto;
using namespace impasto::document;
using namespace impasto::results;
using namespace impasto::path;
using namespace impasto::support;

namespace {

/// A level of the accepted choice that the baseline does not have.
std::pair<std::string, std::string> changedLevel(const Session& session) {
    const auto changed = cost::changedLevels(session.edits->settings.baseline, session.edits->settings.choice->values);
    return changed.empty() ? std::pair<std::string, std::string>()
                           : std::pair(changed.front().setting, changed.front().level);
}

} // namespace

TEST(CannotSetTest, ItIsInNoLaterRunAndNotInWhatIsKept) {
    Walk walk = walkedDemo(Action::RecordCheck);
    const auto barred = changedLevel(walk.store.session());
    ASSERT_FALSE(barred.first.empty());
    const std::size_t ordered = walk.store.session().facts->orders.size();
    ASSERT_TRUE(walk.store.apply(cannotSet(barred.first, barred.second)));
    EXPECT_NE(walk.next().action, Action::RecordCheck) << "the choice has it";
    ASSERT_TRUE(walk.until(Action::Done));
    const auto& session = walk.store.session();
    ASSERT_TRUE(session.edits->settings.choice && session.edits->record.kept);
    EXPECT_NE(session.edits->settings.choice->values.at(barred.first), barred.second);
    for (std::size_t i = ordered; i < session.facts->orders.size(); ++i)
        EXPECT_FALSE(session.facts->orders[i].variant.values.contains(barred.first) &&
                     session.facts->orders[i].variant.values.at(barred.first) == barred.second)
            << i;
    // Allowed again, the choice may have it again: what was chosen without it rests on something else.
    ASSERT_TRUE(walk.store.apply(canSet(barred.first, barred.second)));
    EXPECT_FALSE(standingOf(walk.results()).choice.empty());
}

TEST(CannotSetTest, TheOrderThatSaidSoIsSkippedAndUndoBringsItBack) {
    Walk walk = walkedDemo(Action::RecordCosts);
    ASSERT_TRUE(walk.store.apply(useRig(RigKind::Hand)));
    const auto ordered = [&] { // and not played
        const auto step = walk.next();
        EXPECT_TRUE(perform(walk.store, walk.results(), step, walk.ids, fixedClock()).has_value());
        return openOrders(walk.store.session());
    };
    const auto first = ordered();
    ASSERT_EQ(first.size(), 1U);
    const auto changed =
        cost::changedLevels(walk.store.session().edits->settings.baseline, first.front().variant.values);
    ASSERT_FALSE(changed.empty());
    const auto& barred = changed.back();
    ASSERT_TRUE(walk.store.apply(cannotSet(barred.setting, barred.level, first.front().id)));
    EXPECT_TRUE(openOrders(walk.store.session()).empty());
    const auto other = ordered();
    ASSERT_EQ(other.size(), 1U);
    EXPECT_NE(other.front().variant.values.at(barred.setting), barred.level);
    walk.store.undo();
    const auto again = openOrders(walk.store.session());
    EXPECT_TRUE(std::any_of(again.begin(), again.end(), [&](const auto& o) { return o.id == first.front().id; }));
}

TEST(CannotSetTest, NoDecidingRunAsksForItEither) {
    Walk walk = walkedDemo(Action::RecordCosts);
    const auto plan = [&](limits::DecidingTest test) { return decidingOrder(walk.store.session(), test, walk.ids); };
    const auto order = plan(limits::DecidingTest::TexturesDown);
    ASSERT_TRUE(order.has_value());
    const auto& baseline = walk.store.session().edits->settings.baseline;
    const auto changed = cost::changedLevels(baseline, order->variant.values);
    ASSERT_EQ(changed.size(), 1U);
    ASSERT_TRUE(walk.store.apply(cannotSet(changed[0].setting, changed[0].level)));
    EXPECT_FALSE(plan(limits::DecidingTest::TexturesDown).has_value());
    EXPECT_TRUE(plan(limits::DecidingTest::FansUp).has_value());
    // A lock holds what is chosen; a run that only tells may leave it.
    ASSERT_TRUE(walk.store.apply(canSet(changed[0].setting, changed[0].level)));
    ASSERT_TRUE(walk.store.apply(lockSetting(changed[0].setting, baseline.at(changed[0].setting))));
    EXPECT_TRUE(plan(limits::DecidingTest::TexturesDown).has_value());
}
