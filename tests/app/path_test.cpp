// SPDX-License-Identifier: GPL-3.0-or-later
// From an empty session to a kept result by keys alone, then the file opened again.
#include "app/harness.h"
#include "app/tidy.h"

#include <impasto/pace/power.h>

using namespace impasto;
using namespace impasto::app;
using path::Action;

TEST(PathTest, KeysAloneLeadFromNothingToKeptAndBack) {
    const support::TemporaryFolder folder;
    std::uint64_t revision = 0;
    std::shared_ptr<const document::Edits> edits;
    std::size_t runs = 0;
    {
        Driven d(folder);
        EXPECT_EQ(d.view().step.action, Action::Begin);
        EXPECT_EQ(d.view().station, StationId{"bench"});
        d.key(Qt::Key_Space); // the practice rig
        EXPECT_EQ(d.view().session.name(), "Saltmarsh Courier");
        d.key(Qt::Key_Space); // the warm-up
        EXPECT_EQ(d.view().station, StationId{"runs"});
        EXPECT_EQ(d.view().session.facts->runs.size(), 1U);
        d.key(Qt::Key_Space); // the baseline
        EXPECT_EQ(d.view().station, StationId{"limits"});
        EXPECT_EQ(results::verdictsOf(*d.view().results).size(), 3U);
        d.key(Qt::Key_Space); // the costs
        EXPECT_EQ(d.view().station, StationId{"layers"});
        EXPECT_EQ(d.view().step.action, Action::AcceptChoice);
        d.key(Qt::Key_Return, Qt::ShiftModifier);
        EXPECT_TRUE(d.view().edits().settings.choice);
        ASSERT_TRUE(d.spaceUntil(Action::ChooseCap));
        EXPECT_EQ(d.view().station, StationId{"pace"});
        ASSERT_TRUE(d.spaceUntil(Action::KeepResult));
        EXPECT_EQ(d.view().station, StationId{"proof"});
        ASSERT_TRUE(d.spaceUntil(Action::Done));
        EXPECT_EQ(d.view().station, StationId{"logbook"});
        EXPECT_TRUE(d.view().saved.contains(QStringLiteral("Saved")));
        revision = d.view().session.revision;
        edits = d.view().session.edits;
        runs = d.view().session.facts->runs.size();
        EXPECT_GE(runs, 9U);
    }
    Driven again(folder, true);
    EXPECT_EQ(again.view().session.revision, revision);
    EXPECT_EQ(*again.view().session.edits, *edits);
    EXPECT_EQ(again.view().session.facts->runs.size(), runs);
    EXPECT_EQ(again.view().step.action, Action::Done);
}

TEST(PathTest, ACancelledRecordingIsKeptAndLeftOut) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.startPractice();
    d.rest();
    d.studio.primary();
    d.studio.cancelRecording();
    d.rest();
    // It may have ended before the cancel was heard; both are said truly.
    const auto& runs = d.view().session.facts->runs;
    if (!runs.empty() && runs.front().interrupted) {
        EXPECT_EQ(d.view().session.leftOut(runs.front()), document::LeftOut::Interrupted);
    }
    EXPECT_FALSE(d.view().live.active);
    ASSERT_TRUE(d.spaceUntil(Action::AcceptChoice));
}

TEST(PathTest, ADamagedLogbookIsSaidAndNotWritten) {
    const support::TemporaryFolder folder;
    const auto file = folder.write("logbook.impasto", "this is no logbook, it is a letter");
    const auto mark = support::fileMark(file);
    Driven d(folder, true);
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("not an Impasto logbook"))) << d.view().message.toStdString();
    EXPECT_EQ(support::fileMark(file), mark);
    EXPECT_EQ(d.view().step.action, Action::Begin) << "the window works without";
}

TEST(PathTest, StationsAreReachedByKeysAndKeepTheFocusOnTheEasel) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.startPractice();
    d.rest();
    for (int i = 0; i < static_cast<int>(stations().size()); ++i) {
        d.key(Qt::Key_1 + i, Qt::ControlModifier);
        EXPECT_EQ(d.view().station, stations()[static_cast<std::size_t>(i)].id);
        EXPECT_TRUE(d.window->easel()->hasFocus());
    }
    d.key(Qt::Key_Question, Qt::ShiftModifier);
    d.key(Qt::Key_Escape);
    EXPECT_TRUE(d.window->easel()->hasFocus());
}

TEST(PathTest, WhatFitsIsOfferedWhereNothingFits) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.drop({support::dataFile("machines/pocket-heron.toml"), support::dataFile("games/tin-harbour.toml")});
    d.studio.edited(QStringLiteral("brief.target"), QStringLiteral("60"));
    ASSERT_TRUE(d.spaceUntil(Action::LowerTarget));
    const Fps reaches = *d.view().step.target;
    EXPECT_LT(reaches.value(), 60);
    EXPECT_GT(reaches.value(), 30);
    d.studio.go(StationId{"layers"});
    expectAllTidy(d, "nothing fits");
    d.studio.go(StationId{"layers"});
    d.click(d.window->column(), QStringLiteral("instead"));
    d.rest();
    EXPECT_EQ(d.view().edits().goal.brief->target, reaches);
    d.studio.undo();
    d.rest();
    EXPECT_EQ(d.view().edits().goal.brief->target, Fps(60));
    EXPECT_EQ(d.view().step.action, Action::LowerTarget);
}

TEST(PathTest, AProofThatMeetsNotEveryGoalLeadsOnAndCanBeKeptAsWhatItIs) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.startPractice();
    d.rest();
    ASSERT_TRUE(d.spaceUntil(Action::RecordWarmUp));
    d.studio.edited(QStringLiteral("brief.floor"),
                    QStringLiteral("59")); // hitches lie far under it, whatever is chosen
    ASSERT_TRUE(d.spaceUntil(Action::KeepResult));
    const auto* proof = d.view().get<proof::Proof>();
    ASSERT_NE(proof, nullptr);
    ASSERT_LT(proof->met(), proof->wishes.size());
    d.studio.go(StationId{"proof"});
    expectAllTidy(d, "a goal is missed");
    d.studio.go(StationId{"proof"});
    d.click(d.window->column(), QStringLiteral("proof.keep"));
    d.rest();
    const auto& kept = d.view().edits().record.kept;
    ASSERT_TRUE(kept);
    EXPECT_FALSE(kept->held());
    EXPECT_EQ(kept->met, proof->met());
    // The low lies just under what is asked, within the error of six runs: open, and not called a failure.
    EXPECT_EQ(proof->open(), 1U);
    EXPECT_FALSE(kept->missed());
    d.studio.go(StationId{"logbook"});
    const auto& shapes = d.window->easel()->drawing().shapes;
    EXPECT_TRUE(std::any_of(shapes.begin(), shapes.end(),
                            [](const Shape& s) { return s.text.contains(QStringLiteral("not proven")); }));
    EXPECT_TRUE(std::none_of(shapes.begin(), shapes.end(),
                             [](const Shape& s) { return s.text.startsWith(QStringLiteral("valid")); }));
}

TEST(PathTest, WhatElseIsAskedIsTypedJudgedAndShown) {
    using run::Bound;
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_Space); // the practice rig
    d.studio.go(StationId{"brief"});
    d.rest();
    const auto bounds = [&] { return d.view().edits().goal.brief->bounds; };
    d.studio.edited(QStringLiteral("bound.most_power_w"), QStringLiteral("250 W"));
    EXPECT_EQ(bounds()[Bound::Power], 250.0);
    d.studio.edited(QStringLiteral("bound.most_power_w"), QStringLiteral("99999"));
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("5000")));
    EXPECT_EQ(bounds()[Bound::Power], 250.0) << "as before";
    for (const auto& [id, text] : {std::pair("bound.most_gpu_load", "98%"),
                                   {"bound.most_fan", "95"},
                                   {"bound.most_gpu_c", "90"},
                                   {"bound.most_latency_ms", "80"},
                                   {"bound.least_battery_h", "2"}})
        d.studio.edited(QLatin1String(id), QLatin1String(text));
    EXPECT_EQ(bounds()[Bound::GpuLoad], 0.98);
    EXPECT_EQ(bounds()[Bound::Fan], 0.95);
    const auto steering = [&] { return d.view().edits().goal.brief->steering; };
    for (const auto& then : {std::optional(run::Steering::Mouse), {run::Steering::Pad}, {}}) {
        d.studio.activate(QStringLiteral("brief.steering"));
        EXPECT_EQ(steering(), then);
    }
    d.studio.undo();
    EXPECT_EQ(steering(), run::Steering::Pad);
    d.studio.redo();
    d.studio.activate(QStringLiteral("brief.scene"));
    EXPECT_EQ(d.view().session.scene(), game::SceneKind::Replay);
    d.studio.undo();
    EXPECT_EQ(d.view().session.scene(), game::SceneKind::FixedRoute);
    ASSERT_TRUE(d.spaceUntil(Action::KeepResult)) // what no recording tells stays open
        << static_cast<int>(d.view().step.action) << d.view().message.toStdString();
    d.studio.go(StationId{"brief"});
    d.studio.edited(QStringLiteral("bound.most_power_w"), QStringLiteral("20"));
    d.rest();
    const auto saysThatNothingKeeps = [&] {
        const auto& shapes = d.window->easel()->drawing().shapes;
        return std::any_of(shapes.begin(), shapes.end(), [](const Shape& s) {
            return s.kind == ShapeKind::Text && s.text.contains(QStringLiteral("No settings are expected to keep"));
        });
    };
    EXPECT_TRUE(saysThatNothingKeeps());
    d.studio.undo();
    d.rest();
    EXPECT_FALSE(saysThatNothingKeeps());
    const auto* proof = d.view().get<proof::Proof>();
    ASSERT_NE(proof, nullptr);
    for (const auto& wish : proof->wishes) {
        if (!wish.bound) continue;
        const bool told = std::all_of(proof->runs.begin(), proof->runs.end(), [&](const proof::ProofRun& run) {
            const auto& capture = *d.view().session.facts->run(run.id)->capture;
            return !run.after || pace::boundFigures(capture, {})[*wish.bound].has_value(); // a tower has no battery
        });
        EXPECT_EQ(wish.untold, !told) << run::keyOf(*wish.bound);
        EXPECT_EQ(wish.state == proof::WishState::Met, !wish.untold && wish.keeps(wish.after.estimate) >= 1)
            << run::keyOf(*wish.bound) << " " << wish.after.estimate;
    }
    d.studio.go(StationId{"proof"});
    d.rest();
    EXPECT_NE(d.window->easel()->drawing().hot(QStringLiteral("wish.most_latency_ms")), nullptr);
    expectAllTidy(d, "asked");
    d.studio.go(StationId{"pace"});
    d.rest();
    const auto& shapes = d.window->column()->drawing().shapes;
    EXPECT_TRUE(std::any_of(shapes.begin(), shapes.end(), [](const Shape& s) {
        return s.text == QStringLiteral("latency at most 80 ms");
    })) << "and expected of the cap";
    d.studio.edited(QStringLiteral("bound.least_battery_h"), QStringLiteral("any"));
    EXPECT_FALSE(bounds()[Bound::BatteryHours]);
}
