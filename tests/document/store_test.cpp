// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <set>

using namespace impasto;
using namespace impasto::document;
using namespace impasto::results;
using namespace impasto::path;
using namespace impasto::proof;
using namespace impasto::support;

TEST(StoreTest, UndoAndRedoWalkEditsAndKeepFacts) {
    auto store = demoStore();
    ASSERT_TRUE(store.apply(setTarget(Fps(72))).has_value());
    run::Run run;
    run.id = {seededIdSource(4)()};
    run.capture = std::make_shared<const capture::Capture>(flatCapture(16, 100));
    store.addRuns({run});
    store.undo();
    EXPECT_EQ(store.session().edits->goal.brief->target, Fps(60));
    EXPECT_EQ(store.session().facts->runs.size(), 1U) << "a run is never undone";
    store.redo();
    EXPECT_EQ(store.session().edits->goal.brief->target, Fps(72));
    while (store.undoable()) store.undo();
    EXPECT_EQ(store.session().facts->runs.size(), 1U);
    EXPECT_FALSE(store.session().edits->goal.brief);
    while (store.redoable()) store.redo();
    EXPECT_EQ(store.session().edits->goal.brief->target, Fps(72));
}

TEST(StoreTest, ANewEditCutsWhatCouldBeRedone) {
    auto store = demoStore();
    ASSERT_TRUE(store.apply(setTarget(Fps(72))).has_value());
    store.undo();
    ASSERT_TRUE(store.apply(writeNote("x")).has_value());
    EXPECT_FALSE(store.redoable());
    EXPECT_EQ(store.undoable(), "write-note");
}

TEST(StoreTest, AnEditThatChangesNothingMakesNoRevision) {
    auto store = demoStore();
    const auto revision = store.session().revision;
    ASSERT_TRUE(store.apply(setTarget(Fps(60))).has_value());
    EXPECT_EQ(store.session().revision, revision);
    EXPECT_FALSE(store.apply(setTarget(Fps(5))).has_value());
    EXPECT_EQ(store.session().revision, revision);
}

TEST(StoreTest, EveryChangeIsToldWithWhatItAdded) {
    auto store = demoStore();
    std::vector<Change> told;
    store.onChange([&](const Change& c) { told.push_back(c); });
    run::Run a, b;
    a.id = {seededIdSource(1)()};
    b.id = {seededIdSource(2)()};
    a.capture = b.capture = std::make_shared<const capture::Capture>(flatCapture(16, 10));
    store.addRuns({a, b});
    ASSERT_EQ(told.size(), 1U) << "several files at once are one revision";
    EXPECT_EQ(told[0].runs, 2U);
    ASSERT_TRUE(store.apply(leaveOut(a.id, LeftOut::ByHand)).has_value());
    EXPECT_EQ(told.back().edit, "leave-out");
    EXPECT_EQ(store.addMachine(tower()), 0U) << "an equal text is one fact";
    EXPECT_EQ(told.size(), 2U);
}

TEST(StoreTest, NoTwoOrdersOfASessionShareASeed) {
    Walk walk = walkedDemo(Action::Done);
    std::set<std::uint64_t> seeds;
    std::set<OrderId> ids;
    for (const auto& order : walk.store.session().facts->orders) {
        EXPECT_TRUE(seeds.insert(order.seed).second);
        EXPECT_TRUE(ids.insert(order.id).second);
    }
    EXPECT_GE(seeds.size(), 10U);
}
