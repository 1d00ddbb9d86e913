// SPDX-License-Identifier: GPL-3.0-or-later
// The whole path by hand: a game of one's own, orders in words, and dropped logs that hold frame times only.
#include "app/harness.h"
#include "app/tidy.h"

#include <fstream>

#include <QtTest/QTest>
#include <impasto/base/random.h>

using namespace impasto;
using namespace impasto::app;
using path::Action;

namespace {

/// What the real game would have recorded for an order.
std::vector<double> played(const run::Order& order, RandomStream& s) {
    double ms = 21;
    for (const auto& [id, saving] : std::map<std::string, double>{{"render_scale", 6},
                                                                  {"shadows", 2},
                                                                  {"reflections", 1},
                                                                  {"volumetrics", 1.5},
                                                                  {"crowds", 1},
                                                                  {"anti_aliasing", 2}}) {
        const auto& level = order.variant.values.at(id);
        const bool top = level == "100%" || level == "high" || level == "on" || level == "4x";
        if (!top) ms -= level == "77%" ? 0.5 * saving : saving;
    }
    ms *= 1 + 0.004 * s.normal();
    if (order.variant.cap) ms = std::max(ms, 1000 / order.variant.cap->value());
    std::vector<double> frames;
    for (double t = 0; t < 60000; t += ms) frames.push_back(ms * (1 + 0.02 * s.normal()));
    return frames;
}

/// Logs that do not answer the order: each lies beside it, with the reason.
void dropWrongOnes(Driven& d, const support::TemporaryFolder& folder, const run::Order& order, bool repeats,
                   RandomStream& s) {
    const auto good = played(order, s);
    std::vector<double> shorter(good.begin(), good.begin() + static_cast<std::ptrdiff_t>(good.size() / 3)),
        slower = good;
    for (double& ms : slower) ms *= 2;
    slower.resize(slower.size() / 2);
    std::map<std::string, std::vector<double>> wrong{{"short", shorter}};
    if (repeats)
        wrong["slow"] = slower; // its siblings say what is usual
    else
        wrong["capped"] = std::vector<double>(1800, 1000.0 / 30);
    for (const auto& [name, frames] : wrong) {
        const auto before = d.view().session.facts->runs.size();
        d.drop({folder.write(fmt::format("{}-{}.csv", name, before), frameLog(frames))});
        ASSERT_EQ(d.view().session.facts->runs.size(), before + 1) << name;
        EXPECT_EQ(d.view().session.leftOut(d.view().session.facts->runs.back()), document::LeftOut::Mismatch) << name;
        EXPECT_TRUE(d.view().message.contains(QStringLiteral("does not fit the order")))
            << name << ": " << d.view().message.toStdString();
    }
    if (!repeats) return;
    // The run before, once more.
    const auto before = d.view().session.facts->runs.size();
    d.drop({folder.path("log2.csv")});
    EXPECT_EQ(d.view().session.facts->runs.size(), before);
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("frame by frame")));
}

/// The demo's pair up to runs of a kind, which are then ordered by hand.
std::vector<run::Order> ordered(Driven& d, Action action) {
    d.drop({support::dataFile("machines/thornbury-tower.toml"), support::dataFile("games/saltmarsh-courier.toml")});
    EXPECT_TRUE(d.spaceUntil(action));
    d.studio.apply(document::useRig(document::RigKind::Hand));
    d.rest();
    d.studio.primary();
    d.rest();
    return path::openOrders(d.view().session);
}

} // namespace

TEST(HandTest, TheWholePathByHandWithDroppedLogs) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier); // describe a game
    ASSERT_NE(d.view().session.game(), nullptr);
    ASSERT_NE(d.view().session.machine(), nullptr);
    EXPECT_EQ(d.view().edits().subject.rig, document::RigKind::Hand);
    for (const auto& hot : std::vector<Hot>(d.window->column()->drawing().hots))
        if (hot.id.startsWith(QStringLiteral("page.usual."))) d.click(d.window->column(), hot.id);
    d.click(d.window->column(), QStringLiteral("usual.lens")); // this game has none
    EXPECT_EQ(d.view().session.game()->setting("lens"), nullptr);
    d.studio.edited(QStringLiteral("game.name"), QStringLiteral("Gravel Post"));
    d.studio.edited(QStringLiteral("game.add"), QStringLiteral("Draw distance"));
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("its levels")));
    d.studio.edited(QStringLiteral("game.add"), QStringLiteral("Draw distance: near, far"));
    d.rest();
    EXPECT_EQ(d.view().session.game()->settings.back().label, "Draw distance");
    EXPECT_EQ(d.view().session.name(), "Gravel Post");
    d.key(Qt::Key_Return, Qt::ShiftModifier); // say what is wanted
    EXPECT_TRUE(d.view().edits().goal.brief);
    RandomStream s(5, "played");
    int logs = 0;
    bool repeated = false;
    for (int guard = 0; guard < 60 && d.view().step.action != Action::Done; ++guard) {
        const auto open = path::openOrders(d.view().session);
        if (open.empty()) {
            d.key(Qt::Key_Return, Qt::ShiftModifier);
            ASSERT_TRUE(d.view().message.isEmpty()) << d.view().message.toStdString();
            continue;
        }
        EXPECT_EQ(d.view().station, StationId{"runs"});
        EXPECT_NE(d.window->easel()->drawing().hot(QStringLiteral("order.log")), nullptr) << "the order stands there";
        const bool repeats = open.front().purpose == run::Purpose::ProofBefore && !repeated;
        repeated = repeated || repeats;
        if (repeats || (open.front().purpose == run::Purpose::Cost && logs == 3)) {
            dropWrongOnes(d, folder, open.front(), repeats, s);
            ASSERT_EQ(path::openOrders(d.view().session), open) << "it waits still";
        }
        d.drop({folder.write(fmt::format("log{}.csv", logs++), frameLog(played(open.front(), s)))});
    }
    ASSERT_EQ(d.view().step.action, Action::Done);
    EXPECT_EQ(results::verdictsOf(*d.view().results).front().brake, limits::Brake::CannotTell);
    EXPECT_TRUE(d.view().get<results::Costs>()->hidden);
    EXPECT_TRUE(repeated);
    EXPECT_GE(logs, 9);
    EXPECT_EQ(d.view().get<proof::Proof>()->wishes.front().state, proof::WishState::Met);
    d.key(Qt::Key_5, Qt::ControlModifier);
    EXPECT_NE(d.window->easel()->drawing().hot(QStringLiteral("slab.gpu.render_scale")), nullptr)
        << "CPU and GPU, told apart by what the frame times did";
}

TEST(HandTest, ALogThatDoesNotFitStaysAndTheOrderWaits) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    d.key(Qt::Key_Space); // a goal
    d.key(Qt::Key_Space); // the start values are shown
    d.key(Qt::Key_Space); // they are right
    d.key(Qt::Key_Space);
    ASSERT_EQ(path::openOrders(d.view().session).size(), 1U);
    d.drop({folder.write("short.csv", frameLog(std::vector<double>(300, 16.6)))});
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("does not fit the order"))) << d.view().message.toStdString();
    EXPECT_EQ(path::openOrders(d.view().session).size(), 1U);
    ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
    EXPECT_EQ(d.view().session.leftOut(d.view().session.facts->runs[0]), document::LeftOut::Mismatch);
}

TEST(HandTest, ALogInAWatchedFolderAnswersTheOrder) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    d.key(Qt::Key_Space); // a goal
    d.key(Qt::Key_Space); // the start values are shown
    d.key(Qt::Key_Space); // they are right
    d.key(Qt::Key_Space);
    std::filesystem::create_directory(folder.path("logs"));
    d.window->watchFolder(QString::fromStdString(folder.path("logs").string()));
    static_cast<void>(folder.write("logs/run.csv", frameLog(std::vector<double>(3600, 16.6))));
    ASSERT_TRUE(QTest::qWaitFor([&] { return !d.view().session.facts->runs.empty(); }, 30000));
    d.rest();
    ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
    EXPECT_TRUE(d.view().session.facts->runs[0].order);
}

TEST(HandTest, ALogIsShownWhileItIsWritten) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    d.key(Qt::Key_Space); // a goal
    d.key(Qt::Key_Space); // the start values are shown
    d.key(Qt::Key_Space); // they are right
    d.key(Qt::Key_Space);
    d.studio.apply(document::setFollowRest(0.4));
    std::filesystem::create_directory(folder.path("logs"));
    d.window->watchFolder(QString::fromStdString(folder.path("logs").string()));
    const auto file = folder.write("logs/run.csv", frameLog(std::vector<double>(600, 16.6)));
    ASSERT_TRUE(QTest::qWaitFor([&] { return d.view().follow.frameMs.size() == 600; }, 30000));
    const auto* ribbon = d.window->ribbon();
    EXPECT_NE(ribbon->drawing().hot(QStringLiteral("follow.take")), nullptr);
    std::size_t shown = 600;
    for (int piece = 0; piece < 3; ++piece) {
        {
            std::ofstream more(file, std::ios::app);
            for (int i = 0; i < 1000; ++i) more << "16.6\n";
        }
        shown += 1000;
        ASSERT_TRUE(QTest::qWaitFor(
            [&] { return d.view().follow.frameMs.size() == shown || !d.view().session.facts->runs.empty(); }, 30000));
    }
    EXPECT_TRUE(QTest::qWaitFor([&] { return !d.view().session.facts->runs.empty(); }, 30000)) << "once it rests";
    d.rest();
    EXPECT_FALSE(d.view().follow.active);
    ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
}

TEST(HandTest, AFollowedLogCanBeTakenOrLeft) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.apply(document::setFollowRest(3600));
    const auto file = folder.write("run.csv", frameLog(std::vector<double>(900, 16.6)));
    d.studio.follow(file);
    ASSERT_TRUE(QTest::qWaitFor([&] { return d.view().follow.frameMs.size() == 900; }, 30000));
    d.studio.activate(QStringLiteral("follow.leave"));
    d.rest();
    EXPECT_FALSE(d.view().follow.active);
    EXPECT_TRUE(d.view().session.facts->runs.empty());
    d.studio.follow(file);
    ASSERT_TRUE(QTest::qWaitFor([&] { return d.view().follow.frameMs.size() == 900; }, 30000));
    d.studio.activate(QStringLiteral("follow.take"));
    d.rest();
    EXPECT_EQ(d.view().session.facts->runs.size(), 1U);
    // Two imports at once: none is lost.
    for (const double ms : {16.7, 16.8, 16.9})
        d.studio.importLogs({folder.write(fmt::format("run{}.csv", ms), frameLog(std::vector<double>(900, ms)))});
    d.rest();
    EXPECT_EQ(d.view().session.facts->runs.size(), 4U);
    // The same one again is known.
    d.studio.importLogs({file});
    d.rest();
    EXPECT_EQ(d.view().session.facts->runs.size(), 4U);
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("is run 1"))) << d.view().message.toStdString();
    EXPECT_EQ(d.view().run, d.view().session.facts->runs.front().id) << "it is shown";
}

TEST(HandTest, OrdersAreAListToPickFromAndToSkip) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    const auto open = ordered(d, Action::RecordProof);
    ASSERT_GT(open.size(), 5U);
    EXPECT_EQ(d.view().station, StationId{"runs"});
    expectAllTidy(d, "orders wait");
    d.studio.go(StationId{"runs"});
    d.click(d.window->easel(), QStringLiteral("order.pick.") + qs(open[2].id.hex()));
    EXPECT_EQ(d.view().order, open[2].id);
    d.click(d.window->easel(), QStringLiteral("order.skip.") + qs(open[2].id.hex()));
    d.rest();
    EXPECT_EQ(path::openOrders(d.view().session).size(), open.size() - 1);
    d.studio.undo();
    d.rest();
    EXPECT_EQ(path::openOrders(d.view().session).size(), open.size());
    d.key(Qt::Key_O); // the runs, though orders wait
    EXPECT_EQ(d.window->easel()->drawing().hot(QStringLiteral("order.log")), nullptr);
    d.key(Qt::Key_O);
    EXPECT_NE(d.window->easel()->drawing().hot(QStringLiteral("order.log")), nullptr);
}

TEST(HandTest, ALogIsGivenToAnotherOrder) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    const auto open = ordered(d, Action::RecordProof);
    ASSERT_GT(open.size(), 2U);
    RandomStream s(8, "given");
    std::vector<double> frames;
    const double mean = open.front().purpose == run::Purpose::ProofBefore ? 15.4 : 16.7;
    for (double t = 0; t < 75000; t += frames.back()) frames.push_back(mean + 0.4 * s.normal());
    d.drop({folder.write("run.csv", frameLog(frames))});
    const auto& run = d.view().session.facts->runs.back();
    ASSERT_EQ(d.view().session.orderOf(run)->id, open.front().id);
    d.key(Qt::Key_O);
    d.click(d.window->column(), QStringLiteral("run.answers"));
    ASSERT_NE(d.view().session.orderOf(run)->id, open.front().id);
    EXPECT_EQ(d.view().session.orderOf(run)->id, open[1].id);
    EXPECT_FALSE(d.view().session.leftOut(run));
    const auto now = path::openOrders(d.view().session);
    EXPECT_TRUE(std::any_of(now.begin(), now.end(), [&](const auto& o) { return o.id == open.front().id; }))
        << "the first one waits again";
    EXPECT_TRUE(std::none_of(now.begin(), now.end(), [&](const auto& o) { return o.id == open[1].id; }));
}

TEST(HandTest, OneTestRunWaitsAtATimeAndNoneOnceItIsEnough) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    const auto open = ordered(d, Action::RecordCosts);
    ASSERT_EQ(open.size(), 1U);
    d.click(d.window->easel(), QStringLiteral("order.skip.") + qs(open[0].id.hex()));
    d.rest();
    d.studio.primary();
    d.rest();
    const auto other = path::openOrders(d.view().session);
    if (d.view().step.action == Action::RecordCosts) {
        ASSERT_EQ(other.size(), 1U);
        EXPECT_NE(other[0].variant.values, open[0].variant.values) << "another one, where that cannot be set";
    }
    d.studio.apply(document::stopMeasuring(true));
    d.rest();
    EXPECT_TRUE(path::openOrders(d.view().session).empty());
    EXPECT_NE(d.view().step.action, Action::RecordCosts);
}

TEST(HandTest, OneLevelThatCannotBeSetIsPressedAndTakenBack) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    const auto open = ordered(d, Action::RecordCosts);
    ASSERT_EQ(open.size(), 1U);
    const auto& order = open.front();
    d.studio.go({"runs"});
    const auto level = cost::changedLevels(d.view().edits().settings.baseline, order.variant.values).at(0);
    const QString id = QStringLiteral("cannot.%1.%2").arg(qs(order.id.hex()), qs(level.setting));
    ASSERT_NE(d.window->easel()->drawing().hot(id), nullptr);
    expectTidy(d.window->easel()->drawing(), QSizeF(d.window->easel()->size()), "levels that may be barred");
    d.click(d.window->easel(), id);
    d.rest();
    EXPECT_TRUE(d.view().edits().settings.cannot.contains({level.setting, level.level}));
    EXPECT_TRUE(path::openOrders(d.view().session).empty());
    for (const auto& lane : d.view().get<results::Costs>()->lanes)
        EXPECT_EQ(lane.levels.runsThatMoved(level.setting), 0U) << "what was only ordered is not drawn as run";
    // In Layers its levels say so, and take it back.
    d.studio.go({"layers"});
    d.studio.activate(QStringLiteral("open.") + qs(level.setting));
    d.rest();
    for (const int step : {1, -1}) { // a step by hand goes over it
        d.studio.stepped(QStringLiteral("slab.gpu.") + qs(level.setting), step);
        d.rest();
        const auto& choice = d.view().edits().settings.choice;
        EXPECT_TRUE(!choice || choice->values.at(level.setting) != level.level);
    }
    const QString can = QStringLiteral("can.%1.%2").arg(qs(level.setting), qs(level.level));
    ASSERT_NE(d.window->easel()->drawing().hot(can), nullptr);
    d.click(d.window->easel(), can);
    d.rest();
    EXPECT_TRUE(d.view().edits().settings.cannot.empty());
}

TEST(HandTest, FiguresOfACounterAreTypedInPlaceOfALog) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.drop({support::dataFile("machines/thornbury-tower.toml"), support::dataFile("games/saltmarsh-courier.toml")});
    ASSERT_TRUE(d.spaceUntil(Action::RecordWarmUp));
    d.studio.apply(document::useRig(document::RigKind::Hand));
    run::Brief brief = *d.view().edits().goal.brief;
    brief.lowestLow.reset();
    d.studio.apply(document::setBrief(brief));
    d.rest();
    const auto type = [&](const char* field, const char* text) {
        d.studio.edited(QStringLiteral("off.") + QLatin1String(field), QLatin1String(text));
    };
    const auto order = [&] { return path::openOrders(d.view().session).front(); };
    const auto use = [&] {
        d.studio.activate(QStringLiteral("off.use.") + qs(order().id.hex()));
        d.rest();
    };
    d.studio.primary();
    d.rest();
    d.studio.go({"runs"});
    expectTidy(d.window->easel()->drawing(), QSizeF(d.window->easel()->size()), "an order with figures to type");
    use();
    EXPECT_TRUE(d.view().session.facts->runs.empty()) << "nothing was typed";
    type("average", "sixty");
    EXPECT_FALSE(d.view().message.isEmpty());
    type("average", "52,5");
    type("least", "70");
    use();
    EXPECT_TRUE(d.view().session.facts->runs.empty()) << "less cannot be more than the average";
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("least_fps")));
    type("least", "");
    use();
    ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
    EXPECT_DOUBLE_EQ(d.view().session.facts->runs.front().readOff->average.value(), 52.5);
    EXPECT_FALSE(d.view().state<RunsState>().readOff.average.has_value()) << "the next one starts empty";
    // To a result, whatever the game would show: faster the more is lowered, a cap holds.
    for (int i = 0; i < 60 && d.view().step.action != Action::Done; ++i) {
        ASSERT_NE(d.view().step.action, Action::SayBrief);
        if (d.view().step.action == Action::RecordCosts && d.view().session.facts->runs.size() >= 7) {
            d.studio.activate(QStringLiteral("measure.stop")); // good enough
            d.rest();
        }
        if (path::openOrders(d.view().session).empty()) {
            d.studio.primary();
            d.rest();
            continue;
        }
        const auto wanted = order();
        double ms = 11;
        for (const auto& setting : d.view().session.game()->settings) {
            const auto level = setting.levelIndex(wanted.variant.values.at(setting.id));
            ms += 0.9 * setting.weight * static_cast<double>(*level) / static_cast<double>(setting.levels.size() - 1) /
                  1.6;
        }
        if (wanted.variant.cap) ms = std::max(ms, 1000 / wanted.variant.cap->value());
        type("average", std::to_string(std::lround(1000 / ms)).c_str());
        type("least", std::to_string(static_cast<int>(960 / ms)).c_str());
        type("most", std::to_string(std::lround(1040 / ms)).c_str());
        use();
    }
    EXPECT_EQ(d.view().step.action, Action::Done);
    ASSERT_TRUE(d.view().edits().record.kept.has_value());
    EXPECT_TRUE(d.view().edits().record.kept->held());
    EXPECT_TRUE(d.view().get<proof::Proof>()->readOff);
    expectAllTidy(d, "figures read off");
    // It is one run like others: left out, undone, and there again when it is opened anew.
    const auto runs = d.view().session.facts->runs.size();
    d.studio.go({"runs"});
    d.studio.activate(QStringLiteral("run.count"));
    d.rest();
    EXPECT_TRUE(d.view().session.leftOut(*d.view().shownRun()).has_value());
    d.studio.undo();
    d.rest();
    Driven again(folder, true);
    EXPECT_EQ(again.view().session.facts->runs.size(), runs);
    EXPECT_EQ(again.view().session.facts->runs.back().readOff, d.view().session.facts->runs.back().readOff);
}

TEST(HandTest, WhatTheGamesFilesHoldIsHeldAgainstTheOrder) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    auto text = support::textOf(support::dataFile("games/saltmarsh-courier.toml"));
    text.insert(text.find("presets = ["), "config = [{ format = \"ini\", path = \"~/settings.ini\" }]\n");
    text.insert(text.find("id = \"shadows\""), "key = \"g/shadows\"\n");
    d.drop({support::dataFile("machines/thornbury-tower.toml"), folder.write("game.toml", text)});
    ASSERT_TRUE(d.spaceUntil(Action::RecordWarmUp));
    d.studio.apply(document::useRig(document::RigKind::Hand));
    d.rest();
    RandomStream s(5, "files");
    const auto drop = [&](const char* shadows, const char* name) {
        static_cast<void>(folder.write("settings.ini", fmt::format("[g]\nshadows={}\n", shadows)));
        if (path::openOrders(d.view().session).empty()) {
            d.studio.primary();
            d.rest();
        }
        std::vector<double> frames;
        for (double t = 0; t < 75000; t += frames.back()) frames.push_back(17 + 0.3 * s.normal());
        d.drop({folder.write(name, frameLog(frames))});
        d.rest();
    };
    drop("low", "a.csv");
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("Shadows low, not high"))) << d.view().message.toStdString();
    drop("high", "b.csv");
    EXPECT_FALSE(d.view().message.contains(QStringLiteral("The game's files"))) << d.view().message.toStdString();
    // A table of one rate a second answers an order like a counter.
    if (path::openOrders(d.view().session).empty()) {
        d.studio.primary();
        d.rest();
    }
    ASSERT_FALSE(path::openOrders(d.view().session).empty());
    std::string rates = "time_s,fps\n";
    for (int i = 0; i < 70; ++i) rates += fmt::format("{},{}\n", i, 70 + i % 9);
    const auto before = d.view().session.facts->runs.size();
    d.drop({folder.write("rates.csv", rates)});
    d.rest();
    ASSERT_EQ(d.view().session.facts->runs.size(), before + 1);
    const auto& run = d.view().session.facts->runs.back();
    ASSERT_TRUE(run.readOff.has_value());
    EXPECT_EQ(run.name, "rates.csv");
    EXPECT_DOUBLE_EQ(run.readOff->least->value(), 70);
    EXPECT_DOUBLE_EQ(run.readOff->most->value(), 78);
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("no list of frames"))) << d.view().message.toStdString();
}
