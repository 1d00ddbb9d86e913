// SPDX-License-Identifier: GPL-3.0-or-later
// Several recordings in one log: rows that take turns are told apart by what is in them, those that follow one another
// by their clock; and what is none of that stays one recording.
#include "support/support.h"

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>
#include <impasto/stats/stats.h>
#include <impasto/wording/logs.h>

using namespace impasto;
using namespace impasto::logs;

namespace {

struct Frame {
    double at = 0, ms = 0; // its end, from the start of its own recording
    int of = 0;
};

/// Frames of recordings at some rates, in the order of time.
std::vector<Frame> turns(std::initializer_list<double> fps, double seconds = 12) {
    RandomStream s(9, "turns");
    std::vector<Frame> out;
    int of = 0;
    for (const double rate : fps) {
        for (double at = 0; at < 1000 * seconds;) {
            const double ms = 1000 / rate * (1 + 0.03 * s.normal());
            at += ms;
            out.push_back({at, ms, of});
        }
        ++of;
    }
    std::stable_sort(out.begin(), out.end(), [](const Frame& a, const Frame& b) { return a.at < b.at; });
    return out;
}

std::string logOf(const std::string& heading, const std::vector<Frame>& frames,
                  const std::function<std::string(const Frame&)>& row) {
    std::string text = heading + "\n";
    for (const auto& frame : frames) text += row(frame) + "\n";
    return text;
}

double averageOf(const capture::Capture& c) {
    return 1000 * static_cast<double>(c.frames()) / capture::durationMs(c);
}

std::optional<Note> noteOf(const capture::Capture& capture, NoteKind kind) {
    for (const auto& note : notesOf(capture))
        if (note.kind == kind) return note;
    return std::nullopt;
}

} // namespace

TEST(SeveralTest, RowsThatTakeTurnsAreSplitWhateverTheHeadingSays) {
    const auto frames = turns({60, 25});
    const std::vector<std::pair<const char*, std::function<std::string(const Frame&)>>> dialects{
        // The frame times of each fill the time alone.
        {"stamp_s,frame_ms,lane",
         [](const Frame& f) { return fmt::format("{:.6f},{:.3f},{}", f.at / 1000, f.ms, f.of); }},
        {"who;t;ms",
         [](const Frame& f) {
             return fmt::format("{};{:.6f};{:.3f}", f.of == 0 ? "heron" : "overlay", f.at / 1000, f.ms);
         }},
        // A clock of their own each, far apart.
        {"x,time_s,kind",
         [](const Frame& f) { return fmt::format("1,{:.6f},0x{:x}", f.at / 1000 + 500 * f.of, 4096 + f.of); }},
        // Stamps alone, even in the fuller one and uneven in all.
        {"time_ms\tsource", [](const Frame& f) { return fmt::format("{:.4f}\t{}", f.at, f.of == 0 ? "a" : "b"); }}};
    for (const auto& [heading, row] : dialects) {
        const auto capture = readLogText(logOf(heading, frames, row));
        ASSERT_TRUE(capture.has_value()) << heading << ": " << wording::error(wording::Words(), capture.error()).all();
        EXPECT_NEAR(averageOf(*capture), 60, 1) << heading;
        const auto note = noteOf(*capture, NoteKind::OtherProgram);
        ASSERT_TRUE(note) << heading;
        EXPECT_NEAR(static_cast<double>(note->count), 300, 10);
        ASSERT_EQ(note->names.size(), 1U);
        EXPECT_EQ(note->names[0].second, note->count);
        // The other one by its name.
        ReadOptions options;
        options.dialect = dialectOf(capture->notes.at("dialect"));
        ASSERT_TRUE(options.dialect);
        options.dialect->program = note->names[0].first;
        const auto other = readLogText(logOf(heading, frames, row), options);
        ASSERT_TRUE(other.has_value()) << heading;
        EXPECT_NEAR(averageOf(*other), 25, 1) << heading;
    }
}

TEST(SeveralTest, AColumnOfFewWordsIsNoOtherRecordingByItself) {
    auto frames = turns({60});
    for (std::size_t i = 0; i < frames.size(); ++i)
        frames[i].of = static_cast<int>(i % 2); // every second one is marked
    const std::vector<std::pair<const char*, std::function<std::string(const Frame&)>>> dialects{
        {"time_s,frame_ms,tearing",
         [](const Frame& f) { return fmt::format("{:.6f},{:.3f},{}", f.at / 1000, f.ms, f.of); }},
        {"time_s,scene",
         [](const Frame& f) { return fmt::format("{:.6f},{}", f.at / 1000, f.of == 0 ? "harbour" : "mill"); }},
        {"frame_ms,mode", [](const Frame& f) { return fmt::format("{:.3f},{}", f.ms, f.of == 0 ? "copy" : "flip"); }}};
    for (const auto& [heading, row] : dialects) {
        const auto capture = readLogText(logOf(heading, frames, row));
        ASSERT_TRUE(capture.has_value()) << heading;
        EXPECT_NEAR(averageOf(*capture), 60, 1) << heading;
        EXPECT_FALSE(noteOf(*capture, NoteKind::OtherProgram)) << heading;
    }
}

TEST(SeveralTest, SlowerRowsOfAnotherKindAreNoFrames) {
    std::string text = "kind,time_s,value\n";
    double at = 0, next = 0.5;
    for (int i = 0; i < 1500; ++i) {
        at += 0.016 + 0.0005 * (i % 5);
        text += fmt::format("frame,{:.4f},{}\n", at, i % 9);
        if (at < next) continue;
        text += fmt::format("sensor,{:.4f},{}\n", at + 0.003, 61 + i % 4);
        next += 0.05;
    }
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value());
    EXPECT_EQ(capture->frames(), 1499U);
    EXPECT_NEAR(averageOf(*capture), 1000 / 17.0, 0.2);
}

TEST(SeveralTest, NamesOfTheOthersAreToldInWords) {
    Note note{NoteKind::OtherProgram, 552, 7, {{"heron\x1b[31m", 512}, {"overlay", 40}}};
    capture::Capture c;
    keep(c, note);
    ASSERT_EQ(notesOf(c).size(), 1U);
    EXPECT_EQ(notesOf(c)[0], note) << "kept with the run to the byte";
    EXPECT_EQ(
        wording::importNote(wording::Words(), note),
        "552 rows of another program or kind passed over, first in line 7. heron\u241b[31m (512 rows), overlay (40).");
}

TEST(SeveralTest, ASecondRecordingStartsWhereTheClockStartsAnew) {
    std::string text = "time_s,gpu_ms\n";
    const auto add = [&text](int frames, double ms) {
        for (int i = 1; i <= frames; ++i) text += fmt::format("{:.4f},{}\n", i * ms / 1000, ms - 2);
    };
    add(800, 20);
    const auto first = readLogText(text);
    add(500, 10);
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value());
    EXPECT_EQ(capture->framesMs, first->framesMs) << "the first is read as if it stood alone";
    EXPECT_EQ(noteOf(*capture, NoteKind::OtherRecording), (Note{NoteKind::OtherRecording, 500, 802, {}}));
    ReadOptions options;
    options.dialect = dialectOf(capture->notes.at("dialect"));
    options.dialect->recording = 2;
    EXPECT_EQ(dialectOf(textOf(*options.dialect)), options.dialect);
    const auto second = readLogText(text, options);
    ASSERT_TRUE(second.has_value());
    EXPECT_EQ(second->frames(), 499U);
    EXPECT_NEAR(averageOf(*second), 100, 0.1);
    EXPECT_EQ(second->gpuWorkMs->size(), 499U);
    EXPECT_EQ((*second->gpuWorkMs)[0], 8);
    EXPECT_EQ(noteOf(*second, NoteKind::OtherRecording), (Note{NoteKind::OtherRecording, 800, 2, {}}));
    options.dialect->recording = 3;
    EXPECT_FALSE(readLogText(text, options).has_value());
    // A heading between them belongs to neither.
    std::string headed = text.substr(0, text.size() / 2);
    headed = headed.substr(0, headed.rfind('\n') + 1) + text;
    EXPECT_TRUE(readLogText(headed).has_value());
}

TEST(SeveralTest, AClockThatOnlyFallsIsAnErrorWithItsLine) {
    std::string text = "time_s\n";
    for (int i = 1; i <= 2300; ++i) text += fmt::format("{:.4f}\n", 100 + i * 0.02 - (i > 2200 ? 20 : 0));
    const auto capture = readLogText(text);
    ASSERT_FALSE(capture.has_value());
    EXPECT_EQ(capture.error().code, ErrorCode::TimeRunsBackwards);
    EXPECT_EQ(capture.error().where.line, 2202U);
}

TEST(SeveralTest, MomentaryRatesOfFramesBecomeTimes) {
    std::string counted = "frame,fps\n", said = "instant fps\n", bare = "fps\n";
    std::vector<double> times;
    for (int i = 0; i < 300; ++i) {
        const double rate = 50 + (i * 37) % 23;
        times.push_back(1000 / rate);
        counted += fmt::format("{},{}\n", i, rate);
        said += fmt::format("{}\n", rate);
        bare += fmt::format("{}\n", rate);
    }
    for (const auto& text : {counted, said}) {
        const auto capture = readLogText(text);
        ASSERT_TRUE(capture.has_value()) << text.substr(0, 20);
        EXPECT_EQ(capture->framesMs, times);
        EXPECT_EQ(noteOf(*capture, NoteKind::RatesTurned), (Note{NoteKind::RatesTurned, 300, 2, {}}));
    }
    // It might be one a second: it is asked. By hand it is read.
    ASSERT_FALSE(readLogText(bare).has_value());
    EXPECT_EQ(readLogText(bare).error().code, ErrorCode::NotFrames);
    ReadOptions options;
    options.dialect = Dialect{};
    options.dialect->firstDataLine = 1;
    options.dialect->meaning = TimeMeaning::Rate;
    EXPECT_EQ(readLogText(bare, options)->framesMs, times);
    EXPECT_EQ(dialectOf(textOf(*options.dialect)), options.dialect);
}

TEST(SeveralTest, LocalDatesCountOnOverMidnight) {
    for (const auto& [evening, morning, suffix] : std::vector<std::tuple<std::string, std::string, std::string>>{
             {"30.11.2031 23:59:5", "01.12.2031 00:00:0", ""},
             {"11/30/2031 23:59:5", "12/01/2031 00:00:0", ""},
             {"5-4-2031 23:59:5", "6-4-2031 00:00:0", ""},
             {"04/05/2031 11:59:5", "04/06/2031 12:00:0", "M"}}) {
        std::string text = "stamp;n\n";
        for (int i = 0; i < 1000; ++i) {
            const double s = 5 + i * 0.01; // of the last ten seconds and the first five
            const bool next = s >= 10;
            const std::string half = suffix.empty() ? "" : next ? " AM" : " PM";
            text += fmt::format("{}{:.3f}{};7\n", next ? morning : evening, next ? s - 10 : s, half);
        }
        const auto capture = readLogText(text);
        ASSERT_TRUE(capture.has_value()) << evening << wording::error(wording::Words(), capture.error()).all();
        EXPECT_EQ(capture->frames(), 999U);
        for (const double ms : capture->framesMs) ASSERT_NEAR(ms, 10, 1e-3) << evening;
    }
    EXPECT_FALSE(readLogText("stamp\n31.31.2031 10:00:00\n31.31.2031 10:00:01\n31.31.2031 10:00:02\n").has_value());
}

TEST(SeveralTest, TooMuchIsRefusedAtOnce) {
    support::TemporaryFolder folder;
    std::string text = "frame_ms\n";
    for (int i = 0; i < 20000; ++i) text += "16.7\n";
    const auto file = folder.write("log.csv", text);
    ReadOptions options;
    options.mostRows = 5000;
    const auto rows = readLog(file, options);
    ASSERT_FALSE(rows.has_value());
    EXPECT_EQ(rows.error().code, ErrorCode::FileTooLarge);
    EXPECT_EQ(rows.error().what, "5000 rows");
    options = {};
    options.mostBytes = 50000;
    ASSERT_FALSE(readLog(file, options).has_value());
    EXPECT_EQ(readLog(file, options).error().what, "50000 bytes");
    options.mostBytes = 200000;
    EXPECT_EQ(readLog(file, options)->frames(), 20000U);
}

TEST(SeveralTest, AFaultInJsonIsToldWhereItStandsInTheDocument) {
    std::string objects = "{\n \"name\": \"heron\",\n \"frames\": [\n", lists = "[\n", lines;
    for (int i = 0; i < 120; ++i) {
        const std::string ms = i == 77 ? "\"broken\"" : fmt::format("{}.5", 16 + i % 3);
        objects += fmt::format("  {{\"n\": {}, \"time\": {{\"frame_ms\": {}}}}}{}\n", i, ms, i == 119 ? "" : ",");
        lists += fmt::format("  [{}, {}]{}\n", i, ms, i == 119 ? "" : ",");
        lines += fmt::format("{{\"n\": {}, \"frame_ms\": {}}}\n", i, ms);
    }
    for (const auto& [text, pointer, line] : std::vector<std::tuple<std::string, std::string, std::size_t>>{
             {objects + " ]\n}\n", "/frames/77/time/frame_ms", 81},
             {lists + "]\n", "/77/1", 79},
             {lines, "/frame_ms", 78}}) {
        const auto capture = readLogText(text);
        ASSERT_FALSE(capture.has_value()) << pointer;
        EXPECT_EQ(capture.error().where.key, pointer);
        EXPECT_EQ(capture.error().where.line, line) << pointer;
        EXPECT_FALSE(capture.error().where.column) << "that of the table says nothing";
    }
    std::string columns = "{\"run\": {\"frame_ms\": [16";
    for (int i = 1; i < 120; ++i) columns += i == 77 ? std::string(",\"broken\"") : fmt::format(",{}.5", 16 + i % 3);
    const auto capture = readLogText(columns + "]}}");
    ASSERT_FALSE(capture.has_value());
    EXPECT_EQ(capture.error().where.key, "/run/frame_ms/77");
}

TEST(SeveralTest, AHeadingBetweenFramesBeginsAnotherRecording) {
    const auto rows = [](std::size_t count, double ms) {
        std::string out;
        for (std::size_t i = 0; i < count; ++i)
            out += fmt::format("{:.2f},{:.2f},menu\n", ms + 0.1 * static_cast<double>(i % 5), ms - 3);
        return out;
    };
    const std::string heading = "frame_ms,gpu_ms,scene\n";
    const std::string text = heading + rows(800, 16) + heading + rows(500, 25);
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value()) << capture.error().what;
    EXPECT_EQ(capture->frames(), 800U);
    EXPECT_NEAR(averageOf(*capture), 1000 / 16.2, 0.1);
    EXPECT_EQ(noteOf(*capture, NoteKind::OtherRecording), (Note{NoteKind::OtherRecording, 500, 803, {}}));
    EXPECT_FALSE(noteOf(*capture, NoteKind::Ending));
    ReadOptions options;
    options.dialect = *guessDialect(text);
    options.dialect->recording = 2;
    const auto second = readLogText(text, options);
    ASSERT_TRUE(second.has_value());
    EXPECT_EQ(second->frames(), 500U);
    ASSERT_FALSE(second->others.empty());
    EXPECT_EQ(second->others.front().values.size(), 500U);
    EXPECT_NEAR(averageOf(*second), 1000 / 25.2, 0.1);
    EXPECT_EQ(noteOf(*second, NoteKind::OtherRecording), (Note{NoteKind::OtherRecording, 800, 2, {}}));
    // A third behind it is counted with the second.
    EXPECT_EQ(noteOf(*readLogText(text + heading + rows(30, 20)), NoteKind::OtherRecording)->count, 531U);
}

TEST(SeveralTest, ALoadThatComesAndGoesSplitsNothing) {
    // By chance the frames of one load in nine fill what rises by one each row.
    std::string text = "frame_ms,GPU load,tick\n";
    for (int i = 0; i < 900; ++i) text += fmt::format("{:.4f},{},{}.5\n", 9 + 0.01 * (i * 7 % 11), 90 + i % 9, i);
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value());
    EXPECT_EQ(capture->frames(), 900U);
    EXPECT_FALSE(noteOf(*capture, NoteKind::OtherProgram));
}

TEST(SeveralTest, AWordBetweenFramesIsNoHeading) {
    std::string text = "frame_ms,gpu_work_ms\n";
    for (int i = 0; i < 400; ++i) text += fmt::format("{:.2f},12.0\n", 16 + 0.1 * (i % 5));
    // One cell that is broken among good ones is an error, as ever.
    const auto broken = readLogText(text + "sixteen,12.0\n" + "16.1,12.0\n16.2,12.1\n16.3,12.2\n16.2,12.1\n");
    ASSERT_FALSE(broken.has_value());
    EXPECT_EQ(broken.error().code, ErrorCode::BadNumber);
    EXPECT_EQ(broken.error().where.line, 402U);
    // A heading and no frames behind it is an ending; a row or two are no recording.
    EXPECT_TRUE(readLogText(text + "frame_ms,gpu_work_ms\n").has_value());
    EXPECT_FALSE(readLogText(text + "frame_ms,gpu_work_ms\n16.1,12\n").has_value());
    // A missing value is no name.
    EXPECT_EQ(readLogText(text + "NA,NA\n16.1,12.0\n16.1,12.0\n16.1,12.0\n16.1,12.0\n")->frames(), 404U);
}

namespace {

/// What happens within each of some frames: its begin, how long it takes and what it is, in the order of time.
std::string eventsWithin(const char* heading, const std::vector<std::tuple<std::string, double, double>>& each,
                         const char* row, int frames = 500) {
    RandomStream s(4, "events");
    std::string text = heading;
    double at = 1000;
    for (int i = 0; i < frames; ++i) {
        const double ms = 16 + s.uniform() + (i % 90 == 40 ? 20 : 0);
        for (const auto& [name, begin, share] : each)
            text += fmt::format(fmt::runtime(row), 1000 * (at + begin * ms), 1000 * share * ms, name);
        at += ms;
    }
    return text;
}

} // namespace

TEST(SeveralTest, WhatHappensWithinAFrameIsNoFrame) {
    const auto trueFps = [](const capture::Capture& c) { return averageOf(c); };
    const std::vector<std::tuple<std::string, double, double>> within{
        {"update", 0.0, 0.3}, {"frame", 0.01, 1.0}, {"draw", 0.4, 0.5}};
    const auto read = readLogText(eventsWithin("ts,dur,name\n", within, "{:.0f},{:.0f},{}\n"));
    ASSERT_TRUE(read.has_value()) << read.error().what;
    EXPECT_EQ(read->frames(), 500U);
    EXPECT_NEAR(trueFps(*read), 1000 / 16.72, 0.5);
    EXPECT_NE(read->notes.at("dialect").find("program=frame"), std::string::npos) << read->notes.at("dialect");
    ASSERT_TRUE(noteOf(*read, NoteKind::OtherProgram));
    EXPECT_NEAR(static_cast<double>(noteOf(*read, NoteKind::OtherProgram)->count), 1000, 1) << "the last may end it";
    const std::vector<std::tuple<std::string, double, double>> numbered{
        {"pass1", 0.0, 0.3}, {"frame0", 0.01, 1.0}, {"pass2", 0.4, 0.5}, {"2", 0.95, 0.01}};
    const auto passes = readLogText(eventsWithin("ts,dur,name\n", numbered, "{:.0f},{:.0f},{}\n"));
    ASSERT_TRUE(passes.has_value()) << passes.error().what;
    EXPECT_EQ(passes->frames(), 500U);
    EXPECT_NE(passes->notes.at("dialect").find("program=frame0"), std::string::npos);
    // In another order of columns, without a heading; as JSON; and without how long each takes.
    const auto turned = readLogText(eventsWithin("", within, "{2};{1:.0f};{0:.0f}\n"));
    ASSERT_TRUE(turned.has_value()) << turned.error().what;
    EXPECT_EQ(turned->frames(), 500U);
    const auto json = readLogText(eventsWithin("", within, "{{\"ts\":{:.0f},\"dur\":{:.0f},\"name\":\"{}\"}}\n"));
    ASSERT_TRUE(json.has_value()) << json.error().what;
    EXPECT_EQ(json->frames(), 500U);
    const std::vector<std::tuple<std::string, double, double>> atOnce{
        {"input", 0.0, 0}, {"update", 0.02, 0}, {"submit", 0.15, 0}};
    const auto stamps = readLogText(eventsWithin("time us,event\n", atOnce, "{0:.0f},{2}\n"));
    ASSERT_TRUE(stamps.has_value()) << stamps.error().what;
    EXPECT_EQ(stamps->frames(), 499U);
    EXPECT_NEAR(trueFps(*stamps), 1000 / 16.72, 0.5);
}

TEST(SeveralTest, WordsThatTakeTurnsFromFrameToFrameAreOneRecording) {
    RandomStream s(6, "buffers");
    const auto log = [&](const std::vector<std::string>& words, const std::vector<double>& ms) {
        std::string text = "time_ms,frame_ms,target\n";
        double at = 0;
        for (std::size_t i = 0; i < 600; ++i) {
            const double each = ms[i % ms.size()] * (1 + 0.02 * s.normal());
            at += each;
            text += fmt::format("{:.3f},{:.3f},{}\n", at, each, words[i % words.size()]);
        }
        return text;
    };
    // Eyes and buffers; and two GPUs, of which one follows the other closely.
    for (const auto& text :
         {log({"left", "right"}, {16}), log({"front", "middle", "back"}, {9}), log({"GPU0", "GPU1"}, {4, 24})}) {
        const auto read = readLogText(text);
        ASSERT_TRUE(read.has_value()) << read.error().what;
        EXPECT_EQ(read->frames(), 600U) << text.substr(0, 60);
        EXPECT_FALSE(noteOf(*read, NoteKind::OtherProgram));
    }
}
