// SPDX-License-Identifier: GPL-3.0-or-later
// This machine's sensors while another program writes its log: read beside it, kept with the run, left where another
// machine plays.
#include "app/harness.h"
#include "app/tidy.h"

#include <QtTest/QTest>
#include <impasto/logs/notes.h>

using namespace impasto;
using namespace impasto::app;

namespace {

/// A machine with one GPU that is at work, its CPU busier at every look.
void machineIn(const support::TemporaryFolder& folder) {
    const auto put = [&folder](const std::string& path, std::string_view text) {
        std::filesystem::create_directories(folder.path("system/" + path).parent_path());
        static_cast<void>(folder.write("system/" + path, text));
    };
    put("sys/bus/pci/devices/0000:01:00.0/class", "0x030000\n");
    put("sys/bus/pci/devices/0000:01:00.0/gpu_busy_percent", "96\n");
    put("proc/meminfo", "MemTotal: 16000000 kB\nMemAvailable: 12000000 kB\n");
    put("proc/stat", "cpu  100 0 0 900 0 0 0 0\ncpu0 100 0 0 900 0 0 0 0\n");
}

std::string rows(std::size_t count) {
    std::string out = "frame ms\n";
    for (std::size_t i = 0; i < count; ++i) out += i % 2 == 0 ? "10.2\n" : "9.8\n";
    return out;
}

/// Follows a log of so many frames until the readings are shown.
void follow(Driven& d, const std::filesystem::path& file, std::size_t frames, bool read) {
    d.studio.apply(document::setFollowRest(3600));
    d.studio.follow(file);
    ASSERT_TRUE(QTest::qWaitFor(
        [&] { return d.view().follow.frameMs.size() == frames && d.view().follow.sensors.tracks.empty() != read; },
        60000));
}

} // namespace

TEST(FollowTest, SensorsAreReadWhileALogIsWrittenAndKeptWithTheRun) {
    const support::TemporaryFolder folder;
    machineIn(folder);
    Driven d(folder);
    follow(d, folder.write("simulated.csv", rows(900)), 900, false); // a simulator plays this session
    d.studio.activate(QStringLiteral("follow.leave"));
    d.rest();
    d.key(Qt::Key_N, Qt::ControlModifier);
    const auto file = folder.write("log.csv", rows(900));
    follow(d, file, 900, true);
    d.studio.go(StationId{"runs"});
    EXPECT_NE(d.window->column()->drawing().hot(QStringLiteral("sensors.read")), nullptr);
    // In a small window too, with the details open.
    d.window->resize(1024, 640);
    d.key(Qt::Key_F1);
    ASSERT_TRUE(d.window->column()->isVisible());
    EXPECT_NE(d.window->column()->drawing().hot(QStringLiteral("sensors.read")), nullptr);
    expectTidy(d.window->column()->drawing(), QSizeF(d.window->column()->size()), "followed, in a small window");
    d.key(Qt::Key_F1);
    d.window->resize(1280, 800);
    ASSERT_TRUE(folder.write("log.csv", rows(6000)) == file);
    ASSERT_TRUE(QTest::qWaitFor([&] { return d.view().follow.frameMs.size() == 6000; }, 60000));
    d.click(d.window->ribbon(), QStringLiteral("follow.take"));
    d.rest();
    ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
    const auto capture = d.view().session.facts->runs.front().capture;
    const auto* load = capture->track(capture::Sensor::GpuLoad);
    ASSERT_NE(load, nullptr);
    for (const float v : load->values) EXPECT_EQ(v, 96);
    for (const double ms : load->timeMs) EXPECT_TRUE(ms >= 0 && ms <= capture::durationMs(*capture));
    const auto notes = logs::notesOf(*capture);
    const auto it =
        std::find_if(notes.begin(), notes.end(), [](const auto& n) { return n.kind == logs::NoteKind::SensorsBeside; });
    ASSERT_NE(it, notes.end());
    EXPECT_EQ(it->count, capture->tracks.size());
    // The load decides what frame times alone cannot.
    const auto& verdicts = results::verdictsOf(*d.view().results);
    ASSERT_FALSE(verdicts.empty());
    EXPECT_EQ(verdicts.front().brake, limits::Brake::Gpu);
    // Read another way, they stay.
    d.studio.import(
        {Log{file,
             logs::readLog(file)->notes.contains("dialect") ? logs::dialectOf(logs::readLog(file)->notes.at("dialect"))
                                                            : std::nullopt,
             {},
             d.view().session.facts->runs.front().id,
             {}}});
    d.rest();
    const auto& again = d.view().session.facts->runs.back();
    EXPECT_NE(again.capture->track(capture::Sensor::GpuLoad), nullptr);
}

TEST(FollowTest, NoneAreReadWhereAnotherMachinePlays) {
    const support::TemporaryFolder folder;
    machineIn(folder);
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    const auto file = folder.write("log.csv", rows(900));
    follow(d, file, 900, true);
    d.studio.go(StationId{"runs"});
    d.click(d.window->column(), QStringLiteral("sensors.read"));
    ASSERT_TRUE(QTest::qWaitFor([&] { return d.view().follow.sensors.tracks.empty(); }, 60000));
    d.click(d.window->ribbon(), QStringLiteral("follow.take"));
    d.rest();
    ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
    EXPECT_TRUE(d.view().session.facts->runs.front().capture->tracks.empty());
    EXPECT_TRUE(logs::notesOf(*d.view().session.facts->runs.front().capture).empty());
    d.key(Qt::Key_Z, Qt::ControlModifier); // the import
    d.key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(d.view().edits().runs.followSensors);
}
