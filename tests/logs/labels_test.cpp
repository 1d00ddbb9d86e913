// SPDX-License-Identifier: GPL-3.0-or-later
// What rows say of themselves: words before numbers, units behind them, the thread that a time is of, whether a frame
// was shown.
#include "logs/number.h"
#include "support/support.h"

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>
#include <impasto/wording/logs.h>

using namespace impasto;
using namespace impasto::logs;

namespace {

constexpr std::size_t labelledFrames = 300;

double labelledMs(std::size_t i) {
    return 15.4 + 0.371 * static_cast<double>((7 * i) % 5) + (i % 61 == 0 ? 11 : 0);
}

std::string labelledRows(const std::string& heading, const std::function<std::string(std::size_t, double ms)>& row) {
    std::string text = heading;
    for (std::size_t i = 0; i < labelledFrames; ++i) text += row(i, labelledMs(i)) + "\n";
    return text;
}

void expectFramesOf(const std::string& text) {
    const auto read = readLogText(text);
    ASSERT_TRUE(read.has_value()) << text.substr(0, 80) << static_cast<int>(read.error().code) << read.error().what;
    ASSERT_EQ(read->frames(), labelledFrames) << text.substr(0, 80);
    for (std::size_t i = 0; i < read->frames(); ++i)
        ASSERT_NEAR(read->framesMs[i], labelledMs(i), 0.002) << text.substr(0, 80);
}

std::optional<Note> noteOfKind(const std::string& text, NoteKind kind) {
    const auto read = readLogText(text);
    EXPECT_TRUE(read.has_value()) << text.substr(0, 80);
    if (!read) return std::nullopt;
    EXPECT_EQ(read->frames(), labelledFrames) << text.substr(0, 80);
    for (const auto& note : notesOf(*read))
        if (note.kind == kind) return note;
    return std::nullopt;
}

} // namespace

TEST(LabelsTest, AWordBeforeANumberInEveryRowIsItsHeading) {
    const auto refusedAs = [](const std::string& text, ErrorCode code) {
        const auto read = readLogText(text);
        ASSERT_FALSE(read.has_value()) << text.substr(0, 60) << " " << read->frames() << " frames";
        EXPECT_EQ(read.error().code, code) << text.substr(0, 60);
    };
    // Rates at the like of frame times in ms: 61 fps are not 61 ms.
    for (const char* label : {"FPS: ", "fps=  ", "FPS "})
        refusedAs(labelledRows("", [&](auto, double ms) { return fmt::format("{}{:.2f}", label, 1000 / ms); }),
                  ErrorCode::NotFrames);
    refusedAs(labelledRows("",
                           [](auto i, double ms) {
                               return fmt::format("[{:8.3f}] FPS: {:.2f}", 0.016 * static_cast<double>(i), 1000 / ms);
                           }),
              ErrorCode::NotFrames);
    refusedAs(labelledRows("", [](auto i, double) { return fmt::format("gpu load: {}", 90 + i % 9); }),
              ErrorCode::NoTimeColumn);
    for (const auto& text :
         {labelledRows(
              "",
              [](auto i, double ms) { return fmt::format("frame {} time {:.3f} ms gpu {:.3f} ms", i, ms, 0.9 * ms); }),
          labelledRows("", [](auto, double ms) { return fmt::format("dt: {:.3f} ms", ms); }),
          labelledRows("",
                       [](auto, double ms) { return fmt::format("FPS: {:.1f} frame time: {:.3f} ms", 1000 / ms, ms); }),
          labelledRows("", [](auto, double ms) { return fmt::format("frame time = {:.6f} s", ms / 1000); }),
          labelledRows(
              "", [](auto, double ms) { return fmt::format("draw: {:.0f} us frame: {:.0f} us", 900 * ms, 1000 * ms); }),
          // A word that says nothing of what follows it names nothing.
          labelledRows("", [](auto i, double ms) { return fmt::format("quarry,{},{:.3f}", i, ms); }),
          labelledRows("", [](auto i, double ms) { return fmt::format("{:.3f} ms {}", ms, i); })})
        expectFramesOf(text);
}

TEST(LabelsTest, UnitsBehindNumbersAreReadWhereNoOtherOneMayStandThere) {
    EXPECT_EQ(parseNumber("16,25 ms", true, true), 16.25);
    EXPECT_EQ(parseNumber("\"97 %\"", false, true), 97);
    EXPECT_EQ(parseNumber("61.5FPS", false, true), 61.5);
    EXPECT_EQ(parseNumber("1,016.5 ms", false, true), 1016.5);
    EXPECT_EQ(parseNumber("66 \xc2\xb0"
                          "C",
                          false, true),
              66);
    for (const char* none : {"1.02 s", "ms", "12 rows", "4 GB", "16.2 msec", "% 5", "3 GPUs", "7 ms 8", ""})
        EXPECT_FALSE(parseNumber(none, false, true)) << none;
    EXPECT_FALSE(parseNumber("16.2 ms", false)) << "where no column has units";
    expectFramesOf(labelledRows("n;Dauer;Last\n", [](auto i, double ms) {
        auto cell = fmt::format("{:.3f}", ms);
        cell[cell.find('.')] = ',';
        return fmt::format("{};{} ms;{} %", i, cell, 90 + i % 9);
    }));
    const auto loads = readLogText(
        labelledRows("frame time,gpu load\n", [](auto, double ms) { return fmt::format("{:.3f} ms,97 %", ms); }));
    ASSERT_TRUE(loads.has_value());
    EXPECT_NEAR(capture::trackMean(*loads, capture::Sensor::GpuLoad).value_or(0), 97, 1e-6);
    const auto kept = dialectOf(loads->notes.at("dialect"));
    ASSERT_TRUE(kept.has_value());
    EXPECT_TRUE(kept->unitsBehind);
    // A summary has units where the frames have none.
    const auto summary = readLogText(
        labelledRows("n,ms\n", [](auto i, double ms) { return fmt::format("{},{:.3f}", i, ms); }) + "usual,16.4 ms\n");
    ASSERT_TRUE(summary.has_value());
    EXPECT_EQ(summary->frames(), labelledFrames);
    // Where seconds stand between, the row is told: it would be a thousand times too short.
    const auto mixed = readLogText(labelledRows("n,dt\n", [](auto i, double ms) {
        return i == 200 ? std::string("200,1.02 s") : fmt::format("{},{:.3f} ms", i, ms);
    }));
    ASSERT_FALSE(mixed.has_value());
    EXPECT_EQ(mixed.error().code, ErrorCode::BadNumber);
    EXPECT_EQ(mixed.error().where.line, 202U);
}

TEST(LabelsTest, OfRowsThatCountTheSameFramesTheLongestIsTheFrame) {
    for (const bool frameLast : {false, true}) {
        const auto text = labelledRows("thread,frame,ms\n", [&](auto i, double ms) {
            const auto frame = fmt::format("render,{},{:.3f}", i, ms),
                       other = fmt::format("main,{},{:.3f}", i, 0.5 * ms);
            return frameLast ? other + "\n" + frame : frame + "\n" + other;
        });
        expectFramesOf(text);
        const auto note = noteOfKind(text, NoteKind::OtherProgram);
        ASSERT_TRUE(note.has_value());
        EXPECT_EQ(note->count, labelledFrames);
        EXPECT_EQ(note->firstLine, frameLast ? 2U : 3U);
        EXPECT_EQ(note->names.front().first, "main");
        EXPECT_FALSE(noteOfKind(text, NoteKind::TakenForTime)) << "the heading is the log's own";
    }
    expectFramesOf(labelledRows("frame,step,ms\n", [](auto i, double ms) {
        return fmt::format("{0},simulate,{1:.3f}\n{0},draw,{2:.3f}\n{0},total,{3:.3f}", i, 0.4 * ms, 0.5 * ms, ms);
    }));
    // Two GPUs that share the frames count them together.
    expectFramesOf(
        labelledRows("gpu,frame,ms\n", [](auto i, double ms) { return fmt::format("GPU{},{},{:.3f}", i % 2, i, ms); }));
    // So does a word that comes and goes.
    expectFramesOf(labelledRows("buffer,frame,ms\n", [](auto i, double ms) {
        return fmt::format("{},{},{:.3f}", i % 2 == 0 ? "front" : "back", i, ms);
    }));
}

TEST(LabelsTest, MinutesAndFiguresOfSeveralFramesAreNoFrameTimes) {
    double at = 0;
    expectFramesOf(labelledRows("elapsed (min),ms\n",
                                [&](auto, double ms) { return fmt::format("{:.8f},{:.3f}", (at += ms) / 60000, ms); }));
    expectFramesOf(labelledRows("max frame time,frame time\n",
                                [](auto, double ms) { return fmt::format("{:.3f},{:.3f}", 1.4 * ms, ms); }));
    const auto table = readLogText(labelledRows("second,avg frame time,min frame time\n", [](auto i, double ms) {
        return fmt::format("{},{:.3f},{:.3f}", i, ms, 0.8 * ms);
    }));
    ASSERT_FALSE(table.has_value());
    EXPECT_EQ(table.error().code, ErrorCode::NotFrames);
    // A word that only begins so is none.
    expectFramesOf(
        labelledRows("admin,frame minimal_x time\n", [](auto, double ms) { return fmt::format("x,{:.3f}", ms); }));
}

TEST(LabelsTest, TwoColumnsOfOneNameAreAskedAbout) {
    const auto read = readLogText(labelledRows("frame time (ms),frame time (ms)\n", [](auto i, double ms) {
        return fmt::format("{:.3f},{:.3f}", ms, 1.3 * ms + 0.2 * static_cast<double>(i % 7));
    }));
    ASSERT_FALSE(read.has_value());
    EXPECT_EQ(read.error().code, ErrorCode::AmbiguousColumns);
}

TEST(LabelsTest, FramesThatWereNeverShownAreTold) {
    for (const auto& text :
         {labelledRows("ms,dropped\n",
                       [](auto i, double ms) { return fmt::format("{:.3f},{}", ms, i % 10 == 3 ? 1 : 0); }),
          labelledRows("ms,displayed\n",
                       [](auto i, double ms) { return fmt::format("{:.3f},{}", ms, i % 10 == 3 ? "no" : "yes"); }),
          labelledRows("ms,Dropped?\n", [](auto i, double ms) {
              return fmt::format("{:.3f},{}", ms, i % 10 == 3 ? "True" : "False");
          })}) {
        const auto note = noteOfKind(text, NoteKind::NeverShown);
        ASSERT_TRUE(note.has_value()) << text.substr(0, 20);
        EXPECT_EQ(note->count, labelledFrames / 10);
        EXPECT_NE(wording::importNote(wording::Words(), *note).find("30 rows"), std::string::npos);
    }
    // Counts, figures and flags that never change say nothing of single frames.
    for (const auto& text :
         {labelledRows("ms,dropped frames\n", [](auto i, double ms) { return fmt::format("{:.3f},{}", ms, i / 100); }),
          labelledRows("ms,dropped\n", [](auto, double ms) { return fmt::format("{:.3f},0", ms); }),
          labelledRows("ms,displayed\n", [](auto, double ms) { return fmt::format("{:.3f},1", ms); }),
          labelledRows("ms,presented\n", [](auto, double ms) { return fmt::format("{:.3f},{:.2f}", ms, 1.2 * ms); })})
        EXPECT_FALSE(noteOfKind(text, NoteKind::NeverShown)) << text.substr(0, 20);
}

TEST(LabelsTest, SortedTimesAndOneEverySoOftenAreNoListOfFrames) {
    const auto refused = [](const std::string& text, const char* what) {
        const auto read = readLogText(text);
        ASSERT_FALSE(read.has_value()) << text.substr(0, 60) << " " << read->frames() << " frames";
        EXPECT_EQ(read.error().code, ErrorCode::NotFrames) << text.substr(0, 60);
        EXPECT_NE(read.error().what.find(what), std::string::npos) << read.error().what;
    };
    RandomStream s(4, "labels");
    std::vector<double> sorted;
    for (std::size_t i = 0; i < labelledFrames; ++i) sorted.push_back(16 + 1.2 * s.normal() + (i % 97 == 0 ? 20 : 0));
    const auto unsorted = sorted;
    std::sort(sorted.begin(), sorted.end());
    const auto columnOf = [](const char* heading, const std::vector<double>& values) {
        std::string text = heading;
        for (const double v : values) text += fmt::format("{:.4f}\n", v);
        return text;
    };
    for (const char* heading : {"", "frame_ms\n", "frame time (ms)\n", "ms\n"}) {
        refused(columnOf(heading, sorted), "order of size");
        EXPECT_TRUE(readLogText(columnOf(heading, unsorted)).has_value()) << heading;
    }
    refused(columnOf("frame time (ms)\n", {sorted.rbegin(), sorted.rend()}), "order of size");
    // A clock that begins somewhere is none, with a stall or two in it.
    double at = 4000;
    std::vector<double> clock;
    for (std::size_t i = 0; i < labelledFrames; ++i)
        clock.push_back((at += labelledMs(i) + (i == 100 ? 900 : 0)) / 1000);
    EXPECT_TRUE(readLogText(columnOf("", clock)).has_value());
    // Rows that a watching program wrote, each with the frame time at that moment.
    const auto watched = [](double stepS, const char* heading) {
        return labelledRows(heading, [stepS](auto i, double ms) {
            return fmt::format("{:.4f},{:.3f}", stepS * static_cast<double>(i) + 0.0007 * static_cast<double>(i % 3),
                               ms);
        });
    };
    refused(watched(0.1, "time (s),frame time (ms)\n"), "a frame time every 0.1 s");
    refused(watched(0.25, "elapsed_s,frametime_ms\n"), "a frame time every 0.25 s");
    EXPECT_TRUE(readLogText(watched(0.0167, "game time (s),frame time (ms)\n")).has_value()) << "of each frame";
    refused(labelledRows("frames,ms\n", [](auto, double ms) { return fmt::format("10,{:.3f}", 10 * ms); }),
            "10 frames a row");
    expectFramesOf(labelledRows("frames,ms\n", [](auto, double ms) { return fmt::format("1,{:.3f}", ms); }));
    expectFramesOf(labelledRows("frames in flight,ms\n", [](auto, double ms) { return fmt::format("2,{:.3f}", ms); }));
    // Words in the last rows that a column of numbers may hold.
    expectFramesOf(labelledRows("ms,fps\n", [](auto i, double ms) {
        return i + 3 > labelledFrames ? fmt::format("{:.3f},inf", ms) : fmt::format("{:.3f},{:.1f}", ms, 1000 / ms);
    }));
    refused(labelledRows("frame,average fps so far\n",
                         [](auto i, double ms) { return fmt::format("{},{:.2f}", i, 1000 / ms); }),
            "one rate a line");
}

TEST(LabelsTest, ARateBesideTheFrameTimesThatIsAnotherIsTold) {
    const auto beside = [](const char* heading, double factor) {
        return noteOfKind(
            labelledRows(heading,
                         [factor](auto, double ms) { return fmt::format("{:.3f},{:.1f}", ms, factor * 1000 / ms); }),
            NoteKind::RateApart);
    };
    const auto note = beside("frame time,fps\n", 2);
    ASSERT_TRUE(note.has_value()) << "with every second frame invented";
    EXPECT_EQ(note->names.front().first, "fps");
    EXPECT_NEAR(static_cast<double>(note->names.front().second), 2000 / 16.1, 6);
    EXPECT_NE(wording::importNote(wording::Words(), *note).find("invented"), std::string::npos);
    EXPECT_FALSE(beside("frame time,fps\n", 1));
    EXPECT_FALSE(beside("frame time,average fps\n", 1.05));
    for (const char* heading : {"frame time,fps limit\n", "frame time,max fps\n", "frame time,1% low fps\n"})
        EXPECT_FALSE(beside(heading, 0.5)) << heading;
}

TEST(LabelsTest, ThreadsAndDelaysAloneAreNoFrames) {
    const auto refused = [](const std::string& text) {
        const auto read = readLogText(text);
        ASSERT_FALSE(read.has_value()) << text.substr(0, 60);
        EXPECT_EQ(read.error().code, ErrorCode::NoTimeColumn) << text.substr(0, 60);
    };
    refused(labelledRows("game thread (ms),render thread (ms),gpu (ms)\n", [](auto, double ms) {
        return fmt::format("{:.3f},{:.3f},{:.3f}", 0.5 * ms, 0.7 * ms, 0.9 * ms);
    }));
    refused(labelledRows("input to photon (ms)\n", [](auto, double ms) { return fmt::format("{:.3f}", 2.5 * ms); }));
    expectFramesOf(labelledRows("frame (ms),game thread (ms),render thread (ms)\n", [](auto, double ms) {
        return fmt::format("{:.3f},{:.3f},{:.3f}", ms, 0.5 * ms, 1.2 * ms);
    }));
}
