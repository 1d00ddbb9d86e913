// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/harness.h"

using namespace impasto;
using namespace impasto::app;

TEST(DropTest, ATableOfRatesIsDrawnAsSteps) {
    const support::TemporaryFolder folder;
    std::string rates = "time_s,fps\n";
    for (int i = 0; i < 70; ++i) rates += fmt::format("{},{}\n", i, i == 30 ? 31 : 70 + i % 9);
    Driven d(folder);
    d.drop({folder.write("rates.csv", rates)});
    d.rest();
    ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
    const auto& run = d.view().session.facts->runs.front();
    ASSERT_TRUE(run.readOff.has_value());
    EXPECT_EQ(run.readOff->rates.size(), 70U);
    EXPECT_EQ(run.readOff->stepMs, 1000);
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("no list of frames"))) << d.view().message.toStdString();
    const auto says = [&](const char* words) {
        const auto& shapes = d.window->easel()->drawing().shapes;
        return std::any_of(shapes.begin(), shapes.end(),
                           [&](const Shape& shape) { return shape.text == QLatin1String(words); });
    };
    EXPECT_TRUE(says("70 s")) << "the steps are drawn";
    EXPECT_TRUE(says("average 73.3 fps"));
}

TEST(DropTest, HowMuchOfALogIsReadIsTheUsersToSay) {
    std::string log = "frame_ms\n";
    for (int i = 0; i < 9000; ++i) log += "16.6\n";
    for (const std::size_t most : {2000U, 200000U}) {
        const support::TemporaryFolder folder;
        logs::ReadOptions reading;
        reading.mostRows = most;
        Driven d(folder, false, reading);
        d.drop({folder.write("long.csv", log)});
        d.rest();
        EXPECT_EQ(d.view().session.facts->runs.size(), most > 9000 ? 1U : 0U);
        EXPECT_EQ(d.view().message.contains(QStringLiteral("--most-rows")), most < 9000)
            << d.view().message.toStdString();
    }
}

TEST(DropTest, LogsInSixDialectsBecomeRuns) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    std::string commas = "frame time (ms)\n", semicolons = "n;time s;frame ms\n", tabs = "us\tcpu us\n", spaces,
                bars = "t|ms\n", stamps = "elapsed [s],scene\n";
    double at = 0;
    for (int i = 0; i < 600; ++i) {
        const double ms = 15 + (i * 7 % 11) * 0.3;
        at += ms;
        commas += fmt::format("{:.3f}\n", ms);
        std::string s = fmt::format("{};{:.5f};{:.3f}\n", i, at / 1000, ms);
        std::replace(s.begin(), s.end(), '.', ',');
        if (i < 599) semicolons += s; // no two are the same run
        tabs += fmt::format("{:.0f}\t{:.0f}\n", 1000 * ms, 700 * ms);
        spaces += fmt::format("{:.0f}\n", at * 1e6);
        if (i < 598) bars += fmt::format("{:.4f}|{:.3f}\n", at / 1000, ms);
        stamps += fmt::format("{:.6f},hill\n", at / 1000);
    }
    std::vector<std::filesystem::path> files;
    int n = 0;
    for (const auto& text : {commas, semicolons, tabs, spaces, bars, stamps})
        files.push_back(folder.write(fmt::format("log{}.txt", n++), text));
    const auto before = d.view().session.revision;
    d.drop(files);
    EXPECT_TRUE(d.view().message.isEmpty()) << d.view().message.toStdString();
    ASSERT_EQ(d.view().session.facts->runs.size(), 6U);
    EXPECT_EQ(d.view().session.revision, before + 1) << "a title, and all six as one revision";
    for (const auto& run : d.view().session.facts->runs) {
        EXPECT_NEAR(d.view().of<results::RunFigures>(run.id)->summary.average.value(), 60.6, 0.2) << run.name;
        EXPECT_TRUE(run.capture->notes.contains("dialect"));
    }
    EXPECT_EQ(d.view().station, StationId{"runs"});
    const auto shown = [&] { return results::idsOf<results::ShownRuns>(*d.view().results).size(); };
    EXPECT_EQ(shown(), 6U);
    d.key(Qt::Key_Z, Qt::ControlModifier);
    d.rest();
    EXPECT_EQ(shown(), 0U) << "undone: out of sight";
    EXPECT_EQ(d.view().session.facts->runs.size(), 6U) << "and never lost";
    d.key(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    d.rest();
    EXPECT_EQ(shown(), 6U);
}

TEST(DropTest, ABadLogIsSaidWithItsLineAndTheGoodOneKept) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.drop({folder.write("bad.csv", "frame_ms\n16\n17\noops\n16\n16\n"),
            folder.write("good.csv", frameLog(std::vector<double>(100, 16.6)))});
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("line 4"))) << d.view().message.toStdString();
    EXPECT_EQ(d.view().session.facts->runs.size(), 1U);
    d.key(Qt::Key_Escape);
    EXPECT_TRUE(d.view().message.isEmpty());
}

TEST(DropTest, ARunOfTheRealProgramsIsShownWithItsSpans) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.drop({support::testFile("logs/real-program-slow.csv")});
    ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
    d.key(Qt::Key_N);
    ASSERT_TRUE(d.view().span) << "the next hitch is selected";
    d.key(Qt::Key_Z);
    EXPECT_TRUE(d.view().zoomed);
    d.key(Qt::Key_0);
    EXPECT_FALSE(d.view().span);
}

TEST(DropTest, AMachineAndAGameAreOpenedAndBadOnesSaid) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.drop({support::dataFile("machines/curlew-pocket.toml"), support::dataFile("games/tin-harbour.toml")});
    ASSERT_NE(d.view().session.machine(), nullptr);
    ASSERT_NE(d.view().session.game(), nullptr);
    EXPECT_EQ(d.view().session.machine()->name, "Curlew pocket");
    EXPECT_EQ(d.view().session.game()->name, "Tin Harbour");
    EXPECT_EQ(d.view().station, StationId{"bench"});
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordBaseline)) << "and can be practised on at once";
    d.drop({folder.write("bad.toml", "name = \"x\"\n[panel]\nnative = \"wide\"\n")});
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("bad.toml"))) << d.view().message.toStdString();
    EXPECT_EQ(d.view().session.machine()->name, "Curlew pocket");
}
