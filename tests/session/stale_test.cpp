// SPDX-License-Identifier: GPL-3.0-or-later
// Which edit makes which decision stale, and by what name.
#include "support/support.h"

using namespace impasto;
using namespace impasto::session;
using namespace impasto::support;

namespace {

session::SessionStore keptStore() {
    Walk walk(demoStore());
    EXPECT_TRUE(walk.until(Action::Done));
    return walk.store;
}

Stale join(std::initializer_list<const char*> names) {
    return {names.begin(), names.end()};
}

} // namespace

TEST(StaleTest, EveryEditHasItsRow) {
    const auto kept = keptStore();
    const auto game = *kept.session().game();
    auto otherMachine = tower();
    otherMachine.text += "# another version\n";
    run::Brief brief = *kept.session().edits->brief;
    brief.style = run::Style::Quiet;
    auto slower = kept.session().edits->baseline;
    slower["shadows"] = "medium";
    auto chosen = kept.session().edits->choice->values;
    chosen["reeds"] = "sparse";
    const RunId baselineRun = kept.session().facts->runs[2].id;

    struct Row {
        const char* name;
        std::function<Edit(SessionStore&)> edit;
        Stale choice, cap, result;
    };
    const Row rows[] = {
        {"target", [](SessionStore&) { return setTarget(Fps(66)); }, join({"brief"}), join({"brief"}), join({"brief"})},
        {"shares",
         [](SessionStore&) {
             return setShares({0.8, 0.98, 0.9});
         },
         join({"brief"}), join({"brief"}), join({"brief"})},
        {"style only", [&](SessionStore&) { return setBrief(brief); }, {}, {}, {}},
        {"note", [](SessionStore&) { return writeNote("x"); }, {}, {}, {}},
        {"lock", [](SessionStore&) { return lockSetting("shadows", "low"); }, join({"brief"}), join({"brief"}),
         join({"brief"})},
        {"machine", [&](SessionStore& s) { return useMachine(s.addMachine(otherMachine)); }, join({"machine"}),
         join({"machine"}), join({"machine"})},
        {"baseline run left out",
         [&](SessionStore&) { return leaveOut(baselineRun, LeftOut::ByHand); },
         join({"baseline"}),
         {},
         {}},
        {"choice by hand",
         [&](SessionStore& s) {
             return changeChoice(game, chosen, "reeds", "sparse", s.session().edits->choice->basis);
         },
         {},
         join({"choice"}),
         join({"choice"})},
        {"another cap",
         [&](SessionStore& s) {
             return chooseCap({choose::CapSchool::None, {}, s.session().edits->cap->basis});
         },
         {},
         {},
         join({"cap"})},
    };
    for (const auto& row : rows) {
        auto store = kept;
        ASSERT_TRUE(store.apply(row.edit(store)).has_value()) << row.name;
        ResultsCache cache;
        const auto r = compute(store.session(), cache, {});
        EXPECT_EQ(r.choiceStale, row.choice) << row.name;
        EXPECT_EQ(r.capStale, row.cap) << row.name;
        EXPECT_EQ(r.keptStale, row.result) << row.name;
        store.undo();
        const auto back = compute(store.session(), cache, {});
        EXPECT_TRUE(back.choiceStale.empty() && back.capStale.empty() && back.keptStale.empty())
            << row.name << " undone";
    }
}

TEST(StaleTest, NextStepRedoesWhatIsStaleAndComesToRest) {
    Walk walk(keptStore());
    ASSERT_TRUE(walk.store.apply(setTarget(Fps(66))).has_value());
    const auto next = walk.next();
    EXPECT_NE(next.action, Action::Done);
    ASSERT_TRUE(walk.until(Action::Done))
        << static_cast<int>(walk.next().action) << " for " << static_cast<int>(walk.next().reason);
    EXPECT_EQ(walk.results().keptStale, Stale{});
}
