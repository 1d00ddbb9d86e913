// SPDX-License-Identifier: GPL-3.0-or-later
// Rows of several kinds in one log: what is no frame is never counted as one, its readings are kept at their times,
// and what is a frame stays one whatever else its row says.
#include "support/support.h"

#include <impasto/base/random.h>
#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>

using namespace impasto;
using namespace impasto::logs;

namespace {

constexpr int frameCount = 1500;
constexpr double stepMs = 500;

/// Frames of 16 to 19 ms; after each half a second a reading, which rises by a degree a second from 60.
std::string logOf(const std::string& heading, const std::function<std::string(double, double)>& frame,
                  const std::function<std::string(double, double)>& reading) {
    RandomStream s(4, "kinds");
    std::string text = heading + "\n";
    double at = 0, next = stepMs;
    for (int i = 0; i < frameCount; ++i) {
        const double ms = s.uniform(16, 19);
        at += ms;
        text += frame(at / 1000, ms) + "\n";
        if (at < next) continue;
        text += reading((at + 3) / 1000, 60 + at / 1000) + "\n";
        next += stepMs;
    }
    return text;
}

std::optional<Note> noteOf(const capture::Capture& capture, NoteKind kind) {
    for (const auto& note : notesOf(capture))
        if (note.kind == kind) return note;
    return std::nullopt;
}

struct Kinds {
    const char* heading;
    std::function<std::string(double, double)> frame, reading;
};

} // namespace

TEST(KindsTest, ReadingsInRowsOfTheirOwnAreKeptAtTheirTimes) {
    const Kinds cases[] = {{"type,time_s,gpu_temperature_c", // stamps: the readings' rows have some, too
                            [](double at, double) { return fmt::format("frame,{:.4f},", at); },
                            [](double at, double c) { return fmt::format("sensor,{:.4f},{:.2f}", at, c); }},
                           {"type,time_s,frame_ms,gpu_temperature_c",
                            [](double at, double ms) { return fmt::format("frame,{:.4f},{:.4f},", at, ms); },
                            [](double at, double c) { return fmt::format("sensor,{:.4f},,{:.2f}", at, c); }},
                           {"gpu_temperature_c,what,ms", // permuted
                            [](double, double ms) { return fmt::format(",image,{:.4f}", ms); },
                            [](double, double c) { return fmt::format("{:.2f},hardware,", c); }},
                           {"frame_ms,gpu_temperature_c", // no word says which
                            [](double, double ms) { return fmt::format("{:.4f},", ms); },
                            [](double, double c) { return fmt::format(",{:.2f}", c); }},
                           {"frame_ms;gpu_temperature_c;record",
                            [](double, double ms) {
                                auto text = fmt::format("{:.4f};NA;F", ms);
                                std::replace(text.begin(), text.end(), '.', ',');
                                return text;
                            },
                            [](double, double c) {
                                auto text = fmt::format("NA;{:.2f};S", c);
                                std::replace(text.begin(), text.end(), '.', ',');
                                return text;
                            }}};
    for (const auto& [heading, frame, reading] : cases) {
        const auto capture = readLogText(logOf(heading, frame, reading));
        ASSERT_TRUE(capture.has_value()) << heading << static_cast<int>(capture.error().code);
        const bool stamps = std::string_view(heading).find("ms") == std::string_view::npos;
        EXPECT_EQ(capture->frames(), stamps ? frameCount - 1U : frameCount) << heading;
        EXPECT_NEAR(1000 * static_cast<double>(capture->frames()) / capture::durationMs(*capture), 57.14, 0.5);
        const auto* track = capture->track(capture::Sensor::GpuTemperature);
        ASSERT_NE(track, nullptr) << heading;
        ASSERT_GT(track->values.size(), 45U) << heading;
        for (std::size_t i = 0; i < track->values.size(); ++i)
            EXPECT_NEAR(track->values[i], 60 + track->timeMs[i] / 1000, 0.05) << heading << i;
        const auto note = noteOf(*capture, NoteKind::Readings);
        ASSERT_TRUE(note) << heading;
        EXPECT_EQ(note->count, track->values.size());
        EXPECT_FALSE(noteOf(*capture, NoteKind::MissingTime)) << heading;
    }
}

TEST(KindsTest, EventsBetweenTheFramesArePassedOver) {
    const Kinds cases[] = {{"rec,time_s,frame_ms", // longer rows
                            [](double at, double ms) { return fmt::format("F,{:.4f},{:.4f}", at, ms); },
                            [](double at, double c) { return fmt::format("S,{:.4f},temperature,{:.2f}", at, c); }},
                           {"rec,time_s,ms,event",
                            [](double at, double ms) { return fmt::format("frame,{:.4f},{:.4f},", at, ms); },
                            [](double at, double) { return fmt::format("event,{:.4f},,loaded the yard", at); }},
                           {"time_s,rec,event", // stamps
                            [](double at, double) { return fmt::format("{:.4f},frame,", at); },
                            [](double at, double) { return fmt::format("{:.4f},event,gate", at); }}};
    for (const auto& [heading, frame, reading] : cases) {
        const auto capture = readLogText(logOf(heading, frame, reading));
        ASSERT_TRUE(capture.has_value()) << heading << static_cast<int>(capture.error().code);
        EXPECT_NEAR(static_cast<double>(capture->frames()), frameCount, 1) << heading;
        const auto note = noteOf(*capture, NoteKind::OtherProgram);
        ASSERT_TRUE(note) << heading;
        EXPECT_GT(note->count, 45U) << heading;
        EXPECT_FALSE(note->names.empty());
    }
}

TEST(KindsTest, AFrameOfWhichMoreIsToldStaysAFrame) {
    RandomStream s(5, "late frames");
    std::string times = "state,frame_ms,late_by_ms\n", stamps = "state,time_s,late_by_ms\n";
    double at = 0;
    int late = 0;
    for (int i = 0; i < frameCount; ++i) {
        const bool isLate = i > 0 && s.below(25) == 0; // stamps do not tell how long the first one took
        late += isLate ? 1 : 0;
        const double ms = isLate ? s.uniform(28, 34) : s.uniform(15, 17);
        at += ms;
        const std::string more = isLate ? fmt::format("{:.3f}", ms - 16) : "";
        times += fmt::format("{},{:.4f},{}\n", isLate ? "late" : "ok", ms, more);
        stamps += fmt::format("{},{:.5f},{}\n", isLate ? "late" : "ok", at / 1000, more);
    }
    ASSERT_GT(late, 40);
    for (const auto& text : {times, stamps}) {
        const auto capture = readLogText(text);
        ASSERT_TRUE(capture.has_value());
        EXPECT_NEAR(static_cast<double>(capture->frames()), frameCount, 1);
        EXPECT_EQ(std::count_if(capture->framesMs.begin(), capture->framesMs.end(), [](double ms) { return ms > 25; }),
                  late);
        EXPECT_FALSE(noteOf(*capture, NoteKind::OtherProgram));
    }
}

TEST(KindsTest, AFrameThatLacksAnotherFigureStaysAFrame) {
    RandomStream s(6, "dropped frames");
    std::string text = "state,time_s,frame_ms,gpu_ms,reason\n";
    double at = 0;
    int dropped = 0;
    for (int i = 0; i < frameCount; ++i) {
        const bool isDropped = s.below(25) == 0;
        dropped += isDropped ? 1 : 0;
        const double ms = isDropped ? s.uniform(28, 34) : s.uniform(15, 17);
        at += ms;
        text += isDropped ? fmt::format("dropped,{:.5f},{:.4f},,missed\n", at / 1000, ms)
                          : fmt::format("shown,{:.5f},{:.4f},{:.3f},\n", at / 1000, ms, 0.8 * ms);
    }
    ASSERT_GT(dropped, 40);
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value());
    EXPECT_EQ(capture->frames(), static_cast<std::size_t>(frameCount));
    EXPECT_EQ(std::count_if(capture->framesMs.begin(), capture->framesMs.end(), [](double ms) { return ms > 25; }),
              dropped);
}

TEST(KindsTest, AWordThatMostRowsDoNotSayIsNoKind) {
    // Marks in a column of their own, beside frames and in rows of their own: what says nothing is still a frame.
    std::string text = "frame_ms,event,detail\n";
    for (int i = 0; i < frameCount; ++i) {
        text += fmt::format("{:.3f},{},\n", 16 + 0.1 * (i % 7), i % 50 == 3 ? "mark" : "");
        if (i % 200 == 9) text += "NA,load,yard\n";
    }
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value());
    EXPECT_EQ(capture->frames(), static_cast<std::size_t>(frameCount));
    EXPECT_FALSE(noteOf(*capture, NoteKind::OtherProgram));
}

TEST(KindsTest, WhereFramesTellTheReadingAnEmptyTimeIsAMissingFrame) {
    std::string text = "frame_ms,gpu_temperature_c\n";
    for (int i = 0; i < 400; ++i) text += i % 40 == 7 ? "NA,61\n" : fmt::format("{},61\n", 16 + 0.1 * (i % 5));
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value());
    ASSERT_TRUE(noteOf(*capture, NoteKind::MissingTime));
    EXPECT_EQ(noteOf(*capture, NoteKind::MissingTime)->count, 10U);
    EXPECT_FALSE(noteOf(*capture, NoteKind::Readings));
}
