// SPDX-License-Identifier: GPL-3.0-or-later
// Logs are looked at and corrected, trimmed by hand, drawn in other ways.
#include "app/harness.h"

#include <impasto/results/sets.h>

#include <QtTest/QTest>
#include <QtWidgets/QLineEdit>
#include <impasto/logs/import.h>

using namespace impasto;
using namespace impasto::app;

namespace {

/// Two columns that could both be the frame times.
std::string unclearLog(int rows = 300) {
    std::string text = "one;two\n";
    for (int i = 0; i < rows; ++i) text += fmt::format("{};{}\n", 10 + i % 9, 18 - i % 9);
    return text;
}

double averageOf(const Driven& d) {
    return d.view().of<results::RunFigures>(*d.view().run)->summary.average.value();
}

} // namespace

TEST(ReadingTest, AnUnclearLogIsCorrectedAndRemembered) {
    const support::TemporaryFolder folder;
    {
        Driven d(folder);
        d.drop({folder.write("log.csv", unclearLog())});
        ASSERT_TRUE(d.view().state<RunsState>().reading) << "what is not clear is asked";
        EXPECT_FALSE(d.view().state<RunsState>().reading->preview.begin.has_value());
        EXPECT_TRUE(d.view().session.facts->runs.empty());
        d.click(d.window->easel(), QStringLiteral("reading.column.1"));
        ASSERT_TRUE(d.view().state<RunsState>().reading->preview.begin.has_value());
        EXPECT_EQ(d.view().state<RunsState>().reading->preview.dialect.timeColumn, 1U);
        d.click(d.window->easel(), QStringLiteral("reading.take"));
        EXPECT_FALSE(d.view().state<RunsState>().reading);
        ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
        EXPECT_EQ(d.view().session.facts->runs.front().capture->framesMs[1], 17);
    }
    Driven again(folder); // another day
    again.drop({folder.write("other.csv", unclearLog())});
    EXPECT_FALSE(again.view().state<RunsState>().reading) << "it is read as it was corrected then";
    ASSERT_EQ(again.view().session.facts->runs.size(), 1U);
    EXPECT_EQ(again.view().session.facts->runs.front().capture->framesMs[1], 17);
}

TEST(ReadingTest, ARunIsReadAnotherWayAndUndoBringsItBack) {
    const support::TemporaryFolder folder;
    std::string text = "frame_ms,gpu busy ms\n";
    for (int i = 0; i < 400; ++i) text += fmt::format("{}.5,{}.25\n", 16 + i % 3, 10 + i % 3);
    Driven d(folder);
    d.drop({folder.write("log.csv", text)});
    const RunId first = *d.view().run;
    const double before = averageOf(d);
    d.click(d.window->column(), QStringLiteral("run.reading"));
    ASSERT_TRUE(d.view().state<RunsState>().reading);
    EXPECT_FALSE(d.window->easel()->drawing().hots.empty());
    // Every value of the sentence can be turned, by key and by press.
    for (const char* id : {"meaning", "unit", "gpu", "gpu_unit", "cpu", "delimiter", "decimal"}) {
        const QString hot = QStringLiteral("reading.") + QString::fromLatin1(id);
        if (d.window->easel()->drawing().hot(hot) == nullptr) continue;
        d.click(d.window->easel(), hot);
        ASSERT_TRUE(d.view().state<RunsState>().reading) << id;
    }
    d.key(Qt::Key_Escape);
    EXPECT_FALSE(d.view().state<RunsState>().reading);
    EXPECT_EQ(averageOf(d), before) << "nothing was changed";
    d.click(d.window->column(), QStringLiteral("run.reading"));
    d.click(d.window->easel(), QStringLiteral("reading.column.1"));
    d.studio.edited(QStringLiteral("reading.line"), QStringLiteral("102"));
    d.rest();
    d.click(d.window->easel(), QStringLiteral("reading.take"));
    EXPECT_NEAR(averageOf(d), 1000 / 11.25, 1);
    EXPECT_EQ(d.view().session.facts->run(*d.view().run)->capture->frames(), 300U);
    const auto& s = d.view().session;
    EXPECT_FALSE(s.shown(*s.facts->run(first))) << "it is the same log, read another way";
    d.key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(s.shown(*s.facts->run(first)));
}

TEST(ReadingTest, SeveralUnclearLogsAreCorrectedAtOnce) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.drop({folder.write("a.csv", unclearLog()), folder.write("b.csv", unclearLog(301)),
            folder.write("c.csv", unclearLog(302))});
    ASSERT_TRUE(d.view().state<RunsState>().reading);
    d.click(d.window->easel(), QStringLiteral("reading.column.1"));
    d.click(d.window->easel(), QStringLiteral("reading.take"));
    EXPECT_EQ(d.view().session.facts->runs.size(), 3U);
    EXPECT_FALSE(d.view().state<RunsState>().reading);
}

TEST(ReadingTest, WhatCannotBeReadSoIsShownAndLeftByTheNextPress) {
    const support::TemporaryFolder folder;
    std::string text = "frame_ms|gpu busy ms\n";
    for (int i = 0; i < 100; ++i) text += fmt::format("{}.5|{}.25\n", 16 + i % 3, 10 + i % 3);
    Driven d(folder);
    openReading(d.studio, folder.write("log.txt", text));
    d.rest();
    ASSERT_TRUE(d.view().state<RunsState>().reading && d.view().state<RunsState>().reading->preview.begin);
    for (int press = 0; press < 5; ++press) d.click(d.window->easel(), QStringLiteral("reading.delimiter"));
    ASSERT_TRUE(d.view().state<RunsState>().reading);
    EXPECT_EQ(d.view().state<RunsState>().reading->preview.dialect.delimiter, '|')
        << "round through those that do not part it";
    EXPECT_TRUE(d.view().state<RunsState>().reading->preview.begin.has_value());
    d.studio.edited(QStringLiteral("reading.line"), QStringLiteral("5000"));
    d.rest();
    EXPECT_FALSE(d.view().message.isEmpty());
    EXPECT_FALSE(d.view().state<RunsState>().reading->preview.rows.empty()) << "as before";
}

TEST(ReadingTest, AFileThatIsGoneIsSaid) {
    const support::TemporaryFolder folder;
    const auto file = folder.write("log.csv", frameLog(std::vector<double>(200, 16.6)));
    Driven d(folder);
    d.drop({file});
    std::filesystem::remove(file);
    d.click(d.window->column(), QStringLiteral("run.reading"));
    EXPECT_FALSE(d.view().state<RunsState>().reading);
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("log.csv"))) << d.view().message.toStdString();
}

TEST(ReadingTest, EdgesOfATrimAreDraggedAndStepped) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    std::vector<double> frames(1200, 16.0);
    frames.insert(frames.begin(), {900, 700});
    d.drop({folder.write("log.csv", frameLog(frames))});
    const RunId run = *d.view().run;
    ASSERT_EQ(d.view().of<results::RunFigures>(run)->shape->pollution.size(), 1U);
    auto* easel = d.window->easel();
    const auto place = [&](const char* id) {
        return easel->drawing().hot(QString::fromLatin1(id))->rect.center().toPoint();
    };
    ASSERT_NE(easel->drawing().hot(QStringLiteral("trim.0.end")), nullptr) << "a proposal can be taken by its edge";
    const QPoint from = place("trim.0.end");
    QTest::mousePress(easel, Qt::LeftButton, {}, from);
    QTest::mouseMove(easel, from + QPoint(30, 0));
    EXPECT_TRUE(d.view().edits().runs.trims.empty()) << "nothing is decided while it is dragged";
    QTest::mouseRelease(easel, Qt::LeftButton, {}, from + QPoint(60, 0));
    d.rest();
    ASSERT_EQ(d.view().edits().runs.trims.at(run).size(), 1U);
    const double end = d.view().edits().runs.trims.at(run)[0].toMs;
    EXPECT_NEAR(end, runsTime(d.view(), QSizeF(easel->size()))->value(from.x() + 60), 50);
    EXPECT_LT(d.view().of<results::RunFigures>(run)->summary.frames, 1200U);
    easel->setFocus();
    easel->focusOn(QStringLiteral("trim.0.end"));
    d.key(Qt::Key_Up);
    EXPECT_NEAR(d.view().edits().runs.trims.at(run)[0].toMs, end + 100, 1e-6);
    d.key(Qt::Key_Z, Qt::ControlModifier);
    d.key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(d.view().edits().runs.trims.empty());
}

TEST(ReadingTest, EveryPictureOfARunIsDrawnFromItsFrames) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    std::string text = "frame_ms,GPU load (%),scene,quality\n";
    for (int i = 0; i < 3000; ++i)
        text += fmt::format("{},{},{},{}\n", 14 + i % 5 + (i % 400 == 7 ? 30 : 0), 80 + i % 15,
                            i < 1500 ? "hill" : "shore", i % 4);
    d.drop({support::testFile("logs/real-program-slow.csv"), folder.write("log.csv", text)});
    d.key(Qt::Key_C);
    std::set<std::string> pictures;
    for (int picture = 0; picture < 2; ++picture) {
        for (const int key : {Qt::Key_L, Qt::Key_K, Qt::Key_K, Qt::Key_L, Qt::Key_K, Qt::Key_K}) {
            d.key(key);
            const auto& drawing = d.window->easel()->drawing();
            std::string mark;
            for (const auto& shape : drawing.shapes)
                for (const auto& point : shape.points) {
                    ASSERT_TRUE(std::isfinite(point.x()) && std::isfinite(point.y()));
                    mark += fmt::format("{:.0f} {:.0f} ", point.x(), point.y());
                }
            pictures.insert(mark);
        }
        d.key(Qt::Key_V);
    }
    EXPECT_TRUE(d.view().state<RunsState>().tail) << "closed and open again";
    EXPECT_GE(pictures.size(), 8U) << "scales and readings are seen";
    d.click(d.window->easel(), QStringLiteral("run.tail"));
    EXPECT_FALSE(d.view().state<RunsState>().tail);
}

TEST(ReadingTest, EveryColumnIsAStripWhoseMeaningIsStepped) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    std::string text = "first,second,third,scene\n";
    for (int i = 0; i < 400; ++i)
        text += fmt::format("{}.5,{}.5,{},{}\n", 16 + i % 3, 15 + (i + 1) % 4, 8 + i % 2, i < 200 ? "hill" : "shore");
    d.drop({folder.write("log.csv", text)}); // two columns could be the time: it is looked at
    const auto reading = [&]() -> const Reading& { return *d.view().state<RunsState>().reading; };
    ASSERT_NE(d.view().state<RunsState>().reading, nullptr);
    for (int c = 0; c < 4; ++c)
        EXPECT_NE(d.window->easel()->drawing().hot(QStringLiteral("reading.column.%1").arg(c)), nullptr) << c;
    d.click(d.window->easel(), QStringLiteral("reading.column.0"));
    d.rest();
    EXPECT_EQ(reading().preview.dialect.timeColumn, 0U);
    for (const bool kept : {true, false}) {
        d.click(d.window->easel(), QStringLiteral("reading.taken.2"));
        d.rest();
        const auto& others = reading().preview.dialect.others;
        EXPECT_EQ(std::any_of(others.begin(), others.end(), [](const auto& o) { return o.column == 2; }), kept);
    }
    EXPECT_EQ(reading().preview.dialect.cpuColumn, 2U) << "from left out to kept to CPU work";
    d.click(d.window->easel(), QStringLiteral("reading.taken.2"));
    d.rest();
    EXPECT_EQ(reading().preview.dialect.gpuColumn, 2U);
    EXPECT_FALSE(reading().preview.dialect.cpuColumn);
    d.click(d.window->easel(), QStringLiteral("reading.as.us"));
    d.rest();
    EXPECT_EQ(reading().preview.dialect.unit, logs::TimeUnit::Microseconds);
    d.click(d.window->easel(), QStringLiteral("reading.as.ms"));
    d.rest();
    d.click(d.window->easel(), QStringLiteral("reading.take"));
    d.rest();
    ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
    const auto& capture = *d.view().session.facts->runs[0].capture;
    EXPECT_EQ(capture.framesMs[1], 17.5);
    ASSERT_TRUE(capture.gpuWorkMs);
    EXPECT_EQ((*capture.gpuWorkMs)[1], 9);
    EXPECT_FALSE(capture.cpuWorkMs);
}

TEST(ReadingTest, LogsOfTwoVariantsAreAskedAboutAndNamed) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    std::vector<std::filesystem::path> files;
    for (int i = 0; i < 4; ++i) {
        std::vector<double> frames;
        for (int k = 0; k < 1500; ++k) frames.push_back((i < 2 ? 16 : 11) + 0.01 * i + 0.3 * (k % 5));
        files.push_back(folder.write(fmt::format("log{}.csv", i), frameLog(frames)));
    }
    d.drop(files);
    ASSERT_EQ(d.view().session.facts->runs.size(), 4U);
    EXPECT_TRUE(d.view().message.startsWith(QStringLiteral("2 variants?"))) << d.view().message.toStdString();
    EXPECT_EQ(results::idsOf<results::BaselineRuns>(*d.view().results).size(), 2U) << "never pooled";
    ASSERT_EQ(results::setsOf(d.view().session, *d.view().results).size(), 2U);
    // The chosen run's set is open; a press on the other opens that.
    const auto& runs = d.view().session.facts->runs;
    ASSERT_EQ(d.view().run, runs.back().id);
    const auto row = [&](std::size_t i) { return QStringLiteral("run.") + qs(runs[i].id.hex()); };
    EXPECT_NE(d.window->easel()->drawing().hot(row(2)), nullptr);
    EXPECT_EQ(d.window->easel()->drawing().hot(row(0)), nullptr);
    d.window->easel()->setFocus();
    d.key(Qt::Key_G); // a key and a name
    ASSERT_NE(d.window->column()->editor(), nullptr);
    QTest::keyClicks(d.window->column()->editor(), QStringLiteral("copy route off"));
    d.key(Qt::Key_Return);
    EXPECT_EQ(d.view().session.variantName(runs[3]), "copy route off");
    d.click(d.window->easel(), QStringLiteral("set.") + qs(runs[1].id.hex()));
    d.rest();
    EXPECT_EQ(d.view().run, runs[1].id);
    EXPECT_NE(d.window->easel()->drawing().hot(row(0)), nullptr);
    EXPECT_EQ(d.window->easel()->drawing().hot(row(3)), nullptr);
}

TEST(ReadingTest, AFollowedRunCountsBetweenItsMarks) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.apply(document::setFollowRest(3600));
    const auto file = folder.write("log.csv", frameLog(std::vector<double>(500, 10.0)));
    d.studio.follow(file);
    const auto grown = [&](std::size_t frames) {
        return QTest::qWaitFor([&] { return d.view().follow.frameMs.size() >= frames; }, 60000);
    };
    ASSERT_TRUE(grown(500));
    d.key(Qt::Key_M);
    ASSERT_TRUE(folder.write("log.csv", frameLog(std::vector<double>(1500, 10.0))) == file);
    ASSERT_TRUE(grown(1500));
    d.key(Qt::Key_M);
    ASSERT_TRUE(folder.write("log.csv", frameLog(std::vector<double>(1700, 10.0))) == file);
    ASSERT_TRUE(grown(1700));
    d.click(d.window->ribbon(), QStringLiteral("follow.take"));
    ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
    EXPECT_NEAR(d.view().of<results::RunFigures>(*d.view().run)->summary.durationMs, 10000, 30);
    EXPECT_EQ(d.view().session.facts->runs.front().capture->frames(), 1700U) << "the recording stays whole";
}

TEST(ReadingTest, WhatTwoStatesTellTogetherStandsBesideTheRun) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    std::vector<std::filesystem::path> files;
    for (int i = 0; i < 4; ++i) {
        std::string text = "frame_ms,cpu work (ms),gpu work (ms)\n";
        for (int k = 0; k < 1500; ++k) {
            const double swing = 0.1 * (k * 5 % 9) + 0.001 * i, gpu = 10 + swing;
            text += fmt::format("{:.3f},{:.3f},{:.3f}\n", gpu + (i < 2 ? 2.5 : 0.1), 6 + swing / 2, gpu);
        }
        files.push_back(folder.write(fmt::format("route{}.csv", i), text));
    }
    d.drop(files);
    ASSERT_EQ(results::setsOf(d.view().session, *d.view().results).size(), 2U);
    ASSERT_EQ(d.view().run, d.view().session.facts->runs.back().id);
    QString column;
    for (const auto& shape : d.window->column()->drawing().shapes) column += shape.text + QLatin1Char(' ');
    EXPECT_TRUE(column.contains(QStringLiteral("Against the baseline"))) << column.toStdString();
    EXPECT_TRUE(column.contains(QStringLiteral("as when frames are no longer copied"))) << column.toStdString();
}

TEST(ReadingTest, ThePictureIsSavedByItsEnding) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.drop({support::testFile("logs/real-program-slow.csv")});
    for (const auto& [name, begin] : {std::pair("a.svg", "<?xml"), {"a.png", "\x89PNG"}, {"a.tsv", "1 run"}}) {
        d.window->savePictureTo(folder.path(name));
        EXPECT_EQ(support::textOf(folder.path(name)).substr(0, std::string_view(begin).size()), begin);
    }
    EXPECT_NE(support::textOf(folder.path("a.svg")).find(">1% low"), std::string::npos) << "words are words in it";
    d.window->savePictureTo(folder.path("none/a.svg"));
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("none/a.svg"))) << d.view().message.toStdString();
}

TEST(ReadingTest, AJsonLogIsDroppedLikeAnyOther) {
    const support::TemporaryFolder folder;
    std::string text = "[";
    for (int i = 0; i < 200; ++i) text += fmt::format("{}{{\"frame_ms\": {}}}", i == 0 ? "" : ",", 16 + i % 3);
    Driven d(folder);
    d.drop({folder.write("log.json", text + "]")});
    EXPECT_TRUE(d.view().message.isEmpty()) << d.view().message.toStdString();
    EXPECT_NEAR(averageOf(d), 1000.0 / 17, 0.2);
}

TEST(ReadingTest, AColumnInForeignWordsIsTakenForASensor) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    std::string text = "Bildzeit (ms),Karte,Speicher GB,Zwischenbilder\n";
    for (int i = 0; i < 2000; ++i) text += fmt::format("{}.5,{},{}.25,{}\n", 16 + i % 3, 95 + i % 5, 5 + i % 2, i % 3);
    const auto file = folder.write("log.csv", text);
    openReading(d.studio, file);
    d.rest();
    const auto reading = [&]() -> const Reading& { return *d.view().state<RunsState>().reading; };
    ASSERT_NE(d.view().state<RunsState>().reading, nullptr);
    const auto takenFor = [&](std::size_t column) -> std::optional<logs::SensorColumn> {
        for (const auto& s : reading().preview.dialect.sensors)
            if (s.column == column) return s;
        return std::nullopt;
    };
    const auto until = [&](std::size_t column, capture::Sensor sensor) {
        for (int clicks = 0; clicks < 24; ++clicks) {
            if (takenFor(column) && takenFor(column)->sensor == sensor) return true;
            d.click(d.window->easel(), QStringLiteral("reading.taken.%1").arg(column));
            d.rest();
        }
        return false;
    };
    EXPECT_TRUE(until(1, capture::Sensor::GpuLoad));
    EXPECT_TRUE(until(2, capture::Sensor::GpuMemory));
    EXPECT_EQ(takenFor(2)->factor, 1024) << "its heading says GB";
    EXPECT_FALSE(until(2, capture::Sensor::GpuLoad)) << "another column is that";
    EXPECT_TRUE(until(2, capture::Sensor::GpuMemory));
    // And one for how many frames were invented with each.
    for (int clicks = 0; clicks < 24 && reading().preview.dialect.inventedColumn != 3U; ++clicks) {
        d.click(d.window->easel(), QStringLiteral("reading.taken.3"));
        d.rest();
    }
    EXPECT_EQ(reading().preview.dialect.inventedColumn, 3U);
    d.click(d.window->easel(), QStringLiteral("reading.take"));
    d.rest();
    ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
    const auto& capture = *d.view().session.facts->runs[0].capture;
    EXPECT_NEAR(capture::shownRate(capture).value(), 2 * 1000 / 17.5, 0.3);
    EXPECT_NEAR(*capture::trackMean(capture, capture::Sensor::GpuLoad), 97, 0.2);
    EXPECT_NEAR(*capture::trackMean(capture, capture::Sensor::GpuMemory), 5.75 * 1024, 20);
}
