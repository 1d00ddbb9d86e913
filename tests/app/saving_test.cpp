// SPDX-License-Identifier: GPL-3.0-or-later
// What is shown as saved, as not saved, and what is asked before it is lost: the real window on real files.
#include "app/harness.h"

#include <QtTest/QTest>
#include <SQLiteCpp/SQLiteCpp.h>
#include <fstream>

using namespace impasto;
using namespace impasto::app;

namespace {

std::string noteIn(const std::filesystem::path& file, const SessionId& id) {
    const auto book = logbook::Logbook::openToRead(file);
    if (!book) return "no logbook: " + book.error().what;
    const auto stored = (*book)->load(id);
    return stored ? stored->session.edits->record.note : "no session: " + stored.error().what;
}

bool waitClosed(const Window& window) {
    return QTest::qWaitFor([&window] { return !window.isVisible(); }, 20000);
}

} // namespace

TEST(SavingTest, NotSavedStandsUntilItIsAndClosingAsks) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.startPractice();
    d.rest();
    d.studio.apply(document::writeNote("before"));
    d.rest();
    const auto file = folder.path("logbook.impasto"), away = folder.path("away");
    const auto id = d.view().session.id;
    std::filesystem::rename(file, away);
    d.studio.apply(document::writeNote("after"));
    d.rest();
    EXPECT_TRUE(d.view().notSaved.contains(QStringLiteral("Not saved since change")))
        << d.view().notSaved.toStdString();
    EXPECT_TRUE(d.view().saved.isEmpty());
    const auto standing = d.window->findChildren<Picture*>();
    EXPECT_TRUE(std::any_of(standing.begin(), standing.end(), [](const Picture* p) {
        return p->isVisible() && p->drawing().hot(QStringLiteral("save.retry")) != nullptr;
    }));
    d.studio.apply(document::writeNote("later"));
    d.rest();
    std::vector<Window::Unsaved> answers{Window::Unsaved::Stay, Window::Unsaved::Retry};
    std::size_t asked = 0;
    d.window->askUnsaved = [&](const QString&) { return answers.at(asked++); };
    EXPECT_FALSE(d.window->close());
    const auto revision = d.view().session.revision;
    d.studio.newSession(3);
    EXPECT_EQ(asked, 2U) << "opening another asks too";
    d.rest();
    EXPECT_EQ(d.view().session.id, id);
    EXPECT_EQ(d.view().session.revision, revision);
    EXPECT_FALSE(d.view().notSaved.isEmpty());
    std::filesystem::rename(away, file);
    answers = {Window::Unsaved::Retry};
    asked = 0;
    EXPECT_FALSE(d.window->close()) << "not before it is saved";
    EXPECT_TRUE(waitClosed(*d.window)) << "and then by itself";
    EXPECT_TRUE(d.view().notSaved.isEmpty());
    EXPECT_TRUE(d.view().saved.contains(QString::number(revision)));
    EXPECT_EQ(noteIn(file, id), "later");
}

TEST(SavingTest, OpeningAndClosingChangesNothing) {
    const support::TemporaryFolder folder;
    SessionId id;
    std::vector<logbook::SessionHead> heads;
    {
        Driven d(folder);
        d.studio.apply(document::writeNote("one"));
        d.studio.apply(document::writeNote("two"));
        d.rest();
        d.studio.undo();
        d.rest();
        id = d.view().session.id;
    }
    for (int i = 0; i < 3; ++i) {
        Driven d(folder, true);
        EXPECT_EQ(d.view().session.id, id);
        EXPECT_EQ(d.view().edits().record.note, "one");
        EXPECT_EQ(d.studio.store().redoable(), "write-note");
        if (i > 0) EXPECT_EQ(d.view().logbookSessions, heads);
        heads = d.view().logbookSessions;
    }
}

TEST(SavingTest, ASessionThatCannotBeSavedGoesElsewhere) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.startPractice();
    d.rest();
    std::filesystem::remove(folder.path("logbook.impasto"));
    d.studio.apply(document::writeNote("worth keeping"));
    d.rest();
    ASSERT_FALSE(d.view().notSaved.isEmpty());
    const auto other = folder.path("other.impasto");
    d.window->askWhere = [&] { return QString::fromStdString(other.string()); };
    d.key(Qt::Key_S, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(d.view().notSaved.isEmpty()) << d.view().notSaved.toStdString();
    EXPECT_TRUE(d.view().saved.contains(QStringLiteral("other.impasto"))) << d.view().saved.toStdString();
    EXPECT_EQ(noteIn(other, d.view().session.id), "worth keeping");
    d.studio.apply(document::writeNote("and goes on there"));
    d.rest();
    EXPECT_EQ(noteIn(other, d.view().session.id), "and goes on there");
    EXPECT_FALSE(std::filesystem::exists(folder.path("logbook.impasto")));
}

TEST(SavingTest, DescriptionsAreSavedAndOpenedAgain) {
    const support::TemporaryFolder folder, other;
    Driven d(folder);
    const auto save = [](Driven& of, const char* what, const std::filesystem::path& file) {
        of.window->askWhere = [file] { return QString::fromStdString(file.string()); };
        for (auto* action : of.window->actions())
            if (action->text() == QLatin1String(what)) action->trigger();
        of.rest();
    };
    const auto machine = other.path("machine.toml"), game = other.path("game.toml");
    save(d, "Save the machine's description", machine);
    EXPECT_FALSE(std::filesystem::exists(machine)) << "none is described";
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("No machine"))) << d.view().message.toStdString();
    d.studio.startPractice();
    d.rest();
    save(d, "Save the machine's description", machine);
    save(d, "Save the game's description", game);
    ASSERT_TRUE(std::filesystem::exists(game)) << d.view().message.toStdString();
    Driven again(other);
    again.drop({machine});
    again.drop({game});
    ASSERT_NE(again.view().session.machine(), nullptr);
    ASSERT_NE(again.view().session.game(), nullptr);
    EXPECT_EQ(again.view().session.machine()->mark, d.view().session.machine()->mark);
    EXPECT_EQ(again.view().session.game()->mark, d.view().session.game()->mark);
    EXPECT_TRUE(again.view().session.machine()->simulated) << "what only the simulator reads is in it";
    save(d, "Save the machine's description", other.path("none/machine.toml"));
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("cannot be written"))) << d.view().message.toStdString();
}

TEST(SavingTest, AReadingWindowCanSaveElsewhere) {
    const support::TemporaryFolder folder;
    Driven first(folder);
    first.studio.startPractice();
    first.rest();
    Driven second(folder, true);
    second.studio.apply(document::writeNote("mine"));
    second.rest();
    EXPECT_TRUE(second.studio.losesWork());
    const auto other = folder.path("other.impasto");
    second.window->askWhere = [&] { return QString::fromStdString(other.string()); };
    second.window->askUnsaved = [](const QString&) { return Window::Unsaved::Elsewhere; };
    EXPECT_FALSE(second.window->close());
    EXPECT_TRUE(waitClosed(*second.window));
    EXPECT_EQ(noteIn(other, second.view().session.id), "mine");
    EXPECT_NE(noteIn(folder.path("logbook.impasto"), second.view().session.id), "mine");
}

TEST(SavingTest, ADamagedSessionLeavesTheOpenOneAsItIsAndSaving) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.apply(document::writeNote("of the first"));
    d.rest();
    const auto damaged = d.view().session.id;
    d.studio.newSession(9);
    d.rest();
    d.studio.apply(document::writeNote("one"));
    d.studio.apply(document::writeNote("two"));
    d.rest();
    {
        SQLite::Database db(folder.path("logbook.impasto").string(), SQLite::OPEN_READWRITE);
        SQLite::Statement s(db, "UPDATE session SET first_edits = '{' WHERE id = ?");
        s.bind(1, damaged.bytes.data(), static_cast<int>(damaged.bytes.size()));
        ASSERT_EQ(s.exec(), 1);
    }
    const auto id = d.view().session.id;
    d.studio.openSession(damaged);
    d.rest();
    EXPECT_EQ(d.view().session.id, id);
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("damaged"))) << d.view().message.toStdString();
    EXPECT_TRUE(d.view().notSaved.isEmpty());
    d.studio.undo();
    EXPECT_EQ(d.view().session.edits->record.note, "one") << "its undo is there";
    d.rest();
    EXPECT_EQ(noteIn(folder.path("logbook.impasto"), id), "one") << "and it is still saved";
}

TEST(SavingTest, ARunThatEndedTheProgramIsNamedAndComesBackWhenItIsTried) {
    const support::TemporaryFolder folder;
    const auto log = folder.write("a.csv", frameLog(std::vector<double>(400, 16.0)));
    RunId run;
    {
        Driven d(folder);
        d.drop({log});
        run = d.view().session.facts->runs.at(0).id;
    }
    logbook::Computing(folder.path("logbook.impasto")).begin(run); // and then it ended
    Driven d(folder, true);
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("run 1"))) << d.view().message.toStdString();
    EXPECT_TRUE(d.view().session.facts->runs.at(0).crashed);
    EXPECT_EQ(d.view().of<results::RunFigures>(run), nullptr);
    d.studio.go({"runs"});
    d.studio.showRun(run);
    d.rest();
    d.click(d.window->column(), QStringLiteral("run.count"));
    EXPECT_FALSE(d.view().session.facts->runs.at(0).crashed);
    ASSERT_NE(d.view().of<results::RunFigures>(run), nullptr) << d.view().message.toStdString();
    EXPECT_EQ(d.view().of<results::RunFigures>(run)->summary.frames, 400U);
}

TEST(SavingTest, ManyLogsAtOnceAreAskedAbout) {
    const support::TemporaryFolder folder;
    std::vector<std::filesystem::path> logs;
    for (int i = 0; i < 21; ++i)
        logs.push_back(folder.write("l" + std::to_string(i) + ".csv", frameLog(std::vector<double>(50, 16.0 + i))));
    Driven d(folder);
    std::vector<std::size_t> asked;
    bool answer = false;
    d.window->askMany = [&](std::size_t n) {
        asked.push_back(n);
        return answer;
    };
    d.drop(logs);
    EXPECT_EQ(asked, std::vector<std::size_t>{21});
    EXPECT_TRUE(d.view().session.facts->runs.empty());
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("21")));
    answer = true;
    d.drop(logs);
    EXPECT_EQ(d.view().session.facts->runs.size(), 21U);
    d.drop({logs[0]});
    EXPECT_EQ(asked.size(), 2U) << "one is not many";
}
