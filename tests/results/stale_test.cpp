// SPDX-License-Identifier: GPL-3.0-or-later
// Which edit makes which decision stale, and by what name.
#include "support/support.h"

using namespace impasto;
using namespace impasto::document;
using namespace impasto::results;
using namespace impasto::path;
using namespace impasto::proof;
using namespace impasto::support;

namespace {

document::SessionStore keptStore() {
    return walkedDemo(Action::Done).store;
}

Stale join(std::initializer_list<const char*> names) {
    return {names.begin(), names.end()};
}

} // namespace

TEST(StaleTest, EveryEditHasItsRow) {
    const auto kept = keptStore();
    const auto game = *kept.session().game();
    auto otherMachine = tower();
    otherMachine.mark += 1; // described anew
    run::Brief brief = *kept.session().edits->goal.brief;
    brief.style = run::Style::Quiet;
    auto slower = kept.session().edits->settings.baseline;
    slower["shadows"] = "medium";
    auto chosen = kept.session().edits->settings.choice->values;
    chosen["reeds"] = "sparse";
    const RunId baselineRun = kept.session().facts->runs[1].id;

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
        {"runs of an earlier session",
         [](SessionStore& s) {
             return beginWith(EarlierRuns{"x", {}, {}, {{s.session().edits->settings.baseline, {5, 8, 3000}}}});
         },
         join({"costs"}),
         {},
         {}},
        {"style", [&](SessionStore&) { return setBrief(brief); }, join({"brief"}), join({"brief"}), join({"brief"})},
        {"floor",
         [&](SessionStore& s) {
             auto other = *s.session().edits->goal.brief;
             other.lowestLow = Fps(41);
             return setBrief(other);
         },
         join({"brief"}), join({"brief"}), join({"brief"})},
        {"how lows are counted",
         [&](SessionStore& s) {
             auto other = *s.session().edits->goal.brief;
             other.lowRule = stats::LowRule::Percentile;
             return setBrief(other);
         },
         join({"brief"}), join({"brief"}), join({"brief"})},
        {"picture floor",
         [&](SessionStore& s) {
             auto other = *s.session().edits->goal.brief;
             other.pictureFloor = 0.31;
             return setBrief(other);
         },
         join({"brief"}), join({"brief"}), join({"brief"})},
        {"watts",
         [&](SessionStore& s) {
             auto other = *s.session().edits->goal.brief;
             other.bounds[run::Bound::Power] = 150;
             return setBrief(other);
         },
         join({"brief"}), join({"brief"}), join({"brief"})},
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
             return changeChoice(game, chosen, "reeds", "sparse", s.session().edits->settings.choice->basis);
         },
         {},
         join({"choice"}),
         join({"choice"})},
        {"another cap",
         [&](SessionStore& s) {
             return chooseCap({pace::CapSchool::None, {}, s.session().edits->pacing.cap->basis});
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
        EXPECT_EQ(results::standingOf(r).choice, row.choice) << row.name;
        EXPECT_EQ(results::standingOf(r).cap, row.cap) << row.name;
        EXPECT_EQ(results::standingOf(r).kept, row.result) << row.name;
        store.undo();
        const auto back = compute(store.session(), cache, {});
        EXPECT_TRUE(results::standingOf(back).choice.empty() && results::standingOf(back).cap.empty() &&
                    results::standingOf(back).kept.empty())
            << row.name << " undone";
    }
}

TEST(StaleTest, NextStepRedoesWhatIsStaleAndComesToRest) {
    Walk walk(keptStore(), 77); // other ids than those of the first walk
    ASSERT_TRUE(walk.store.apply(setTarget(Fps(66))).has_value());
    const auto next = walk.next();
    EXPECT_NE(next.action, Action::Done);
    ASSERT_TRUE(walk.until(Action::Done))
        << static_cast<int>(walk.next().action) << " for " << static_cast<int>(walk.next().reason);
    EXPECT_EQ(results::standingOf(walk.results()).kept, Stale{});
}

// Decisions in the first logbooks know the game by its text and route, and of the brief the target, the shares and the
// locks. They stay valid, and are told stale when one of these changes.
TEST(StaleTest, DecisionsOfTheFirstLogbooksStand) {
    auto store = keptStore();
    const auto& s = store.session();
    const auto& shares = s.edits->goal.shares;
    Fingerprint brief;
    brief.add(s.edits->goal.brief->target.value())
        .add(shares.gpu.value_or(0.84))
        .add(shares.cpu.value_or(0.98))
        .add(shares.frame.value_or(0.90));
    brief.add(Fingerprint().value()); // nothing is locked
    document::Basis basis = s.edits->record.kept->basis;
    basis["game"] =
        Fingerprint().add(textOf(dataFile("games/saltmarsh-courier.toml"))).add(s.edits->subject.route).value();
    basis["brief"] = brief.value();
    ASSERT_TRUE(store.apply(document::keepResult({s.edits->record.kept->atSeconds, basis})).has_value());
    ResultsCache cache;
    EXPECT_EQ(standingOf(compute(store.session(), cache, {})).kept, Stale{});
    ASSERT_TRUE(store.apply(setTarget(Fps(66))).has_value());
    EXPECT_EQ(standingOf(compute(store.session(), cache, {})).kept, join({"brief"}));
}
