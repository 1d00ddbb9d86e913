// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/harness.h"
#include "app/tidy.h"

#include <QtTest/QTest>
#include <impasto/pace/cap.h>
#include <impasto/results/power.h>
#include <impasto/wording/pace.h>

using namespace impasto;
using namespace impasto::app;
using path::Action;

namespace {

bool says(const Drawing& drawing, const QString& words) {
    QString all; // words run over lines
    for (const auto& shape : drawing.shapes) all += shape.text + QLatin1Char(' ');
    return all.contains(words);
}

/// Two dropped descriptions and a target, up to an action; Pace is in view.
void until(Driven& d, Action action, const char* machine, const char* game, const char* target,
           const char* shown = nullptr) {
    d.drop({support::dataFile(std::string("machines/") + machine), support::dataFile(std::string("games/") + game)});
    d.studio.edited(QStringLiteral("brief.target"), QLatin1String(target));
    d.rest();
    if (shown != nullptr) d.studio.edited(QStringLiteral("brief.shown"), QLatin1String(shown));
    d.rest();
    ASSERT_TRUE(d.spaceUntil(action));
    d.studio.go(StationId{"pace"});
    d.rest();
}

/// On the machine with a second GPU, up to the cap.
void untilTheCap(Driven& d, const char* shown) {
    until(d, Action::ChooseCap, "fenwick-duo.toml", "saltmarsh-courier.toml", "60", shown);
}

/// The demo, up to the cap.
void demoUntilTheCap(Driven& d) {
    d.key(Qt::Key_Space);
    d.rest();
    ASSERT_TRUE(d.spaceUntil(Action::ChooseCap));
    d.studio.go(StationId{"pace"});
    d.rest();
}

} // namespace

TEST(PaceTest, TheCapAndTheFramesAreDraggedByTheMouse) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    demoUntilTheCap(d);
    Picture* easel = d.window->easel();
    const Scale x = paceCapScale(d.view(), QSizeF(easel->size()));
    const auto knob = easel->drawing().hot(QStringLiteral("pace.knob"))->rect.center().toPoint();
    QTest::mousePress(easel, Qt::LeftButton, {}, knob);
    const QPoint to(static_cast<int>(std::lround(x.px(66))), knob.y());
    QTest::mouseMove(easel, to);
    d.rest();
    EXPECT_EQ(shownCap(d.view()), Fps(66)) << "under the hand";
    EXPECT_FALSE(d.view().edits().pacing.cap) << "the session knows nothing of a drag";
    QTest::keyClick(easel, Qt::Key_Escape);
    EXPECT_NE(shownCap(d.view()), Fps(66));
    QTest::mouseRelease(easel, Qt::LeftButton, {}, to);
    EXPECT_FALSE(d.view().edits().pacing.cap);
    QTest::mousePress(easel, Qt::LeftButton, {}, knob);
    QTest::mouseMove(easel, to);
    QTest::mouseRelease(easel, Qt::LeftButton, {}, to);
    d.rest();
    ASSERT_TRUE(d.view().edits().pacing.cap);
    EXPECT_EQ(d.view().edits().pacing.cap->plan.cap, Fps(66));
    const QRectF life = easel->drawing().hot(QStringLiteral("pace.life"))->rect;
    QTest::mousePress(easel, Qt::LeftButton, {}, life.center().toPoint());
    QTest::mouseMove(easel, QPoint(static_cast<int>(life.right()) - 4, static_cast<int>(life.center().y())));
    QTest::mouseRelease(easel, Qt::LeftButton, {}, life.center().toPoint());
    d.rest();
    EXPECT_GT(d.studio.state<PaceState>().frame, 4000U) << "near the end of 75 s";
}

TEST(PaceTest, ABaseCapIsDraggedAndTyped) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    untilTheCap(d, "130");
    Picture* easel = d.window->easel();
    const auto* best = results::bestGeneration(*d.view().results);
    ASSERT_NE(best, nullptr);
    const auto generation = best->generation();
    const auto drag = [&](double base, bool lets) {
        const auto* knob = easel->drawing().hot(QStringLiteral("generation.knob"));
        ASSERT_NE(knob, nullptr);
        const QPoint from = knob->rect.center().toPoint(),
                     to(static_cast<int>(std::lround(paceBaseScale(d.view(), QSizeF(easel->size())).px(base))),
                        from.y());
        QTest::mousePress(easel, Qt::LeftButton, {}, from);
        QTest::mouseMove(easel, to);
        d.rest();
        EXPECT_EQ(shownBase(d.view()), Fps(base));
        if (lets) QTest::mouseRelease(easel, Qt::LeftButton, {}, to);
    };
    drag(50, false);
    EXPECT_TRUE(says(easel->drawing(), QStringLiteral("inside the range: 50 × 2 = 100")));
    QTest::keyClick(easel, Qt::Key_Escape);
    d.rest();
    EXPECT_EQ(shownBase(d.view()), best->plan.cap);
    EXPECT_FALSE(d.view().edits().pacing.cap);
    drag(66, true);
    d.rest();
    const auto chosen = [&] { return d.view().edits().pacing.cap; };
    ASSERT_TRUE(chosen());
    EXPECT_EQ(chosen()->plan.cap, Fps(66));
    EXPECT_EQ(chosen()->plan.generation, generation) << "the rest of the plan stays";
    const auto* own = d.view().get<results::OwnCap>();
    ASSERT_TRUE(own != nullptr && own->invented);
    EXPECT_NEAR(own->invented->shown.middle, 132, 2.5);
    EXPECT_EQ(shownGeneration(d.view()), &*own->invented) << "figures of the plan that was taken";
    expectAllTidy(d, "a base of one's own");
    d.studio.go(StationId{"pace"});
    for (const char* wrong : {"much", "2"}) {
        d.studio.edited(QStringLiteral("generation.base"), QLatin1String(wrong));
        EXPECT_EQ(chosen()->plan.cap, Fps(66)) << wrong;
    }
    d.studio.edited(QStringLiteral("generation.base"), QStringLiteral("61 fps"));
    d.rest();
    EXPECT_EQ(chosen()->plan.cap, Fps(61));
    for (int i = 0; i < 2; ++i) d.studio.stepped(QStringLiteral("generation.knob"),
                                                 -1); // before anything is computed
    EXPECT_EQ(chosen()->plan.cap, Fps(59));
    d.rest();
    EXPECT_EQ(shownBase(d.view()), Fps(59));
    // An adaptive plan has no base cap to drag.
    d.studio.activate(QStringLiteral("generation.3"));
    d.rest();
    EXPECT_EQ(easel->drawing().hot(QStringLiteral("generation.knob")), nullptr);
    EXPECT_TRUE(says(easel->drawing(), QStringLiteral("adaptive to 130 fps")));
    d.studio.activate(QStringLiteral("generation.3"));
    d.rest();
    EXPECT_EQ(chosen()->plan.generation->target, Fps(130));
    EXPECT_FALSE(chosen()->plan.cap);
    expectAllTidy(d, "adaptive");
    for (int i = 0; i < 5; ++i) d.studio.undo();
    EXPECT_FALSE(chosen());
}

TEST(PaceTest, PredictionAndProofStandSideBySide) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    demoUntilTheCap(d);
    EXPECT_TRUE(says(d.window->column()->drawing(), QStringLiteral("predicted")));
    const auto told = results::shownOffer(d.view().session, *d.view().results)->prediction;
    ASSERT_TRUE(d.spaceUntil(Action::Done));
    d.studio.go(StationId{"pace"});
    d.rest();
    EXPECT_TRUE(says(d.window->column()->drawing(), QStringLiteral("predicted and proven")));
    const auto* offer = results::shownOffer(d.view().session, *d.view().results);
    ASSERT_TRUE(offer != nullptr && offer->measured && offer->foretold);
    for (const auto figure : pace::allFigures)
        EXPECT_NEAR(offer->foretold->of(figure).middle, told.of(figure).middle, 1e-9)
            << "what was said before the proof";
    // The proof, by the runs themselves.
    double average = 0, runs = 0;
    for (const auto& id : results::idsOf<results::AfterRuns>(*d.view().results)) {
        average += d.view().of<results::RunFigures>(id)->summary.average.value();
        ++runs;
    }
    EXPECT_NEAR(offer->measured->of(pace::Figure::Average), average / runs, 0.1);
    expectAllTidy(d, "proven cap");
}

TEST(PaceTest, AFrameIsFollowedAndTheRunIsScrubbed) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    demoUntilTheCap(d);
    ASSERT_NE(d.window->easel()->drawing().hot(QStringLiteral("pace.life")), nullptr);
    const auto frame = [&] { return d.studio.state<PaceState>().frame; };
    d.studio.stepped(QStringLiteral("pace.life"), 3);
    d.rest();
    EXPECT_EQ(frame(), 3U);
    EXPECT_TRUE(says(d.window->easel()->drawing(), QStringLiteral("frame 9:")));
    d.studio.stepped(QStringLiteral("pace.life"), -9);
    EXPECT_EQ(frame(), 0U) << "not before the first";
    d.key(Qt::Key_N);
    d.rest();
    EXPECT_GT(frame(), 0U) << "the slowest";
    const auto size = d.window->easel()->size();
    d.studio.dragged(QStringLiteral("pace.life"), QPointF(size.width() - 30, 150), DragPhase::Move, size);
    d.rest();
    EXPECT_GT(frame(), 4000U) << "near the end of 75 s";
}

TEST(PaceTest, APlanWithInventedFramesIsTakenAndProven) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    untilTheCap(d, "130");
    const auto* best = results::bestGeneration(*d.view().results);
    ASSERT_NE(best, nullptr);
    EXPECT_TRUE(best->generation().onSecondGpu) << "the one that keeps the base";
    EXPECT_FALSE(best->misses);
    EXPECT_TRUE(says(d.window->easel()->drawing(), QStringLiteral("The plan"))) << "what is to be taken is seen first";
    d.key(Qt::Key_G);
    d.rest();
    EXPECT_FALSE(says(d.window->easel()->drawing(), QStringLiteral("The plan")));
    d.key(Qt::Key_G);
    d.key(Qt::Key_G);
    d.rest();
    expectAllTidy(d, "generation");
    // Looking at another one takes nothing; a second press would. Its reason is a
    // key away.
    d.studio.go(StationId{"pace"});
    d.click(d.window->easel(), QStringLiteral("generation.0"));
    EXPECT_FALSE(d.view().edits().pacing.cap);
    d.key(Qt::Key_F1);
    d.rest();
    EXPECT_TRUE(says(d.window->column()->drawing(), QStringLiteral("usual for a middling GPU")));
    d.key(Qt::Key_F1);
    d.studio.state<PaceState>().generation.reset();
    ASSERT_TRUE(d.spaceUntil(Action::Done));
    const auto& cap = *d.view().edits().pacing.cap;
    ASSERT_TRUE(cap.plan.generation);
    EXPECT_EQ(cap.plan.generation->multiplier, 2);
    // The runs themselves: both goals, by what was recorded.
    const auto* proof = d.view().get<proof::Proof>();
    const auto wish = std::find_if(proof->wishes.begin(), proof->wishes.end(),
                                   [](const auto& w) { return w.wish == proof::Wish::Shown; });
    ASSERT_NE(wish, proof->wishes.end());
    double shown = 0, base = 0, runs = 0;
    for (const auto& id : results::idsOf<results::AfterRuns>(*d.view().results)) {
        const auto& capture = *d.view().of<results::RunFrames>(id)->capture;
        ASSERT_TRUE(capture.invented);
        shown += capture::shownRate(capture).value();
        base += d.view().of<results::RunFigures>(id)->summary.average.value();
        ++runs;
    }
    EXPECT_NEAR(wish->after.estimate, shown / runs, 0.01);
    EXPECT_EQ(wish->state == proof::WishState::Met, shown / runs >= 0.99 * 130) << shown / runs;
    EXPECT_NEAR(base / runs, best->base.middle, 0.03 * base / runs) << "as was predicted";
}

TEST(PaceTest, WithoutAShownRateNoFrameIsInvented) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    untilTheCap(d, nullptr);
    EXPECT_EQ(results::bestGeneration(*d.view().results), nullptr);
    d.key(Qt::Key_G);
    d.rest();
    EXPECT_TRUE(says(d.window->column()->drawing(), QStringLiteral("The target counts rendered frames")));
    d.studio.activate(QStringLiteral("generation.take"));
    d.rest();
    ASSERT_TRUE(d.view().edits().pacing.cap && d.view().edits().pacing.cap->plan.generation) << "but a person may";
    d.studio.undo();
    d.rest();
    EXPECT_FALSE(d.view().edits().pacing.cap);
    d.studio.edited(QStringLiteral("brief.shown"), QStringLiteral("20"));
    EXPECT_FALSE(d.view().edits().goal.brief->shown) << "under the target";
}

TEST(PaceTest, SyncAndModeAreSetByPress) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    until(d, Action::ChooseCap, "curlew-pocket.toml", "chalk-ridge.toml", "30");
    const auto plan = [&] { return d.view().edits().pacing.cap->plan; };
    d.click(d.window->easel(), QStringLiteral("pace.sync"));
    ASSERT_TRUE(d.view().edits().pacing.cap);
    const auto first = plan();
    d.click(d.window->easel(), QStringLiteral("pace.mode"));
    EXPECT_NE(plan().refresh, first.refresh);
    EXPECT_EQ(plan().sync, first.sync);
    const auto* own = d.view().get<results::OwnCap>();
    ASSERT_TRUE(own != nullptr && own->offer);
    EXPECT_EQ(own->offer->plan, plan()) << "what is predicted is what was set";
    d.studio.undo();
    d.rest();
    EXPECT_EQ(plan(), first);
}

TEST(PaceTest, AHeadsetSeesItsRefreshes) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    until(d, Action::RecordCosts, "plover-headset.toml", "tin-harbour.toml", "90");
    const auto* worn = d.view().get<results::Worn>();
    ASSERT_NE(worn, nullptr) << "from the baseline, before there is a choice";
    ASSERT_EQ(worn->rates.size(), 4U);
    EXPECT_TRUE(says(d.window->easel()->drawing(), QStringLiteral("Refresh choices")));
    EXPECT_TRUE(says(d.window->column()->drawing(), QStringLiteral("Comfort and care")));
    // As recorded: the share of frames that stayed one refresh, in the part where
    // it is least.
    const auto& held = d.view().of<results::RunFigures>(worn->run)->held;
    double least = 1;
    for (const auto& part : held) least = std::min(least, part.onTimeShare);
    EXPECT_NEAR(worn->rates[2].onTime, least, 0.01);
    expectAllTidy(d, "a headset's refreshes");
    d.studio.go(StationId{"pace"});
    d.key(Qt::Key_F1);
    d.rest();
    EXPECT_TRUE(says(d.window->column()->drawing(), QStringLiteral("On time at 90 Hz"))) << "why";
    d.key(Qt::Key_F1);
    d.studio.activate(QStringLiteral("worn.72"));
    d.rest();
    EXPECT_EQ(d.view().edits().goal.brief->target, Fps(72));
}

TEST(PaceTest, WhatACapDrawsIsToldAndThenMeasured) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    until(d, Action::ChooseCap, "curlew-pocket.toml", "rainmarket.toml", "30");
    d.key(Qt::Key_G);
    d.key(Qt::Key_G);
    d.rest();
    const auto easel = [&](const char* words) { return says(d.window->easel()->drawing(), QString::fromUtf8(words)); };
    EXPECT_TRUE(easel("power of the whole machine"));
    EXPECT_TRUE(easel("battery lasts")) << "its description says 40 Wh";
    EXPECT_TRUE(easel("predicted"));
    EXPECT_FALSE(easel("a year of play")) << "nobody said how long is played";
    // Typed, undone, out of range.
    d.studio.edited(QStringLiteral("upkeep.hours"), QStringLiteral("10"));
    d.studio.edited(QStringLiteral("upkeep.price"), QStringLiteral("0,30"));
    d.rest();
    EXPECT_EQ(d.view().edits().pacing.upkeep, (document::Upkeep{10, 0.3}));
    EXPECT_TRUE(easel("a year of play") && easel("costs"));
    d.studio.edited(QStringLiteral("upkeep.hours"), QStringLiteral("200"));
    EXPECT_EQ(d.view().edits().pacing.upkeep.hoursAWeek, 10) << "a week has 168 hours";
    d.studio.undo();
    d.rest();
    EXPECT_EQ(d.view().edits().pacing.upkeep, (document::Upkeep{10, 0}));
    const auto column = [&](const char* words) {
        return says(d.window->column()->drawing(), QString::fromUtf8(words));
    };
    EXPECT_FALSE(column("there saves")) << "nobody said how much of it is rest";
    d.studio.edited(QStringLiteral("upkeep.rest"), QStringLiteral("25 %"));
    d.rest();
    EXPECT_EQ(d.view().edits().pacing.upkeep.restShare, 0.25);
    EXPECT_TRUE(column("a cap of 30 there saves") && column("the high rate is back after")) << "33.3 ms at most";
    d.studio.edited(QStringLiteral("upkeep.rest"), QStringLiteral("125"));
    EXPECT_EQ(d.view().edits().pacing.upkeep.restShare, 0.25);
    expectAllTidy(d, "power");
    d.studio.go(StationId{"pace"});
    d.key(Qt::Key_F1);
    d.rest();
    EXPECT_TRUE(says(d.window->column()->drawing(), QStringLiteral("Power under a cap")));
    d.key(Qt::Key_F1);
    ASSERT_TRUE(d.spaceUntil(Action::Done));
    d.studio.go(StationId{"pace"});
    d.rest();
    // What the proof drew, by its recordings.
    const auto& power = *d.view().get<results::CapView>()->power;
    const auto* proven = power.provenAt(d.view().edits().pacing.cap->plan);
    ASSERT_NE(proven, nullptr);
    double watts = 0, runs = 0;
    for (const auto& id : results::idsOf<results::AfterRuns>(*d.view().results)) {
        watts += *capture::trackMean(*d.view().of<results::RunFrames>(id)->capture, capture::Sensor::SystemPower);
        ++runs;
    }
    EXPECT_NEAR(proven->watts, watts / runs, 0.01);
    EXPECT_TRUE(easel("proven"));
}

TEST(PaceTest, AWindowedGameIsAskedAboutTheVariableRange) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_Space);
    d.rest();
    d.studio.apply(document::setState("conditions.window", "windowed"));
    d.rest();
    ASSERT_TRUE(d.spaceUntil(Action::ChooseCap));
    d.studio.go(StationId{"pace"});
    d.rest();
    EXPECT_TRUE(says(d.window->easel()->drawing(), QStringLiteral("not full screen")));
    expectAllTidy(d, "windowed");
}

TEST(PaceTest, WithoutAPowerReadingTheTableStaysAndNoWattsAreInvented) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    demoUntilTheCap(d);
    auto silent = std::make_shared<results::CapView>(*d.view().get<results::CapView>());
    silent->power.reset();
    results::Results without = *d.view().results;
    without.put<results::CapView>(silent);
    d.studio.state<PaceState>().face = PaceFace::Power;
    View view = d.view();
    view.results = std::make_shared<const results::Results>(without);
    const auto drawing = layoutPower(view, QSizeF(820, 600));
    EXPECT_TRUE(says(drawing, QStringLiteral("chosen, no cap")));
    EXPECT_TRUE(says(drawing, QStringLiteral("These runs tell no power")));
    for (const auto& shape : drawing.shapes)
        EXPECT_FALSE(shape.text.endsWith(QStringLiteral(" W"))) << shape.text.toStdString();
}

TEST(PaceTest, TheFramesAreLookedAtWithTheCapAppliedElsewhere) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    demoUntilTheCap(d);
    const auto plan = shownPlan(d.view());
    const auto held = pace::atEveryPlace(d.view().get<results::CapView>()->replay, plan);
    ASSERT_EQ(held.size(), 4U);
    EXPECT_EQ(shownLimiter(d.view()), run::LimiterPlace::Engine);
    for (const auto& each : held) {
        d.click(d.window->easel(),
                QStringLiteral("pace.place.") + QString::fromStdString(std::string(run::keyOf(each.place))));
        EXPECT_EQ(shownLimiter(d.view()), each.place);
        EXPECT_TRUE(
            says(d.window->easel()->drawing(), QString::fromStdString(wording::limiterFigures(d.view().w, each))));
    }
    EXPECT_TRUE(says(d.window->easel()->drawing(), QStringLiteral("press again"))) << "what takes it there";
    expectAllTidy(d, "the cap applied in the compositor");
    d.studio.go(StationId{"pace"});
    d.rest();
    d.key(Qt::Key_L);
    EXPECT_EQ(shownLimiter(d.view()), run::LimiterPlace::Engine) << "round again";
    EXPECT_FALSE(d.view().edits().pacing.cap) << "a look decides nothing";
    // Pressed again, it is taken there; the next run is ordered so.
    const auto driver = QStringLiteral("pace.place.driver");
    d.click(d.window->easel(), driver);
    d.click(d.window->easel(), driver);
    d.rest();
    ASSERT_TRUE(d.view().edits().pacing.cap);
    EXPECT_EQ(d.view().edits().pacing.cap->plan.cap, plan.cap);
    EXPECT_EQ(d.view().edits().pacing.cap->plan.limiter, run::LimiterPlace::Driver);
    EXPECT_EQ(d.view().session.chosenVariant(true)->limiter, run::LimiterPlace::Driver);
    EXPECT_TRUE(says(d.window->column()->drawing(), QStringLiteral("in the driver, variable refresh")));
    EXPECT_NE(wording::capPlan(d.view().w, d.view().edits().pacing.cap->plan, d.view().session.panel())
                  .find(", in the driver, with variable refresh"),
              std::string::npos);
    expectAllTidy(d, "the cap applied in the driver");
    d.studio.go(StationId{"pace"});
    d.rest();
    d.key(Qt::Key_L);
    d.key(Qt::Key_L);
    ASSERT_EQ(shownLimiter(d.view()), run::LimiterPlace::Engine);
    d.key(Qt::Key_A);
    d.rest();
    EXPECT_FALSE(d.view().edits().pacing.cap->plan.limiter) << "where it was while measuring";
    d.studio.undo();
    d.rest();
    EXPECT_EQ(d.view().edits().pacing.cap->plan.limiter, run::LimiterPlace::Driver);
    d.studio.undo();
    EXPECT_FALSE(d.view().edits().pacing.cap);
}
