// SPDX-License-Identifier: GPL-3.0-or-later
// Whole sessions in the window, on machines that cannot show just any rate.
#include "app/harness.h"
#include "app/tidy.h"

#include <impasto/pace/plan.h>
#include <impasto/wording/proof.h>

using namespace impasto;
using namespace impasto::app;
using path::Action;

namespace {

/// From two dropped descriptions and a target to the end, or to where a lower target is offered; every primary action
/// is a press of Space.
void walk(Driven& d, const char* machine, const char* game, double target) {
    d.drop({support::dataFile(std::string("machines/") + machine), support::dataFile(std::string("games/") + game)});
    d.studio.edited(QStringLiteral("brief.target"), QString::number(target));
    d.rest();
    ASSERT_TRUE(d.view().edits().goal.brief);
    for (int presses = 0; presses < 40 && d.view().step.action != Action::Done; ++presses) {
        if (d.view().step.action == Action::LowerTarget || d.view().step.action == Action::SayBrief) return;
        d.key(Qt::Key_Space);
        d.rest();
    }
}

/// What is kept as held is held by every run after, part by part, on a rate that the panel shows evenly.
void expectTrue(const Driven& d) {
    const auto& kept = d.view().edits().record.kept;
    ASSERT_TRUE(kept);
    const auto* proof = d.view().get<proof::Proof>();
    ASSERT_NE(proof, nullptr);
    EXPECT_EQ(kept->held(), proof->met() == proof->wishes.size());
    const auto& cap = *d.view().edits().pacing.cap;
    EXPECT_FALSE(pace::conflictOf(cap.plan, d.view().session.panel(), d.view().rules.limiterErrorMs))
        << "no cap against the panel";
}

/// Every goal with what its proof says, for a message.
std::string goalsOf(const Driven& d) {
    std::string out;
    for (const auto& wish : d.view().get<proof::Proof>()->wishes)
        out += fmt::format("{}: {:.2f} of {:.2f}, {}\n", wording::goal(d.view().w, wish), wish.after.estimate,
                           wish.wanted, wording::goalState(d.view().w, wish.state));
    return out;
}

} // namespace

TEST(WalksTest, AHandheldOfSixtyHertzHoldsThirty) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    walk(d, "pocket-heron.toml", "chalk-ridge.toml", 30);
    ASSERT_EQ(d.view().step.action, Action::Done) << static_cast<int>(d.view().step.reason);
    expectTrue(d);
    EXPECT_TRUE(d.view().edits().record.kept->held()) << goalsOf(d);
    const auto& plan = d.view().edits().pacing.cap->plan;
    EXPECT_EQ(plan.sync, run::Sync::Fixed)
        << "every frame for two refreshes; cap " << (plan.cap ? plan.cap->value() : 0) << ", "
        << pace::keyOf(d.view().edits().pacing.cap->school);
    expectAllTidy(d, "thirty on sixty");
}

TEST(WalksTest, AStrayLogAndItsUndoLeaveAFinishedSessionAsItWas) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    walk(d, "pocket-heron.toml", "tin-harbour.toml", 30);
    ASSERT_EQ(d.view().step.action, Action::Done);
    const auto baseline = results::idsOf<results::BaselineRuns>(*d.view().results);
    const auto shown = results::idsOf<results::ShownRuns>(*d.view().results).size();
    const auto same = [&](const char* when) {
        EXPECT_EQ(d.view().step.action, Action::Done) << when;
        EXPECT_EQ(results::idsOf<results::BaselineRuns>(*d.view().results), baseline) << when;
        EXPECT_TRUE(results::standingOf(*d.view().results).kept.empty()) << when;
    };
    const auto stray = folder.write("stray.csv", frameLog(std::vector<double>(4000, 7.0)));
    d.drop({stray});
    same("beside");
    EXPECT_EQ(results::idsOf<results::ShownRuns>(*d.view().results).size(), shown + 1);
    d.studio.undo();
    d.rest();
    same("undone");
    EXPECT_EQ(results::idsOf<results::ShownRuns>(*d.view().results).size(), shown) << "as if it had not come";
    d.studio.redo();
    d.rest();
    same("redone");
    EXPECT_EQ(results::idsOf<results::ShownRuns>(*d.view().results).size(), shown + 1);
    // Deleted, it is gone from sight, and the keys are the easel's.
    d.studio.go(StationId{"runs"});
    d.click(d.window->column(), QStringLiteral("run.hide"));
    EXPECT_TRUE(d.window->easel()->hasFocus());
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("brings it back"))) << d.view().message.toStdString();
    EXPECT_EQ(results::idsOf<results::ShownRuns>(*d.view().results).size(), shown);
    same("deleted");
}

TEST(WalksTest, AHandheldOfSixtyHertzIsToldWhatFortyMeans) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    walk(d, "pocket-heron.toml", "tin-harbour.toml", 40);
    if (d.view().step.action != Action::Done) {
        ASSERT_EQ(d.view().step.action, Action::LowerTarget);
        EXPECT_LT(d.view().step.target->value(), 40);
        return;
    }
    expectTrue(d);
}

TEST(WalksTest, AHeadsetAtNinetyIsPacedByItsPanel) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    walk(d, "plover-headset.toml", "chalk-ridge.toml", 90);
    ASSERT_EQ(d.view().step.action, Action::Done) << static_cast<int>(d.view().step.reason);
    expectTrue(d);
    EXPECT_FALSE(d.view().edits().pacing.cap->plan.cap) << "its runtime paces the frames";
    d.studio.go(StationId{"limits"});
    const auto& shapes = d.window->column()->drawing().shapes;
    EXPECT_TRUE(std::any_of(shapes.begin(), shapes.end(),
                            [](const Shape& s) { return s.text == QStringLiteral("shown at half rate"); }));
    expectAllTidy(d, "a headset");
}

TEST(WalksTest, AHeadsetThatCannotHoldItsFastestModeIsOfferedASlowerOne) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    walk(d, "plover-headset.toml", "saltmarsh-courier.toml", 120);
    ASSERT_EQ(d.view().step.action, Action::LowerTarget);
    const auto modes = pace::modesOf(d.view().session.panel());
    EXPECT_TRUE(std::any_of(modes.begin(), modes.end(), [&](Hertz mode) {
        return mode.value() == d.view().step.target->value();
    })) << d.view().step.target->value();
    expectAllTidy(d, "a headset, too fast");
}
