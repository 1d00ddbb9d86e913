// SPDX-License-Identifier: GPL-3.0-or-later
// Sessions in the Logbook: named, deleted from the list, brought back, opened again, and paged where there are many.
#include "app/harness.h"
#include "app/tidy.h"

#include "stations/logbook/logbook.h"

using namespace impasto;
using namespace impasto::app;

namespace {

const logbook::SessionHead* headOf(const View& view, const SessionId& id) {
    for (const auto& head : view.logbookSessions)
        if (head.id == id) return &head;
    return nullptr;
}

} // namespace

TEST(LogbookStationTest, ADeletedSessionIsKeptAndComesBack) {
    const support::TemporaryFolder folder;
    SessionId first;
    {
        Driven d(folder);
        d.studio.startPractice();
        d.rest();
        first = d.view().session.id;
        d.studio.go(StationId{"logbook"});
        d.studio.edited(QStringLiteral("name"), QStringLiteral(" Evening one "));
        d.rest();
        EXPECT_EQ(d.view().session.name(), "Evening one");
        d.studio.newSession(5);
        d.rest();
        d.studio.startPractice();
        d.rest();
        d.studio.go(StationId{"logbook"});
        EXPECT_TRUE(d.view().message.isEmpty()) << d.view().message.toStdString();
        ASSERT_NE(headOf(d.view(), first), nullptr);
        EXPECT_EQ(headOf(d.view(), first)->name, "Evening one");
        EXPECT_EQ(headOf(d.view(), first)->about.machine, "Thornbury tower");
        EXPECT_EQ(headOf(d.view(), first)->about.targetFps, 60);
        d.click(d.window->easel(), QStringLiteral("delete.") + QString::fromStdString(first.hex()));
        EXPECT_TRUE(headOf(d.view(), first)->deleted);
    }
    Driven d(folder, true);
    ASSERT_NE(headOf(d.view(), first), nullptr) << "it is in the file";
    EXPECT_TRUE(headOf(d.view(), first)->deleted);
    d.studio.go(StationId{"logbook"});
    d.click(d.window->easel(), QStringLiteral("restore.") + QString::fromStdString(first.hex()));
    EXPECT_FALSE(headOf(d.view(), first)->deleted);
    d.click(d.window->easel(), QStringLiteral("session.") + QString::fromStdString(first.hex()));
    EXPECT_EQ(d.view().session.id, first);
    EXPECT_EQ(d.view().session.name(), "Evening one");
}

TEST(LogbookStationTest, ASessionBeginsWithWhatAnotherLearnt) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.startPractice();
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordCheck));
    d.studio.go(StationId{"logbook"});
    d.studio.edited(QStringLiteral("name"), QStringLiteral("Evening one"));
    d.rest();
    const auto first = QString::fromStdString(d.view().session.id.hex());
    const auto runs = d.view().session.facts->runs.size();
    d.studio.newSession(5);
    d.rest();
    d.studio.go(StationId{"logbook"});
    EXPECT_EQ(d.window->easel()->drawing().hot(QStringLiteral("begin.") + first), nullptr) << "no game yet";
    d.studio.startPractice();
    d.rest();
    d.studio.go(StationId{"logbook"});
    expectAllTidy(d, "sessions to learn from");
    d.click(d.window->easel(), QStringLiteral("begin.") + first);
    const auto& earlier = d.view().edits().settings.earlier;
    ASSERT_TRUE(earlier) << d.view().message.toStdString();
    EXPECT_EQ(earlier->from, "Evening one");
    EXPECT_GT(earlier->runs.size(), 1U);
    EXPECT_LT(earlier->runs.size(), runs) << "the first one compiled shaders";
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("Evening one"))) << d.view().message.toStdString();
    expectAllTidy(d, "costs of another session");
    ASSERT_NE(d.window->column()->drawing().hot(QStringLiteral("begin-as-usual")), nullptr);
    d.click(d.window->column(), QStringLiteral("begin-as-usual"));
    EXPECT_FALSE(d.view().edits().settings.earlier);
    d.studio.undo();
    EXPECT_TRUE(d.view().edits().settings.earlier);
    // A session that has nothing to teach says so, and nothing changes.
    const auto second = QString::fromStdString(d.view().session.id.hex());
    d.studio.newSession(6);
    d.rest();
    d.studio.startPractice();
    d.rest();
    d.studio.go(StationId{"logbook"});
    d.click(d.window->easel(), QStringLiteral("begin.") + second);
    EXPECT_FALSE(d.view().edits().settings.earlier);
    EXPECT_FALSE(d.view().message.isEmpty());
}

TEST(LogbookStationTest, ManySessionsAreShownPageByPage) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.startPractice();
    d.rest();
    std::vector<logbook::SessionHead> heads(40);
    const auto ids = seededIdSource(3);
    for (std::size_t i = 0; i < heads.size(); ++i) {
        heads[i].id = {ids()};
        heads[i].name = "Evening " + std::to_string(i + 1);
    }
    d.studio.setLogbookSessions(heads);
    d.studio.go(StationId{"logbook"});
    const auto shown = [&](const logbook::SessionHead& head) {
        return d.window->easel()->drawing().hot(QStringLiteral("session.") + QString::fromStdString(head.id.hex())) !=
               nullptr;
    };
    EXPECT_TRUE(shown(heads.front()));
    EXPECT_FALSE(shown(heads.back()));
    const auto turn = [&](const QString& name) {
        for (const auto& hot : d.window->easel()->drawing().hots)
            if (hot.id.startsWith(QStringLiteral("page.sessions.")) && hot.name == name)
                return d.click(d.window->easel(), hot.id);
        FAIL() << name.toStdString();
    };
    for (int press = 0; press < 20 && !shown(heads.back()); ++press) turn(QStringLiteral("Next"));
    EXPECT_TRUE(shown(heads.back()));
    EXPECT_FALSE(shown(heads.front()));
    for (int press = 0; press < 20 && !shown(heads.front()); ++press) turn(QStringLiteral("Previous"));
    EXPECT_TRUE(shown(heads.front()));
}

TEST(LogbookStationTest, ASecondWindowReadsOnlyAndAsksBeforeItLosesWork) {
    const support::TemporaryFolder folder;
    Driven first(folder);
    first.studio.startPractice();
    first.rest();
    EXPECT_TRUE(first.view().notSaved.isEmpty());
    Driven second(folder, true);
    EXPECT_TRUE(second.view().notSaved.contains(QStringLiteral("Reading only")))
        << second.view().notSaved.toStdString();
    EXPECT_EQ(second.view().session.id, first.view().session.id) << "it can be looked at";
    bool asked = false;
    second.window->askUnsaved = [&asked](const QString&) {
        asked = true;
        return Window::Unsaved::Stay;
    };
    EXPECT_TRUE(second.window->close()) << "nothing was done";
    EXPECT_FALSE(asked);
    second.window->show();
    second.studio.apply(document::writeNote("mine"));
    second.rest();
    EXPECT_FALSE(second.window->close());
    EXPECT_TRUE(asked);
    first.studio.apply(document::writeNote("saved"));
    first.rest();
    EXPECT_TRUE(first.window->close());
    EXPECT_NE(first.view().session.edits->record.note, second.view().session.edits->record.note);
}

TEST(LogbookStationTest, SizeAndThemeAreRemembered) {
    const support::TemporaryFolder folder;
    const auto file = folder.path("window.ini");
    {
        Driven d(folder);
        d.window->remember(file);
        d.window->resize(1100, 700);
        d.key(Qt::Key_T, Qt::ControlModifier);
        d.window->close();
    }
    Driven d(folder);
    d.window->remember(file);
    EXPECT_EQ(d.window->size(), QSize(1100, 700));
    EXPECT_TRUE(d.window->isDark());
    static_cast<void>(folder.write("window.ini", "size=nonsense\n\xff\xfe[dark"));
    d.window->remember(file);
    EXPECT_EQ(d.window->size(), QSize(1100, 700)) << "a damaged memory changes nothing";
}
