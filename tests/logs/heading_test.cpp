// SPDX-License-Identifier: GPL-3.0-or-later
// What the heading of a column rules out, and what is asked where none does.
#include "support/support.h"

#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>

using namespace impasto;
using namespace impasto::logs;
using namespace impasto::support;

namespace {

/// Frames of about 16 ms, uneven.
double unevenMs(std::size_t i) {
    return 15.4 + 0.37 * static_cast<double>((7 * i) % 5) + (i % 61 == 0 ? 11 : 0);
}

std::string rowsOf(const char* heading, const std::function<std::string(std::size_t, double ms, double atMs)>& row) {
    std::string out = heading;
    double at = 0;
    for (std::size_t i = 0; i < 400; ++i) {
        out += row(i, unevenMs(i), at);
        at += unevenMs(i);
    }
    return out;
}

} // namespace

TEST(HeadingTest, WhatIsNoTimeByItsHeadingIsNoFrameTime) {
    for (const auto& text :
         {rowsOf("latency_ms\n", [](auto, double ms, auto) { return fmt::format("{:.2f}\n", 2.3 * ms); }),
          rowsOf("app,input lag (ms)\n", [](auto, double ms, auto) { return fmt::format("a,{:.2f}\n", 2.3 * ms); }),
          rowsOf("vblank_count\n", [](auto i, auto, auto) { return i % 9 == 0 ? "2\n" : "1\n"; }),
          // A clock that cannot be read beside a flag that is always one.
          rowsOf("stamp;x\n", [](auto, auto, double at) { return fmt::format("{:.0f}.000,0;1\n", at + 1); }),
          rowsOf("stamp;vsync\n", [](auto, auto, double at) { return fmt::format("1'{:06.0f};1\n", at); })}) {
        const auto read = readLogText(text);
        ASSERT_FALSE(read.has_value()) << text.substr(0, 60);
        EXPECT_EQ(read.error().code, ErrorCode::NoTimeColumn) << text.substr(0, 60);
    }
    // Beside a frame time they are kept, and a column of one value is read where it is said, or alone.
    const auto beside = readLogText(rowsOf(
        "frame_ms,latency_ms\n", [](auto, double ms, auto) { return fmt::format("{:.2f},{:.2f}\n", ms, 2.3 * ms); }));
    ASSERT_TRUE(beside.has_value());
    EXPECT_EQ(beside->framesMs.size(), 400U);
    EXPECT_NEAR(beside->framesMs[1], unevenMs(1), 0.006);
    for (const char* heading : {"frame time\n", "dt\n", ""}) {
        const auto flat = readLogText(rowsOf(heading, [](auto, auto, auto) { return "16\n"; }));
        ASSERT_TRUE(flat.has_value()) << heading;
        EXPECT_EQ(flat->framesMs.front(), 16) << heading;
    }
}

TEST(HeadingTest, LoadsWithoutAHeadingAreAskedAbout) {
    const auto row = [](std::size_t i, double ms, auto) {
        return fmt::format("{},{},{:.2f}\n", 90 + i % 9, 40 + i % 17, ms);
    };
    const auto read = readLogText(rowsOf("", row));
    ASSERT_FALSE(read.has_value());
    EXPECT_EQ(read.error().code, ErrorCode::AmbiguousColumns);
    // The work of both beside a frame is none.
    const auto work = [](auto, double ms, auto) {
        return fmt::format("{:.2f},{:.2f},{:.2f}\n", ms, 0.6 * ms, 0.9 * ms);
    };
    EXPECT_TRUE(readLogText(rowsOf("", work)).has_value());
}

TEST(HeadingTest, AClockOfTicksIsAskedAboutAndReadAsSaid) {
    const auto ticks = [](auto, auto, double at) { return fmt::format("{:.0f}\n", 6.4e14 + 1e4 * at); };
    const TemporaryFolder folder;
    const auto file = folder.write("log.csv", rowsOf("ticks\n", ticks));
    const auto read = readLog(file);
    ASSERT_FALSE(read.has_value());
    EXPECT_EQ(read.error().code, ErrorCode::UnclearUnit);
    auto dialect = previewLog(file)->dialect;
    dialect.unit = TimeUnit::Ticks;
    EXPECT_EQ(dialectOf(textOf(dialect)), dialect);
    ReadOptions options;
    options.dialect = dialect;
    const auto said = readLog(file, options);
    ASSERT_TRUE(said.has_value());
    ASSERT_EQ(said->framesMs.size(), 399U);
    for (std::size_t i = 0; i < 20; ++i) EXPECT_NEAR(said->framesMs[i], unevenMs(i), 0.002);
    // Frames in ms beside it settle it.
    const auto both = readLogText(rowsOf("ticks,frame_ms\n", [](auto, double ms, double at) {
        return fmt::format("{:.0f},{:.3f}\n", 6.4e14 + 1e4 * at, ms);
    }));
    ASSERT_TRUE(both.has_value());
    EXPECT_NEAR(both->framesMs[3], unevenMs(3), 0.002);
}

TEST(HeadingTest, AmongSeveralFrameTimesTheRenderedOneIsTaken) {
    for (const char* other : {"avg_frame_ms", "target frame (ms)", "frame_p99_ms", "displayed frame time"}) {
        const auto text = rowsOf(fmt::format("{},frame time\n", other).c_str(), [](auto, double ms, auto) {
            return fmt::format("{:.2f},{:.2f}\n", 0.2 * ms + 15.1, ms);
        });
        const auto read = readLogText(text);
        ASSERT_TRUE(read.has_value()) << other;
        for (std::size_t i = 0; i < 20; ++i) EXPECT_NEAR(read->framesMs[i], unevenMs(i), 0.006) << other;
    }
    // What was shown alone is what there is; averages alone are none.
    const auto one = [](auto, double ms, auto) { return fmt::format("{:.2f}\n", ms); };
    EXPECT_TRUE(readLogText(rowsOf("displayed frame time\n", one)).has_value());
    EXPECT_EQ(readLogText(rowsOf("ms (moving average of 60)\n", one)).error().code, ErrorCode::NoTimeColumn);
    // Work of a third kind beside that of CPU and GPU is no frame.
    const auto worn = readLogText(rowsOf("cpu_ms,gpu_ms,compositor_ms\n", [](auto, double ms, auto) {
        return fmt::format("{:.2f},{:.2f},{:.2f}\n", 0.5 * ms, 0.6 * ms, 0.1 * ms);
    }));
    ASSERT_FALSE(worn.has_value());
    EXPECT_EQ(worn.error().code, ErrorCode::AmbiguousColumns);
}

TEST(HeadingTest, ARowThatIsWrittenTwiceIsOneFrame) {
    const auto twice = [](auto, double ms, double at) {
        const auto row = fmt::format("{:.3f},{:.3f}\n", at, ms);
        return row + row;
    };
    const auto read = readLogText(rowsOf("time_ms,frame_ms\n", twice));
    ASSERT_TRUE(read.has_value());
    ASSERT_EQ(read->framesMs.size(), 400U);
    for (std::size_t i = 0; i < 400; ++i) EXPECT_NEAR(read->framesMs[i], unevenMs(i), 0.002);
    const auto notes = notesOf(*read);
    ASSERT_EQ(notes.size(), 1U);
    EXPECT_EQ(notes.front().kind, NoteKind::RepeatedStamp);
    EXPECT_EQ(notes.front().count, 400U);
    // Frames of one length are none written twice: their stamps go on; and a coarse clock says nothing.
    const auto even = readLogText(
        rowsOf("time_ms,frame_ms\n", [](std::size_t i, auto, auto) { return fmt::format("{},{}\n", 16 * i, 16); }));
    ASSERT_TRUE(even.has_value());
    EXPECT_EQ(even->framesMs.size(), 400U);
    const auto coarse = readLogText(rowsOf("time_s,frame_ms\n", [](std::size_t i, auto, auto) {
        return fmt::format("{:.2f},{}\n", std::floor(0.42 * static_cast<double>(i)) / 100, 4.2);
    }));
    ASSERT_TRUE(coarse.has_value());
    EXPECT_EQ(coarse->framesMs.size(), 400U);
}

TEST(HeadingTest, TwoThreadsOfOneProgramAreTwoRecordings) {
    const auto read = readLogText(rowsOf("tid,frame_ms\n", [](std::size_t i, double ms, auto) {
        return fmt::format("1204,{:.2f}\n", ms) + (i % 3 == 0 ? fmt::format("1207,{:.2f}\n", 3 * ms) : "");
    }));
    ASSERT_TRUE(read.has_value());
    EXPECT_EQ(read->framesMs.size(), 400U);
}

TEST(HeadingTest, AColumnIsTakenForASensorByHandWhereItsValuesCanBe) {
    using capture::Sensor;
    const std::vector<double> share{40, 95, 100}, gibibytes{5.5, 5.75, 6}, mebibytes{5600, 5800, 6100}, none{};
    const auto factor = [](Sensor sensor, std::string_view heading, const std::vector<double>& values) {
        const auto taken = logs::takenForSensor(sensor, 3, heading, values);
        return taken ? taken->factor : 0;
    };
    EXPECT_EQ(factor(Sensor::GpuLoad, "Karte", share), 1);
    EXPECT_EQ(factor(Sensor::GpuLoad, "Karte", mebibytes), 0) << "no share";
    EXPECT_EQ(factor(Sensor::GpuMemory, "Speicher", gibibytes), 1024);
    EXPECT_EQ(factor(Sensor::GpuMemory, "Speicher", mebibytes), 1);
    EXPECT_EQ(factor(Sensor::GpuMemory, "Speicher (MB)", gibibytes), 1) << "the heading's unit stands above it";
    EXPECT_EQ(factor(Sensor::SystemMemory, "Speicher (KB)", mebibytes), 1.0 / 1024);
    EXPECT_EQ(factor(Sensor::GpuTemperature, "Grad", share), 1);
    EXPECT_EQ(factor(Sensor::GpuTemperature, "Grad", {60, 190}), 0) << "nothing is so hot";
    EXPECT_EQ(factor(Sensor::GpuPower, "", {120, -3}), 0);
    EXPECT_EQ(factor(Sensor::Fan, "", none), 0) << "no value";
    EXPECT_EQ(factor(Sensor::GpuClock, "Takt", share), 0) << "of what highest clock, no log tells";
    EXPECT_EQ(factor(Sensor::GpuMhz, "Takt", {1900, 2100}), 1);
    EXPECT_EQ(factor(Sensor::GpuMhz, "Takt", {1.9, 2.1}), 1000);
    EXPECT_EQ(factor(Sensor::GpuMhz, "Takt", share), 0);
}

TEST(HeadingTest, TheGreatestOfSeveralColumnsIsTheTimeOnlyWhereAHeadingSaysSo) {
    const auto log = [](const char* heading) {
        return rowsOf(heading, [](std::size_t i, double ms, double) {
            return fmt::format("{:.3f},{:.1f},{:.2f}\n", ms, 93 + 0.7 * static_cast<double>(i % 9),
                               5 + 0.25 * static_cast<double>(i % 2));
        });
    };
    const auto named = readLogText(log("Bildzeit (ms),Karte,Speicher GB\n"));
    ASSERT_TRUE(named.has_value()) << named.error().what;
    EXPECT_NEAR(named->framesMs[1], unevenMs(1), 0.001) << "one heading has a unit of time";
    for (const char* heading : {"Bildzeit,Karte,Speicher\n", "one,two,three\n"}) { // loads, watts, degrees: who knows
        const auto unclear = readLogText(log(heading));
        ASSERT_FALSE(unclear.has_value()) << heading;
        EXPECT_EQ(unclear.error().code, ErrorCode::AmbiguousColumns) << heading;
    }
    EXPECT_NEAR(readLogText(log("frame time,two,three\n"))->framesMs[1], unevenMs(1), 0.001);
}

namespace {

std::optional<double> meanSensor(const std::string& text, capture::Sensor sensor) {
    const auto read = readLogText(text);
    EXPECT_TRUE(read.has_value()) << text.substr(0, 60);
    return read ? capture::trackMean(*read, sensor) : std::nullopt;
}

} // namespace

TEST(HeadingTest, ReadingsAreTakenInTheirUnits) {
    const auto one = [](const char* heading, double from, double to) {
        return rowsOf(heading, [=](std::size_t i, double ms, auto) {
            return fmt::format("{:.2f},{:.3f}\n", ms, from + (to - from) * static_cast<double>(i % 10) / 9);
        });
    };
    using capture::Sensor;
    EXPECT_NEAR(*meanSensor(one("frame_ms,gpu load\n", 0.95, 0.99), Sensor::GpuLoad), 97, 0.1);
    EXPECT_NEAR(*meanSensor(one("frame_ms,gpu load %\n", 95, 99), Sensor::GpuLoad), 97, 0.1);
    EXPECT_NEAR(*meanSensor(one("frame_ms,gpu load\n", 0, 9), Sensor::GpuLoad), 4.5, 0.1) << "of one at rest";
    EXPECT_NEAR(*meanSensor(one("frame_ms,gpu power mW\n", 90000, 110000), Sensor::GpuPower), 100, 0.5);
    EXPECT_NEAR(*meanSensor(one("frame_ms,gpu power W\n", 90, 110), Sensor::GpuPower), 100, 0.5);
    EXPECT_NEAR(*meanSensor(one("frame_ms,gpu memory\n", 7, 8), Sensor::GpuMemory), 7.5 * 1024, 5);
    EXPECT_NEAR(*meanSensor(one("frame_ms,gpu memory\n", 7000, 8000), Sensor::GpuMemory), 7500, 5);
    EXPECT_NEAR(*meanSensor(one("frame_ms,gpu memory bytes\n", 7e9, 8e9), Sensor::GpuMemory), 7.5e9 / 1048576, 5);
    EXPECT_NEAR(*meanSensor(one("frame_ms,gpu temp C\n", 60, 70), Sensor::GpuTemperature), 65, 0.1);
    // Clocks, of a chip and not of its memory.
    EXPECT_NEAR(*meanSensor(one("frame_ms,GPU core clock\n", 1900, 2100), Sensor::GpuMhz), 2000, 1);
    EXPECT_NEAR(*meanSensor(one("frame_ms,cpu freq (GHz)\n", 4.2, 4.6), Sensor::CpuMhz), 4400, 5);
    EXPECT_NEAR(*meanSensor(one("frame_ms,gpu frequency Hz\n", 1.9e9, 2.1e9), Sensor::GpuMhz), 2000, 1);
    EXPECT_NEAR(*meanSensor(one("frame_ms,cpu clock\n", 3.9, 4.1), Sensor::CpuMhz), 4000, 1);
    for (const char* heading : {"frame_ms,gpu memory clock\n", "frame_ms,gpu clock limit\n",
                                "frame_ms,cpu base clock\n", "frame_ms,refresh freq\n", "frame_ms,gpu clock %\n"})
        EXPECT_FALSE(meanSensor(one(heading, 1900, 2100), Sensor::GpuMhz)) << heading;
    EXPECT_FALSE(meanSensor(one("frame_ms,gpu clock\n", 40, 60), Sensor::GpuMhz)) << "a share, or one at rest";
    for (const char* heading : {"frame_ms,gpu temp F\n",
                                "frame_ms,gpu temp (\xc2\xb0"
                                "F)\n",
                                "frame_ms,gpu temp K\n"})
        EXPECT_FALSE(meanSensor(one(heading, 110, 120), Sensor::GpuTemperature)) << heading;
}

TEST(HeadingTest, OfSeveralGpusTheOneAtWorkIsRead) {
    using capture::Sensor;
    const auto log = [](const char* heading) {
        return rowsOf(heading, [](std::size_t i, double ms, auto) { // idle and hot beside what works, and cores
            return fmt::format("{:.2f},{},{},{},{},{},{}\n", ms, 2 + i % 3, 80, 95 + i % 4, 65, 30 + i % 5, 60 + i % 5);
        });
    };
    const auto text = log("frame_ms,GPU 0 load %,GPU 0 temp C,GPU 1 load %,GPU 1 temp C,CPU 0 load %,CPU 1 load %\n");
    EXPECT_NEAR(*meanSensor(text, Sensor::GpuLoad), 96.5, 0.1);
    EXPECT_NEAR(*meanSensor(text, Sensor::SecondGpuLoad), 3, 0.1) << "beside it";
    EXPECT_NEAR(*meanSensor(text, Sensor::GpuTemperature), 65, 0.1) << "of the same one";
    EXPECT_FALSE(meanSensor(text, Sensor::CpuLoad)) << "a core is not the whole";
    EXPECT_NEAR(*meanSensor(text, Sensor::BusiestCore), 62, 0.1) << "the greater of them, row by row";
    // Several readings of one GPU: the first; and a load of the whole CPU beside those of its cores.
    const auto single =
        log("frame_ms,GPU load %,GPU temp C,CPU load %,GPU hot spot temp C,CPU 0 load %,CPU 1 load %\n");
    EXPECT_NEAR(*meanSensor(single, Sensor::GpuTemperature), 80, 0.1);
    EXPECT_NEAR(*meanSensor(single, Sensor::CpuLoad), 96.5, 0.1);
    EXPECT_FALSE(meanSensor(single, Sensor::SecondGpuLoad));
}

TEST(HeadingTest, TheBusiestCoreIsReadByNameOrFromThoseOfAllCores) {
    using capture::Sensor;
    const auto log = [](const char* heading) {
        return rowsOf(heading, [](std::size_t i, double ms, auto) { // a thread that is moved from core to core
            return fmt::format("{:.2f},{},{},{}\n", ms, i / 40 % 2 == 0 ? 94 : 12, i / 40 % 2 == 0 ? 12 : 94,
                               30 + i % 3);
        });
    };
    for (const char* heading :
         {"frame_ms,CPU0 usage %,CPU1 usage %,CPU2 usage %\n", "frame_ms,core 1 load,core 2 load,core 3 load\n",
          "frame_ms,CPU Thread #1 %,CPU Thread #2 %,CPU Thread #3 %\n"}) {
        EXPECT_NEAR(meanSensor(log(heading), Sensor::BusiestCore).value_or(0), 94, 0.5) << heading;
        EXPECT_FALSE(meanSensor(log(heading), Sensor::CpuLoad)) << heading;
    }
    const auto named = log("frame_ms,busiest core load %,other,CPU load %\n");
    EXPECT_NEAR(meanSensor(named, Sensor::BusiestCore).value_or(0), 53, 3);
    EXPECT_NEAR(meanSensor(named, Sensor::CpuLoad).value_or(0), 31, 0.1);
    EXPECT_FALSE(meanSensor(log("frame_ms,GPU core load %,x,y\n"), Sensor::BusiestCore));
    // As it is written down, it is read again.
    const auto text = log("frame_ms,CPU0 usage %,CPU1 usage %,CPU2 usage %\n");
    const auto read = readLogText(text);
    ASSERT_TRUE(read.has_value());
    const auto dialect = dialectOf(read->notes.at("dialect"));
    ASSERT_TRUE(dialect.has_value());
    EXPECT_EQ(dialect->sensors.size(), 3U);
    EXPECT_EQ(textOf(*dialect), read->notes.at("dialect"));
}
