// SPDX-License-Identifier: GPL-3.0-or-later
#include "probe/tree.h"

#include <impasto/checklist/checklist.h>
#include <impasto/wording/machine.h>

using namespace impasto;
using namespace impasto::checklist;

namespace {

std::vector<Point> shipped() {
    auto points = parseChecklist(support::textOf(support::dataFile("checklist.toml")), "checklist.toml");
    EXPECT_TRUE(points.has_value()) << (points ? "" : points.error().what);
    return points ? *points : std::vector<Point>();
}

const Point& pointNamed(const std::vector<Point>& points, const std::string& id) {
    const auto it = std::find_if(points.begin(), points.end(), [&](const Point& p) { return p.id == id; });
    EXPECT_NE(it, points.end()) << id;
    return *it;
}

/// A session on a machine that was read.
document::Session sessionOn(const machine::Machine& m, run::Style style = run::Style::Cinematic) {
    document::Facts facts;
    facts.machines = {std::make_shared<const machine::Machine>(m)};
    document::Edits edits;
    edits.subject.machine = 0;
    edits.goal.brief = run::Brief{};
    edits.goal.brief->style = style;
    document::Session session;
    session.facts = std::make_shared<const document::Facts>(std::move(facts));
    session.edits = std::make_shared<const document::Edits>(std::move(edits));
    return session;
}

machine::Machine readIn(const support::TemporaryFolder& folder, std::vector<probe::Screen> screens = {}) {
    auto read = probe::readMachine({folder.root(), std::move(screens), 1780000000, {}});
    EXPECT_TRUE(read.has_value());
    return read->machine;
}

Standing standingOf(const std::string& id, const document::Session& session) {
    static const auto points = shipped();
    return judge(pointNamed(points, id), factsOf(session), session.edits->checks).standing;
}

} // namespace

TEST(ChecklistTest, ADesktopThatIsNotInOrder) {
    const support::TemporaryFolder folder;
    support::desktopIn(folder);
    const auto session = sessionOn(readIn(folder, {{"DP-1", {1920, 1080}, Hertz(60)}}));
    EXPECT_EQ(standingOf("memory-window", session), Standing::ToDo);   // 256 MiB of 8 GiB
    EXPECT_EQ(standingOf("link-lanes", session), Standing::ToDo);      // 8 of 16
    EXPECT_EQ(standingOf("highest-refresh", session), Standing::ToDo); // 60 of 143.97 Hz
    EXPECT_EQ(standingOf("native-resolution", session), Standing::ToDo);
    EXPECT_EQ(standingOf("clock-preference", session), Standing::Fine); // balance_performance
    EXPECT_EQ(standingOf("background", session), Standing::Fine);
    EXPECT_EQ(standingOf("memory-speed", session), Standing::CannotTell); // only root may read it
    EXPECT_EQ(standingOf("power-profile", session), Standing::CannotTell);
    EXPECT_EQ(standingOf("copy-route", session), Standing::DoesNotApply); // one GPU
    EXPECT_EQ(standingOf("mains", session), Standing::DoesNotApply);      // no battery
    EXPECT_EQ(standingOf("hibernate", session), Standing::DoesNotApply);
    EXPECT_EQ(standingOf("fans", session), Standing::CannotTell);   // no profile is told
    EXPECT_EQ(standingOf("driver", session), Standing::CannotTell); // nobody can know it without a network
}

TEST(ChecklistTest, TheSameDesktopInOrder) {
    const support::TemporaryFolder folder;
    support::desktopIn(folder);
    support::put(folder, "sys/bus/pci/devices/0000:01:00.0/current_link_width", "16\n");
    support::put(folder, "sys/bus/pci/devices/0000:01:00.0/resource",
                 "0x0000006000000000 0x00000061ffffffff 0x000000000014220c\n");
    const auto session = sessionOn(readIn(folder, {{"DP-1", {2560, 1440}, Hertz(143.9)}}));
    for (const char* id : {"memory-window", "link-lanes", "highest-refresh", "native-resolution"})
        EXPECT_EQ(standingOf(id, session), Standing::Fine) << id;
}

TEST(ChecklistTest, TheGoalDecidesWhatApplies) {
    const support::TemporaryFolder folder;
    support::laptopIn(folder);
    const auto m = readIn(folder);
    EXPECT_EQ(standingOf("copy-route", sessionOn(m)), Standing::ToDo);
    EXPECT_EQ(standingOf("copy-route", sessionOn(m, run::Style::Battery)), Standing::DoesNotApply); // left on for that
    EXPECT_EQ(standingOf("power-profile", sessionOn(m)), Standing::ToDo);
    EXPECT_EQ(standingOf("power-profile", sessionOn(m, run::Style::Battery)), Standing::DoesNotApply);
    EXPECT_EQ(standingOf("mains", sessionOn(m)), Standing::ToDo);
    EXPECT_EQ(standingOf("fans", sessionOn(m)), Standing::ToDo) << "a quiet profile, whatever is said of the fans";
    // Played on battery, as was said: nothing to do about it.
    auto session = sessionOn(m);
    auto edits = document::setState("conditions.supply", "battery").apply(*session.edits);
    ASSERT_TRUE(edits.has_value());
    session.edits = std::make_shared<const document::Edits>(*edits);
    EXPECT_EQ(standingOf("mains", session), Standing::DoesNotApply);
}

TEST(ChecklistTest, NothingKnownIsNeverFineByItself) {
    machine::Machine m;
    m.name = "m";
    const auto session = sessionOn(m);
    const auto facts = factsOf(session);
    for (const auto& point : shipped()) {
        const auto judged = judge(point, facts, {});
        if (judged.standing != Standing::Fine) continue;
        // Fine only by what the session says of how it is played.
        for (const auto& rest : judged.rests)
            EXPECT_TRUE(rest.fact.starts_with("state.") || rest.fact.starts_with("machine.")) << rest.fact;
    }
}

TEST(ChecklistTest, ATickStandsUntilTheMachineChanges) {
    const support::TemporaryFolder folder;
    support::desktopIn(folder);
    const auto points = shipped();
    const auto& driver = pointNamed(points, "driver");
    const auto session = sessionOn(readIn(folder));
    const auto facts = factsOf(session);
    document::Checks checks;
    checks.ticks["driver"] = {document::Said::Done, 1780000000, markOf(driver, facts)};
    auto judged = judge(driver, facts, checks);
    EXPECT_EQ(judged.standing, Standing::Fine);
    ASSERT_TRUE(judged.said.has_value());
    EXPECT_EQ(judged.said->atSeconds, 1780000000);
    checks.ticks["driver"].said = document::Said::NotHere;
    EXPECT_EQ(judge(driver, facts, checks).standing, Standing::DoesNotApply);
    // Another driver: it is open again, and says so.
    support::put(folder, "sys/bus/pci/devices/0000:01:00.0/uevent", "DRIVER=marl-next\n");
    judged = judge(driver, factsOf(sessionOn(readIn(folder))), checks);
    EXPECT_EQ(judged.standing, Standing::CannotTell);
    EXPECT_TRUE(judged.reopened);
    EXPECT_FALSE(judged.said.has_value());
}

TEST(ChecklistTest, CountsAreThoseOfThePoints) {
    const auto points = shipped();
    const auto session = sessionOn(support::tower());
    const auto counts = count(points, factsOf(session), {});
    EXPECT_EQ(counts.fine + counts.toDo + counts.cannotTell + counts.doesNotApply, points.size());
    EXPECT_EQ(counts.toDo, 2U); // memory under its rating, and a window of 256 MiB
}

TEST(ChecklistTest, BadDescriptionsAreRefusedWithTheirKey) {
    const std::string good =
        "[[point]]\nid = \"a\"\nplace = \"cpu\"\ntitle = \"t\"\nwhy = \"w\"\ncheck = \"c\"\nchange = "
        "\"g\"\nworth = \"o\"\n";
    EXPECT_TRUE(parseChecklist(good, "c").has_value());
    EXPECT_EQ(parseChecklist(good + good, "c").error().code, ErrorCode::DuplicateName);
    EXPECT_EQ(parseChecklist(good + "fine = [{ fact = \"cpu.colour\", least = 1 }]\n", "c").error().code,
              ErrorCode::UnknownName);
    EXPECT_EQ(parseChecklist(good + "fine = [{ fact = \"cpu.threads\" }]\n", "c").error().code, ErrorCode::MissingKey);
    EXPECT_EQ(parseChecklist(good + "reopen = [\"x\"]\n", "c").error().code, ErrorCode::UnknownName);
    EXPECT_EQ(parseChecklist("[[point]]\nid = \"a\"\nplace = \"roof\"\n", "c").error().code, ErrorCode::BadValue);
}

TEST(ChecklistTest, EveryFactHasAName) {
    const wording::Words w;
    for (const auto& name : machine::factNames()) EXPECT_NE(wording::factName(w, name.key), name.key);
    for (const auto name : knownNames()) EXPECT_NE(wording::factName(w, name), name);
}

TEST(ChecklistTest, WhatItRestsOnInWords) {
    const auto session = sessionOn(support::tower());
    const auto facts = factsOf(session);
    const auto points = shipped();
    const wording::Words w;
    EXPECT_EQ(wording::restsOn(w, judge(pointNamed(points, "memory-speed"), facts, {}), facts),
              "memory speed 3200 MT/s, rated memory speed 3600 MT/s");
    EXPECT_EQ(wording::restsShort(w, judge(pointNamed(points, "memory-speed"), facts, {}), facts), "3200 of 3600 MT/s");
    EXPECT_EQ(wording::restsShort(w, judge(pointNamed(points, "highest-refresh"), facts, {}), facts), "144 Hz");
    EXPECT_EQ(wording::restsShort(w, judge(pointNamed(points, "fans"), facts, {}), facts),
              "fans automatic, power profile performance")
        << "two facts that have nothing to do with one another";
    EXPECT_EQ(wording::restsShort(w, judge(pointNamed(points, "link-lanes"), facts, {}), facts), "link lanes 16");
    EXPECT_EQ(wording::restsShort(w, judge(pointNamed(points, "memory-window"), facts, {}), facts),
              "seen by the CPU 3%");
}

TEST(ChecklistTest, OfAMachineAloneNothingIsTakenAsSaid) {
    const support::TemporaryFolder folder;
    support::desktopIn(folder);
    const auto facts = factsOf(readIn(folder));
    for (const auto& [name, fact] : facts)
        EXPECT_FALSE(name.starts_with("state.") || name.starts_with("goal.")) << name;
    const auto points = shipped();
    for (const char* id : {"fans", "sync-off", "window-mode"})
        EXPECT_EQ(judge(pointNamed(points, id), facts, {}).standing, Standing::CannotTell) << id;
    EXPECT_EQ(judge(pointNamed(points, "link-lanes"), facts, {}).standing, Standing::ToDo);
}
