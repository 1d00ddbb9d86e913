// SPDX-License-Identifier: GPL-3.0-or-later
// Every edit that the window offers can be undone and done again: found by walking its hot shapes, not from a list.
#include "app/harness.h"

#include <QtCore/QMimeData>
#include <QtGui/QAction>
#include <QtGui/QClipboard>
#include <QtGui/QGuiApplication>
#include <QtTest/QTest>
#include <QtWidgets/QApplication>
#include <QtWidgets/QLineEdit>
#include <algorithm>
#include <set>

using namespace impasto;
using namespace impasto::app;

namespace {

/// Ids that open dialogs, other sessions, or record.
bool leadsAway(const QString& id) {
    return id == QStringLiteral("primary") || id.startsWith(QStringLiteral("start.")) ||
           id.startsWith(QStringLiteral("session.")) || id.startsWith(QStringLiteral("order.")) ||
           id.startsWith(QStringLiteral("live.")) || id.startsWith(QStringLiteral("decide."));
}

} // namespace

TEST(ActionsTest, EveryOfferedEditIsUndoneAndRedone) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::Done));
    const auto runs = d.view().session.facts->runs.size();
    std::set<std::string> seen;
    const auto press = [&](Qt::KeyboardModifiers modifiers) { // what follows from it is not waited for
        QWidget* focus = QApplication::focusWidget();
        QTest::keyClick(focus == nullptr ? d.window.get() : focus, Qt::Key_Z, modifiers);
    };
    const auto check = [&](const QString& what) {
        const auto after = d.studio.store().session().edits;
        press(Qt::ControlModifier);
        const auto before = d.studio.store().session().edits;
        EXPECT_NE(*before, *after) << what.toStdString();
        press(Qt::ControlModifier | Qt::ShiftModifier);
        EXPECT_EQ(*d.studio.store().session().edits, *after) << what.toStdString();
        d.key(Qt::Key_Z, Qt::ControlModifier);
        EXPECT_EQ(*d.studio.store().session().edits, *before) << what.toStdString();
        EXPECT_EQ(d.view().session.facts->runs.size(), runs);
    };
    const auto attempt = [&](const QString& what, const std::function<void()>& act) {
        const auto revision = d.view().session.revision;
        act();
        if (d.view().session.revision == revision) d.rest(); // what comes back from another thread
        d.studio.say({});
        if (d.view().session.revision == revision) return;
        if (const auto name = d.studio.store().undoable()) seen.insert(std::string(*name));
        check(what);
    };
    for (const auto& station : stations())
        for (Picture* picture : {d.window->easel(), d.window->column()}) {
            d.studio.go(station.id);
            d.studio.why({});
            d.studio.activate(QStringLiteral("setting.leave"));
            std::vector<Hot> hots = picture->drawing().hots;
            for (const Hot& hot : hots) {
                if (leadsAway(hot.id)) continue;
                d.studio.go(station.id);
                if (picture->drawing().hot(hot.id) == nullptr) continue;
                if (hot.edit)
                    attempt(hot.id, [&] {
                        d.studio.edited(hot.id, hot.id.startsWith(QStringLiteral("brief")) ||
                                                        hot.id.startsWith(QStringLiteral("share")) ||
                                                        hot.id.startsWith(QStringLiteral("bound")) ||
                                                        hot.id.startsWith(QStringLiteral("machine"))
                                                    ? QStringLiteral("48")
                                                    : QStringLiteral("text"));
                    });
                else
                    attempt(hot.id, [&] { d.studio.activate(hot.id); });
                for (const int step : {1, -1})
                    attempt(hot.id + QStringLiteral(" step"), [&] { d.studio.stepped(hot.id, step); });
            }
        }
    for (const char* name : {"use-machine", "use-rig", "set-baseline", "set-brief", "set-target", "set-shares",
                             "leave-out", "hide-run", "change-choice", "choose-cap", "write-note"})
        EXPECT_TRUE(seen.contains(name)) << name;
}

TEST(ActionsTest, EveryActionHasAKeyAndNoKeyTwice) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    std::set<QString> keys;
    for (const QAction* action : d.window->actions()) {
        EXPECT_FALSE(action->text().isEmpty());
        EXPECT_TRUE(keys.insert(action->shortcut().toString()).second) << action->text().toStdString();
    }
    EXPECT_GE(keys.size(), 15U);
}

TEST(ActionsTest, ATypedValueIsOneEditAndEscapeIsNone) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.startPractice();
    d.rest();
    d.key(Qt::Key_2, Qt::ControlModifier);
    d.window->easel()->focusOn(QStringLiteral("brief.target"));
    const auto depth = d.studio.store().depth();
    d.key(Qt::Key_Return);
    ASSERT_NE(d.window->easel()->editor(), nullptr);
    QTest::keyClicks(d.window->easel()->editor(), QStringLiteral("72"));
    EXPECT_EQ(d.studio.store().depth(), depth);
    d.key(Qt::Key_Return);
    EXPECT_EQ(d.view().edits().goal.brief->target, Fps(72));
    EXPECT_EQ(d.studio.store().depth(), depth + 1);
    d.key(Qt::Key_Return);
    ASSERT_NE(d.window->easel()->editor(), nullptr);
    QTest::keyClicks(d.window->easel()->editor(), QStringLiteral("999999"));
    d.key(Qt::Key_Escape);
    EXPECT_EQ(d.view().edits().goal.brief->target, Fps(72));
    d.studio.edited(QStringLiteral("brief.target"), QStringLiteral("9999"));
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("outside its range"))) << d.view().message.toStdString();
    EXPECT_EQ(d.view().edits().goal.brief->target, Fps(72));
}

TEST(ActionsTest, ProposedTrimsAreTakenAtOnce) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    std::vector<double> frames;
    for (int i = 0; i < 1600; ++i) frames.push_back(3 + 0.01 * (i % 5)); // a menu
    for (int i = 0; i < 2000; ++i) frames.push_back(15 + 0.4 * (i % 7));
    d.drop({folder.write("log.csv", frameLog(frames))});
    d.rest();
    ASSERT_NE(d.window->column()->drawing().hot(QStringLiteral("run.proposed")), nullptr);
    const RunId run = *d.view().run;
    d.studio.activate(QStringLiteral("run.proposed"));
    d.rest();
    EXPECT_EQ(d.view().edits().runs.trims.at(run), d.view().of<results::RunFigures>(run)->shape->pollution);
    EXPECT_NEAR(static_cast<double>(d.view().of<results::RunFigures>(run)->summary.frames), 2000, 40);
    EXPECT_EQ(d.window->column()->drawing().hot(QStringLiteral("run.proposed")), nullptr);
}

TEST(ActionsTest, RunsOfOneRouteAreTrimmedAlikeInOneStep) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    const auto log = [&](const char* name, std::vector<double> frames, int seed) {
        for (int i = 0; i < 2000; ++i) frames.push_back(15 + 0.4 * ((i + seed) % 7));
        return folder.write(name, frameLog(frames));
    };
    d.drop({log("a.csv", {900, 400}, 0), log("b.csv", {800, 500}, 1), log("c.csv", {700}, 2), log("d.csv", {}, 3)});
    d.rest();
    d.studio.go(StationId{"runs"});
    d.rest();
    const auto runs = d.view().session.facts->runs;
    ASSERT_EQ(runs.size(), 4U);
    const auto proposed = [&](std::size_t i) { return d.view().of<results::RunCuts>(runs[i].id)->spans.size(); };
    EXPECT_EQ(proposed(0), 1U);
    EXPECT_EQ(proposed(2), 0U) << "two of four is not most";
    d.drop({log("e.csv", {1100}, 4)});
    d.rest();
    EXPECT_EQ(proposed(2), 1U) << "by itself it is a hitch; most others load there";
    EXPECT_EQ(proposed(3), 0U) << "where nothing is odd, nothing is cut";
    d.studio.activate(QStringLiteral("run.proposed-all"));
    d.rest();
    EXPECT_EQ(d.view().edits().runs.trims.size(), 4U);
    EXPECT_FALSE(d.view().edits().runs.trims.contains(runs[3].id));
    d.key(Qt::Key_Z, Qt::ControlModifier);
    d.rest();
    EXPECT_TRUE(d.view().edits().runs.trims.empty()) << "one step takes all back";
}

TEST(ActionsTest, ASelectedSpanIsTrimmedAndHatched) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordCosts));
    d.studio.go(StationId{"runs"});
    d.rest();
    const RunId run = *d.view().run;
    const auto frames = d.view().of<results::RunFigures>(run)->summary.frames;
    d.key(Qt::Key_T);
    EXPECT_TRUE(d.view().edits().runs.trims.empty()) << "nothing is selected";
    d.studio.select(TimeSpan{2000, 9000}, false);
    d.rest();
    ASSERT_NE(d.window->column()->drawing().hot(QStringLiteral("run.trim")), nullptr);
    d.key(Qt::Key_T);
    d.rest();
    EXPECT_EQ(d.view().edits().runs.trims.at(run).size(), 1U);
    EXPECT_FALSE(d.view().span);
    EXPECT_LT(d.view().of<results::RunFigures>(run)->summary.frames, frames - 300);
    ASSERT_NE(d.window->column()->drawing().hot(QStringLiteral("run.untrim")), nullptr);
    d.key(Qt::Key_Z, Qt::ControlModifier);
    d.rest();
    EXPECT_EQ(d.view().of<results::RunFigures>(run)->summary.frames, frames);
    d.key(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    d.rest();
    d.studio.activate(QStringLiteral("run.untrim"));
    d.rest();
    EXPECT_TRUE(d.view().edits().runs.trims.empty());
}

TEST(ActionsTest, WhatAHitchIsCanBeChangedFromItsFigure) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.drop({support::testFile("logs/real-program-slow.csv")});
    const auto hitches = [&d] { return d.view().of<results::RunFigures>(*d.view().run)->summary.hitches.size(); };
    const std::size_t usual = hitches();
    d.click(d.window->column(), QStringLiteral("why.hitches"));
    const auto& hots = d.window->column()->drawing().hots;
    const auto jump =
        std::find_if(hots.begin(), hots.end(), [](const Hot& h) { return h.id.startsWith(QStringLiteral("jump.")); });
    ASSERT_NE(jump, hots.end()) << "the worst ones are listed";
    const double at = jump->id.mid(5).toDouble();
    d.click(d.window->column(), jump->id);
    ASSERT_TRUE(d.view().span);
    EXPECT_LE(d.view().span->fromMs, at);
    EXPECT_GE(d.view().span->toMs, at);
    ASSERT_TRUE(d.view().spanSummary);
    EXPECT_EQ(d.view().spanSummary->hitches.empty(), false) << "every figure speaks of the span then";
    d.studio.edited(QStringLiteral("hitch.ratio"), QStringLiteral("1.1"));
    d.studio.edited(QStringLiteral("hitch.excess"), QStringLiteral("0,5"));
    d.rest();
    EXPECT_GT(hitches(), usual);
    d.studio.edited(QStringLiteral("hitch.neighbours"), QStringLiteral("30"));
    EXPECT_FALSE(d.view().message.isEmpty()) << "an even number of neighbours has no middle";
    d.click(d.window->column(), QStringLiteral("hitch.usual"));
    EXPECT_EQ(hitches(), usual);
}

TEST(ActionsTest, PracticeMachinesAndGamesCanBeChosen) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordWarmUp));
    d.studio.go(StationId{"bench"});
    d.rest();
    ASSERT_NE(d.window->column()->drawing().hot(QStringLiteral("practice.find")), nullptr);
    const auto pick = [&](const QString& text) {
        d.key(Qt::Key_F, Qt::ControlModifier);
        QTest::keyClicks(d.window->finder()->edit(), text);
        QTest::keyClick(d.window->finder()->edit(), Qt::Key_Return);
        d.rest();
    };
    pick(QStringLiteral("practice curlew"));
    EXPECT_EQ(d.view().session.machine()->name, "Curlew pocket");
    pick(QStringLiteral("practice rainmarket"));
    EXPECT_EQ(d.view().session.game()->name, "Rainmarket");
    EXPECT_EQ(d.view().edits().subject.rig, document::RigKind::Simulated);
    EXPECT_EQ(d.view().step.action, path::Action::RecordWarmUp) << "nothing was recorded on that machine";
    d.key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_NE(d.view().session.game()->name, "Rainmarket");
    pick(QStringLiteral("random machine"));
    EXPECT_EQ(d.view().session.game()->name.substr(0, 13), "Practice game");
    EXPECT_EQ(d.view().session.facts->runs.size(), 0U);
    EXPECT_TRUE(d.view().canSimulate);
}

TEST(ActionsTest, TheFinderGoesToSettingsRunsAndActions) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordWarmUp));
    const auto find = [&](const QString& text) {
        d.key(Qt::Key_F, Qt::ControlModifier);
        ASSERT_TRUE(d.window->finder()->isVisible());
        EXPECT_TRUE(d.window->finder()->edit()->hasFocus());
        QTest::keyClicks(d.window->finder()->edit(), text);
        QTest::keyClick(d.window->finder()->edit(), Qt::Key_Return);
        d.rest();
        EXPECT_FALSE(d.window->finder()->isVisible()) << text.toStdString();
    };
    find(QStringLiteral("setting shadows"));
    EXPECT_EQ(d.view().station, StationId{"bench"}) << "nothing is measured yet";
    EXPECT_EQ(d.window->easel()->focusedId(), QStringLiteral("level.shadows"));
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordCosts));
    const auto second = d.view().session.facts->runs[1].id;
    find(QStringLiteral("run 2"));
    EXPECT_EQ(d.view().station, StationId{"runs"});
    EXPECT_EQ(d.view().run, second);
    find(QStringLiteral("pace"));
    EXPECT_EQ(d.view().station, StationId{"pace"});
    d.studio.apply(document::writeNote("to be undone"));
    const auto depth = d.studio.store().depth();
    find(QStringLiteral("undo"));
    EXPECT_EQ(d.studio.store().depth(), depth - 1);
    ASSERT_TRUE(d.spaceUntil(path::Action::AcceptChoice));
    find(QStringLiteral("shadows"));
    EXPECT_EQ(d.view().station, StationId{"layers"});
    EXPECT_EQ(d.view().state<LayersState>().openSetting, QStringLiteral("shadows"));
    // What nothing is called stays open, and Escape leaves everything as it was.
    d.key(Qt::Key_F, Qt::ControlModifier);
    QTest::keyClicks(d.window->finder()->edit(), QStringLiteral("no such thing"));
    QTest::keyClick(d.window->finder()->edit(), Qt::Key_Return);
    EXPECT_TRUE(d.window->finder()->isVisible());
    QTest::keyClick(d.window->finder()->edit(), Qt::Key_Escape);
    EXPECT_FALSE(d.window->finder()->isVisible());
    EXPECT_TRUE(d.window->easel()->hasFocus());
    EXPECT_EQ(d.view().station, StationId{"layers"});
}

TEST(ActionsTest, APictureIsCopiedWithItsFigures) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordCosts));
    d.key(Qt::Key_3, Qt::ControlModifier);
    const QSize shown = d.window->easel()->size();
    d.key(Qt::Key_C, Qt::ControlModifier);
    const auto* copied = QGuiApplication::clipboard()->mimeData();
    ASSERT_TRUE(copied->hasImage());
    EXPECT_EQ(qvariant_cast<QImage>(copied->imageData()).size(), shown);
    const QStringList lines = copied->text().split(QLatin1Char('\n'));
    for (const auto& run : {QStringLiteral("Run 1"), QStringLiteral("Baseline")})
        EXPECT_TRUE(std::any_of(lines.begin(), lines.end(), [&](const QString& line) {
            return line.split(QLatin1Char('\t')).contains(run);
        })) << copied->text().toStdString();
    d.window->easel()->focusOn(QStringLiteral("run.") + qs(d.view().session.facts->runs[1].id.hex()));
    d.key(Qt::Key_C, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(QGuiApplication::clipboard()->text().contains(QStringLiteral("Baseline, 64.9 fps, 1 run")))
        << QGuiApplication::clipboard()->text().toStdString() << "; " << d.view().message.toStdString();
}

TEST(ActionsTest, EveryShapeThatLooksAliveHasAHand) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    // Of the shell: the bars, the message, the drawer, and what opens another window.
    const QStringList shell{
        QStringLiteral("primary"),       QStringLiteral("station."),      QStringLiteral("message."),
        QStringLiteral("live."),         QStringLiteral("import."),       QStringLiteral("follow."),
        QStringLiteral("why."),          QStringLiteral("jump."),         QStringLiteral("session.new"),
        QStringLiteral("start.log"),     QStringLiteral("order.log"),     QStringLiteral("order.watch"),
        QStringLiteral("practice.find"), QStringLiteral("sessions.find"), QStringLiteral("page.")};
    std::size_t alive = 0;
    const auto look = [&](const char* when) {
        for (const auto& station : stations()) {
            d.studio.go(station.id);
            for (Picture* picture : {d.window->easel(), d.window->column()})
                for (const Hot& hot : picture->drawing().hots) {
                    if (!hot.focusable || hot.role == Role::Plot || hot.role == Role::None) continue;
                    const bool own = std::any_of(shell.begin(), shell.end(),
                                                 [&](const QString& id) { return hot.id.startsWith(id); });
                    const bool any = own || !hot.why.isEmpty() ||
                                     std::any_of(stations().begin(), stations().end(), [&](const Station& other) {
                                         const auto [hand, rest] = handFor(other.hands, hot.id);
                                         return hand != nullptr && (!hot.edit || hand->type != nullptr);
                                     });
                    EXPECT_TRUE(any) << when << ", " << station.id.key << ": " << hot.id.toStdString();
                    ++alive;
                }
        }
    };
    look("empty");
    ASSERT_TRUE(d.spaceUntil(path::Action::Done));
    look("saved");
    d.studio.newSession(9);
    d.rest();
    d.key(Qt::Key_N, Qt::ControlModifier);
    d.drop({support::testFile("logs/real-program-slow.csv")});
    look("a game of one's own, by hand");
    EXPECT_GT(alive, 150U);
}
