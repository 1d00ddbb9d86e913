// SPDX-License-Identifier: GPL-3.0-or-later
// What Limits says stands behind a bottleneck, and the run that would decide.
#include "app/tidy.h"
#include "support/swinging.h"

#include <impasto/pace/pipeline.h>

using namespace impasto;
using namespace impasto::app;

namespace {

bool says(const Drawing& drawing, const char* words) {
    return std::any_of(drawing.shapes.begin(), drawing.shapes.end(),
                       [words](const Shape& s) { return s.text.contains(QLatin1String(words)); });
}

QString wordsIn(const Picture* picture) {
    QString all; // words run over lines
    for (const auto& shape : picture->drawing().shapes) all += shape.text + QLatin1Char(' ');
    return all;
}

/// A laptop with quiet fans after its baseline, at Limits.
bool onAQuietLaptop(Driven& d) {
    d.studio.startPractice();
    d.rest();
    if (!d.studio.openDescription(support::dataFile("machines/whinbush-laptop.toml"))) return false;
    d.rest();
    d.studio.apply(document::setState("conditions.fans", "quiet"));
    d.rest();
    if (!d.spaceUntil(path::Action::RecordCosts)) return false;
    d.studio.go({"limits"});
    d.rest();
    return true;
}

} // namespace

TEST(LimitsStationTest, AHotLaptopIsToldAndTheFansUndoIt) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(onAQuietLaptop(d));
    EXPECT_TRUE(says(d.window->easel()->drawing(), "Behind it: heat of the GPU"));
    EXPECT_TRUE(says(d.window->easel()->drawing(), "turn the fans up"));
    expectTidy(d.window->easel()->drawing(), QSizeF(d.window->easel()->size()), "limits");
    d.studio.apply(document::setState("conditions.fans", "full"));
    d.rest();
    ASSERT_EQ(d.view().step.action, path::Action::RecordBaseline);
    d.studio.primary();
    d.rest();
    d.studio.go({"limits"});
    d.rest();
    EXPECT_FALSE(says(d.window->easel()->drawing(), "Behind it: heat")) << "what the test was for";
}

TEST(LimitsStationTest, ADecidingRunIsOnePressAndStaysAsEvidence) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(onAQuietLaptop(d));
    const auto runs = d.view().session.facts->runs.size();
    d.click(d.window->column(), QStringLiteral("decide.fans-up"));
    ASSERT_EQ(d.view().session.facts->runs.size(), runs + 1);
    EXPECT_EQ(d.view().station, (StationId{"limits"})) << "its answer is seen where it was asked";
    for (const auto& v : results::verdictsOf(*d.view().results)) {
        ASSERT_EQ(v.tested.size(), 1U);
        EXPECT_EQ(v.tested.front().answer, limits::Answer::Yes) << v.part;
    }
    EXPECT_EQ(d.window->column()->drawing().hot(QStringLiteral("decide.fans-up")), nullptr) << "it is decided";
    EXPECT_TRUE(says(d.window->column()->drawing(), "fps"));
    EXPECT_TRUE(says(d.window->easel()->drawing(), "nearly sure"));
    expectAllTidy(d, "decided");
    // The next step is what it was: a deciding run is no cost run.
    EXPECT_EQ(d.view().step.action, path::Action::RecordCosts);
    // Opened again it is still there.
    const auto id = d.view().session.id;
    d.studio.openSession(id);
    d.rest();
    EXPECT_EQ(results::verdictsOf(*d.view().results).front().tested.size(), 1U);
    // By hand it is an order that waits, with its own steps.
    d.studio.apply(document::useRig(document::RigKind::Hand));
    d.rest();
    d.studio.go({"limits"});
    d.rest();
    d.click(d.window->column(), QStringLiteral("decide.lower-resolution"));
    EXPECT_EQ(d.view().station, (StationId{"runs"}));
    const auto open = path::openOrders(d.view().session);
    ASSERT_FALSE(open.empty());
    EXPECT_TRUE(std::any_of(open.begin(), open.end(), [](const auto& o) { return o.purpose == run::Purpose::Test; }));
    expectAllTidy(d, "a deciding order");
}

TEST(LimitsStationTest, UndoWhileADecidingRunIsRecordedAfterTheResultWasSaved) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::Done));
    d.studio.go({"limits"});
    d.rest();
    const auto offered = path::offeredTests(d.view().session, *d.view().results);
    ASSERT_FALSE(offered.empty());
    d.studio.decide(offered.front());
    d.studio.undo(); // of the saved result, in the midst of the recording
    d.rest();
    EXPECT_FALSE(d.view().edits().record.kept.has_value());
    EXPECT_EQ(d.view().step.action, path::Action::KeepResult);
}

TEST(LimitsStationTest, TheLadderStandsUnderThePartsOrInTheirPlace) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordCosts));
    d.studio.decide(limits::DecidingTest::LowerResolution);
    d.rest();
    ASSERT_NE(d.view().get<results::Ladders>(), nullptr);
    d.window->resize(1280, 800);
    d.studio.go({"limits"});
    d.rest();
    EXPECT_TRUE(says(d.window->easel()->drawing(), "Resolution ladder"));
    EXPECT_TRUE(says(d.window->easel()->drawing(), "CPU ceiling"));
    EXPECT_TRUE(says(d.window->column()->drawing(), "GPU 20% faster"));
    d.window->resize(1024, 640);
    d.rest();
    EXPECT_FALSE(says(d.window->easel()->drawing(), "Resolution ladder"));
    d.key(Qt::Key_V);
    EXPECT_TRUE(says(d.window->easel()->drawing(), "Resolution ladder"));
    expectTidy(d.window->easel()->drawing(), QSizeF(d.window->easel()->size()), "ladder, low");
    d.key(Qt::Key_V);
    EXPECT_FALSE(says(d.window->easel()->drawing(), "Resolution ladder"));
}

TEST(LimitsTest, WhatIfIsAskedByAnotherShare) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_Space);
    d.rest();
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordCosts));
    d.studio.go({"limits"});
    d.rest();
    const auto rate = [&](double by) {
        const auto* limits = d.view().get<results::Limits>();
        const auto slowest = results::slowestOf(*d.view().results) - limits->parts.data();
        for (const auto& each : limits->whatIfs.at(static_cast<std::size_t>(slowest)))
            if (each.change == limits::Change::GpuFaster && each.by == by) return each.rate.value();
        return 0.0;
    };
    for (const double by : {0.2, 0.3, 0.5, 0.1}) {
        QString all;
        for (const auto& shape : d.window->column()->drawing().shapes) all += shape.text + QLatin1Char(' ');
        const QString name = QString::number(std::lround(100 * by)) + QStringLiteral("%");
        EXPECT_TRUE(all.contains(QStringLiteral("GPU ") + name + QStringLiteral(" faster"))) << by;
        EXPECT_TRUE(all.contains(QString::fromStdString(wording::fps(rate(by))).left(3))) << by << ": " << rate(by);
        if (by == 0.2)
            d.click(d.window->column(), QStringLiteral("limits.faster"));
        else
            d.key(Qt::Key_F);
        d.rest();
    }
    expectAllTidy(d, "what if");
}

TEST(LimitsStationTest, WhatASecondGpuHoldsIsNamedFromTheLogAlone) {
    const support::TemporaryFolder folder;
    const auto machine = support::machineNamed("fenwick-duo.toml");
    const auto game = support::saltmarsh();
    run::Order order;
    order.variant.values = game.presets.front().values;
    order.variant.resolution = machine.panel.native;
    order.variant.generation = {run::GenerationKind::External, 4, {}, true};
    order.route = game.routes.front().name;
    order.seconds = game.routes.front().seconds();
    const auto rig = rig_sim::simulatedRig(support::originals(), machine, game);
    ASSERT_TRUE(rig.has_value());
    const auto made = (*rig)->record(order, {1.0}, {}, {});
    ASSERT_TRUE(made.has_value());
    Driven d(folder);
    d.drop({folder.write("log.csv", logs::writeCsv(made->capture))});
    d.studio.go({"limits"});
    d.rest();
    EXPECT_TRUE(wordsIn(d.window->easel()).contains(QStringLiteral("Held by frame generation, nearly sure")));
    EXPECT_TRUE(wordsIn(d.window->path()).contains(QStringLiteral("GPU in 1, rest in 2")));
    expectTidy(d.window->easel()->drawing(), QSizeF(d.window->easel()->size()), "limits");
    d.studio.go({"runs"});
    d.rest();
    EXPECT_FALSE(says(d.window->column()->drawing(), "capped or synced"));
    EXPECT_TRUE(says(d.window->column()->drawing(), "Second GPU 9"));
    expectTidy(d.window->easel()->drawing(), QSizeF(d.window->easel()->size()), "runs");
}

namespace {

/// A log of a pipeline with one frame in flight, with a cap where one is said.
std::string oneInFlight(std::optional<double> limiterMs) {
    pace::Pipeline pipeline;
    pipeline.framesInFlight = limiterMs ? 3 : 1;
    pipeline.limiterMs = limiterMs;
    const auto cpu = support::swinging(7, 0.08, 2500, 5, "cpu"), gpu = support::swinging(9, 0.08, 2500, 5, "gpu");
    const auto frames = pace::shownIntervals(pace::simulate(pipeline, cpu, gpu));
    std::string out = "frame_ms,cpu_work_ms,gpu_work_ms\n";
    for (std::size_t i = 0; i < frames.size(); ++i)
        out += fmt::format("{:.3f},{:.3f},{:.3f}\n", frames[i], cpu[i + 1], gpu[i + 1]);
    return out;
}

} // namespace

TEST(LimitsStationTest, WhatHoldsFramesThatNoLaneFillsIsTold) {
    const support::TemporaryFolder folder;
    Driven turns(folder);
    turns.drop({folder.write("turns.csv", oneInFlight({}))});
    turns.studio.go({"limits"});
    turns.rest();
    EXPECT_TRUE(wordsIn(turns.window->easel()).contains(QStringLiteral("Held by CPU and GPU taking turns")));
    EXPECT_TRUE(wordsIn(turns.window->easel()).contains(QStringLiteral("low-latency mode")));
    EXPECT_TRUE(wordsIn(turns.window->easel()).contains(QStringLiteral("over its safe limit")))
        << "both fill the frame";
    EXPECT_FALSE(wordsIn(turns.window->column()).contains(QStringLiteral("room")));
    for (const auto size : {QSize(1280, 800), QSize(1024, 640)}) {
        turns.window->resize(size);
        turns.rest();
        expectTidy(turns.window->easel()->drawing(), QSizeF(turns.window->easel()->size()), "limits");
    }
    const support::TemporaryFolder other;
    Driven held(other);
    held.drop({other.write("held.csv", oneInFlight(14.0))});
    held.studio.go({"limits"});
    held.rest();
    EXPECT_TRUE(wordsIn(held.window->easel()).contains(QStringLiteral("Held at one rate")));
    EXPECT_TRUE(wordsIn(held.window->easel()).contains(QStringLiteral("turn off every cap and sync")));
    expectTidy(held.window->easel()->drawing(), QSizeF(held.window->easel()->size()), "limits");
}
