// SPDX-License-Identifier: GPL-3.0-or-later
// Another session is opened while the one before is at work: recording, reading logs, computing, looking at a log.
// Nothing of it reaches the next one, nothing that was saved is lost, and nothing crashes.
#include "app/harness.h"

#include "stations/runs/runs.h"

#include <QtTest/QTest>

using namespace impasto;
using namespace impasto::app;

namespace {

std::string longLog() {
    std::vector<double> frames;
    for (int i = 0; i < 200000; ++i) frames.push_back(14 + i % 7);
    return frameLog(frames);
}

/// Starts the demo's proof runs; the first of them is being made.
void recordSome(Driven& d) {
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordProof));
    d.studio.primary();
    ASSERT_TRUE(QTest::qWaitFor([&] { return d.view().live.active; }, 60000));
}

} // namespace

TEST(SwitchTest, ANewSessionWhileOneRecords) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    recordSome(d);
    const auto id = d.view().session.id;
    const auto made = d.view().session.facts->runs.size();
    d.studio.newSession(4);
    d.rest();
    EXPECT_NE(d.view().session.id, id);
    EXPECT_FALSE(d.view().live.active);
    EXPECT_TRUE(d.view().session.facts->runs.empty());
    EXPECT_TRUE(d.view().message.isEmpty()) << d.view().message.toStdString();
    d.studio.openSession(id);
    d.rest();
    EXPECT_EQ(d.view().session.id, id);
    EXPECT_GE(d.view().session.facts->runs.size(), made) << "what was recorded is in the file";
    EXPECT_EQ(d.view().step.action, path::Action::RecordProof) << "and the path goes on where it was";
    ASSERT_TRUE(d.spaceUntil(path::Action::KeepResult, 3));
}

TEST(SwitchTest, BackAndForthAtOnce) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    recordSome(d);
    const auto first = d.view().session.id;
    d.studio.newSession(4);
    d.studio.openSession(first);
    d.studio.newSession(5);
    d.studio.openSession(first);
    d.rest();
    EXPECT_EQ(d.view().session.id, first);
    EXPECT_TRUE(d.view().message.isEmpty()) << d.view().message.toStdString();
    EXPECT_EQ(d.view().logbookSessions.size(), 1U) << "those that were empty are not stored";
}

TEST(SwitchTest, TheRunThatIsLookedAtIsSeenBeforeTheOthersAreComputed) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::Done));
    const auto id = d.view().session.id;
    d.studio.newSession(4);
    d.rest();
    std::size_t ahead = 0;
    d.studio.onView([&] {
        const auto& view = d.view();
        if (!view.run || view.of<results::RunFigures>(*view.run) == nullptr ||
            view.get<results::BaselineFamily>() != nullptr)
            return;
        ++ahead;
        EXPECT_TRUE(view.computing);
        EXPECT_EQ(nextAction(view).toStdString(), fmt::format("Computing {} runs", view.session.facts->runs.size()));
        View each = view;
        for (const auto& station : stations()) { // nothing rests on what is not there yet
            each.station = station.id;
            EXPECT_FALSE(layoutEasel(each, {900, 500}).shapes.empty()) << station.name;
            EXPECT_FALSE(layoutColumn(each, {300, 500}).shapes.empty()) << station.name;
        }
    });
    d.studio.openSession(id);
    d.rest();
    EXPECT_GE(ahead, 1U);
    EXPECT_FALSE(d.view().computing);
    EXPECT_NE(d.view().get<results::BaselineFamily>(), nullptr);
    EXPECT_EQ(d.view().step.action, path::Action::Done);
}

TEST(SwitchTest, FiguresThatCouldNotBeComputedAreNotPromised) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.rest();
    View view = d.view();
    EXPECT_TRUE(figuresWait(view).contains(QStringLiteral("in a moment"))) << figuresWait(view).toStdString();
    const std::vector<results::Stage> failing{results::stage<results::RunFigures>(
        "figures", {}, {},
        [](const results::Inputs&, const Context&) -> results::Maybe<results::RunFigures> { throw std::bad_alloc(); })};
    results::ResultsCache cache;
    view.results =
        std::make_shared<results::Results>(results::computeWith(failing, view.session, cache, view.rules, {}, {}));
    EXPECT_TRUE(figuresWait(view).contains(QStringLiteral("could not"))) << figuresWait(view).toStdString();
}

TEST(SwitchTest, ANewSessionWhileLogsAreRead) {
    const support::TemporaryFolder folder;
    std::vector<std::filesystem::path> files;
    for (int i = 0; i < 6; ++i) files.push_back(folder.write("log" + std::to_string(i) + ".csv", longLog()));
    Driven d(folder);
    d.studio.importLogs(files);
    d.studio.newSession(4);
    d.rest();
    EXPECT_TRUE(d.view().session.facts->runs.empty()) << "they were dropped on the session before";
    EXPECT_EQ(d.view().importing.logs, 0U);
    d.studio.importLogs({files.front()});
    d.rest();
    EXPECT_EQ(d.view().session.facts->runs.size(), 1U);
}

TEST(SwitchTest, ALogIsLookedAtAndTrimmedThenAnotherSessionThenTheFirstAgain) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.drop({folder.write("log.csv", longLog())});
    const auto first = d.view().session.id;
    const auto run = *d.view().run;
    d.studio.apply(document::trimRun(run, {{0, 60000}}));
    openReading(d.studio, folder.path("log.csv"));
    d.studio.newSession(4);
    d.rest();
    EXPECT_FALSE(d.view().state<RunsState>().reading) << "it belonged to the session before";
    d.studio.openSession(first);
    d.rest();
    ASSERT_EQ(d.view().run, run);
    EXPECT_EQ(d.view().edits().runs.trims.at(run).size(), 1U);
    ASSERT_NE(d.view().of<results::RunFigures>(run), nullptr);
    EXPECT_LT(d.view().of<results::RunFigures>(run)->summary.frames, 200000U);
    d.key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(d.view().of<results::RunFigures>(run)->summary.frames, 200000U);
}
