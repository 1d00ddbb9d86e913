// SPDX-License-Identifier: GPL-3.0-or-later
// Rows of frames that were invented between rendered ones, and rows that are none.
#include "support/support.h"

#include <algorithm>
#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>
#include <numeric>

using namespace impasto;
using namespace impasto::logs;
using namespace impasto::support;

namespace {

struct Shown {
    bool invented;
    double ms, atMs; // since the frame shown before; its end
};

/// Rendered frames of about 20 ms, each shown in `each` pieces: the last one is the rendered frame.
std::vector<Shown> shownFrames(std::size_t rendered, std::size_t each) {
    std::vector<Shown> out;
    double at = 0;
    for (std::size_t i = 0; i < rendered; ++i) {
        const double ms = std::round(1000 * (18.4 + 0.7 * static_cast<double>((7 * i) % 5))) / 1000;
        const double piece = std::floor(1000 * ms / static_cast<double>(each)) / 1000;
        for (std::size_t k = 0; k < each; ++k) {
            const double own = k + 1 < each ? piece : ms - piece * static_cast<double>(each - 1);
            at += own;
            out.push_back({k + 1 < each, own, at});
        }
    }
    return out;
}

using RowOf = std::function<std::string(const Shown&)>;

std::string logOf(const std::string& heading, std::size_t each, const RowOf& row) {
    std::string out = heading;
    for (const auto& frame : shownFrames(400, each)) out += row(frame);
    return out;
}

/// What the rendered frames come to.
void expectRendered(const std::string& text, std::size_t each, std::size_t frames) {
    const auto read = readLogText(text);
    ASSERT_TRUE(read.has_value()) << text.substr(0, 80) << static_cast<int>(read.error().code);
    ASSERT_EQ(read->frames(), frames) << text.substr(0, 80);
    const auto truth = shownFrames(400, 1);
    for (std::size_t i = 0; i < frames; ++i)
        ASSERT_NEAR(read->framesMs[i], truth[400 - frames + i].ms, 0.02) << i << text.substr(0, 80);
    ASSERT_TRUE(read->invented.has_value());
    EXPECT_EQ(std::accumulate(read->invented->begin(), read->invented->end(), 0.0),
              static_cast<double>(frames * (each - 1)));
    EXPECT_NEAR(capture::shownRate(*read).value(), 1000 / (19.8 / static_cast<double>(each)), 0.5);
    const auto notes = notesOf(*read);
    const auto told =
        std::find_if(notes.begin(), notes.end(), [](const auto& n) { return n.kind == NoteKind::Invented; });
    ASSERT_NE(told, notes.end()) << text.substr(0, 80);
    EXPECT_EQ(told->count, 400 * (each - 1));
    // The dialect says it, and is read again alike.
    const auto dialect = dialectOf(read->notes.at("dialect"));
    ASSERT_TRUE(dialect.has_value()) << read->notes.at("dialect");
    const auto again = readLogText(text, {*dialect});
    ASSERT_TRUE(again.has_value());
    EXPECT_EQ(again->framesMs, read->framesMs);
    EXPECT_EQ(again->invented, read->invented);
}

const char* yes(bool is) {
    return is ? "1" : "0";
}

} // namespace

TEST(InventedTest, FrameTimesAreThoseBetweenRenderedFrames) {
    for (const std::size_t each : {2U, 3U}) {
        expectRendered(logOf("frame_ms,generated\n", each,
                             [](const Shown& f) { return fmt::format("{:.3f},{}\n", f.ms, yes(f.invented)); }),
                       each, 400);
        expectRendered(logOf("frame_ms;frame type\n", each,
                             [](const Shown& f) {
                                 return fmt::format("{:.3f};{}\n", f.ms, f.invented ? "Interpolated" : "Application");
                             }),
                       each, 400);
        expectRendered(logOf("is_rendered,frame time (ms),t (s)\n", each,
                             [](const Shown& f) {
                                 return fmt::format("{},{:.3f},{:.6f}\n", f.invented ? "no" : "yes", f.ms,
                                                    f.atMs / 1000);
                             }),
                       each, 400);
        // Stamps alone: the first rendered one begins.
        expectRendered(logOf("kind,stamp_ms\n", each,
                             [](const Shown& f) {
                                 return fmt::format("{},{:.3f}\n", f.invented ? "generated" : "rendered", f.atMs);
                             }),
                       each, 399);
        expectRendered(logOf("fps per frame,synthetic\n", each,
                             [](const Shown& f) {
                                 return fmt::format("{:.6f},{}\n", 1000 / f.ms, f.invented ? "true" : "false");
                             }),
                       each, 400);
    }
}

TEST(InventedTest, WorkIsThatOfRenderedFrames) {
    const auto text = logOf("frame_ms,cpu_ms,gpu_ms,type,gpu load %\n", 2, [](const Shown& f) {
        return f.invented ? fmt::format("{:.3f},,,generated,\n", f.ms)
                          : fmt::format("{:.3f},{:.2f},{:.2f},game,{}\n", f.ms, 9.25, 15.5, 97);
    });
    const auto read = readLogText(text);
    ASSERT_TRUE(read.has_value());
    ASSERT_EQ(read->frames(), 400U);
    ASSERT_TRUE(read->cpuWorkMs && read->gpuWorkMs);
    EXPECT_EQ(read->cpuWorkMs->at(7), 9.25);
    EXPECT_EQ(read->gpuWorkMs->at(399), 15.5);
    EXPECT_EQ(capture::trackMean(*read, capture::Sensor::GpuLoad), 97);
    // Invented ones of which no time is told.
    const auto untold = readLogText(logOf("frame_ms,type\n", 2, [](const Shown& f) {
        return f.invented ? std::string("NA,generated\n") : fmt::format("{:.3f},game\n", 2 * f.ms);
    }));
    ASSERT_TRUE(untold.has_value());
    EXPECT_EQ(untold->frames(), 400U);
    EXPECT_EQ(untold->invented->at(5), 1);
}

TEST(InventedTest, WhatTellsNoInventedFramesIsNone) {
    const auto plain = [](const std::string& heading, const std::function<std::string(std::size_t)>& cell) {
        std::string out = "frame_ms," + heading + "\n";
        std::size_t i = 0;
        for (const auto& f : shownFrames(400, 1)) out += fmt::format("{:.3f},{}\n", f.ms, cell(i++));
        return readLogText(out);
    };
    const auto alternating = [](const char* a, const char* b) {
        return [a, b](std::size_t i) { return std::string(i % 2 == 0 ? a : b); };
    };
    for (const auto& read :
         {plain("generated frames", alternating("1", "0")), plain("generated", alternating("1", "1")),
          plain("vsync", alternating("1", "0")), plain("program", alternating("generator", "generator")),
          plain("phase", alternating("rendered", "idle")), plain("terrain", alternating("not generated", "kept")),
          plain("generated_ms", alternating("1", "0"))}) {
        ASSERT_TRUE(read.has_value());
        EXPECT_EQ(read->frames(), 400U);
        EXPECT_FALSE(read->invented.has_value());
    }
}

TEST(InventedTest, AColumnMayCountThoseOfEachRow) {
    const auto log = [](const std::string& heading, const std::function<std::string(std::size_t)>& cell) {
        std::string out = heading + "\n";
        std::size_t i = 0;
        for (const auto& f : shownFrames(400, 1)) out += fmt::format("{:.3f},14.2,{}\n", f.ms, cell(i++));
        return out;
    };
    const auto always = [](std::size_t) { return std::string("1"); };
    const auto adaptive = [](std::size_t i) { return std::to_string(i % 4); };
    const auto seldomNone = [](std::size_t i) { return std::string(i % 40 == 3 ? "0" : "1"); };
    for (const auto& [heading, cell, mean] :
         {std::tuple("frame_ms,gpu_ms,generated frames", std::function<std::string(std::size_t)>(always), 1.0),
          std::tuple("frame_ms,gpu_ms,Interpolated Count", std::function<std::string(std::size_t)>(adaptive), 1.5),
          std::tuple("frame_ms,gpu_ms,number of generated", std::function<std::string(std::size_t)>(seldomNone),
                     0.975)}) {
        const auto read = readLogText(log(heading, cell));
        ASSERT_TRUE(read.has_value()) << heading;
        ASSERT_EQ(read->frames(), 400U) << heading;
        ASSERT_TRUE(read->invented.has_value()) << heading;
        EXPECT_TRUE(read->others.empty()) << heading;
        EXPECT_TRUE(read->gpuWorkMs.has_value()) << heading;
        EXPECT_NEAR(capture::shownRate(*read).value(), 1000 / 19.8 * (1 + mean), 0.5) << heading;
        EXPECT_NEAR(read->framesMs.at(7), shownFrames(400, 1).at(7).ms, 0.001) << heading;
        const auto dialect = dialectOf(read->notes.at("dialect"));
        ASSERT_TRUE(dialect.has_value()) << read->notes.at("dialect");
        const auto again = readLogText(log(heading, cell), {*dialect});
        ASSERT_TRUE(again.has_value());
        EXPECT_EQ(again->invented, read->invented) << heading;
    }
    // Running totals, shares, times and other counts are none; nor is what may say of each row whether it is one.
    for (const auto& text :
         {log("frame_ms,gpu_ms,total generated frames", [](std::size_t i) { return std::to_string(i); }),
          log("frame_ms,gpu_ms,generated frames", [](std::size_t i) { return std::to_string(i); }),
          log("frame_ms,gpu_ms,generated frames %", always), log("frame_ms,gpu_ms,dropped frames", always),
          log("frame_ms,gpu_ms,generated frames", [](std::size_t i) { return std::string(i % 4 == 0 ? "0" : "1"); })}) {
        const auto read = readLogText(text);
        ASSERT_TRUE(read.has_value()) << text.substr(0, 50);
        EXPECT_EQ(read->frames(), 400U) << text.substr(0, 50);
        EXPECT_FALSE(read->invented.has_value()) << text.substr(0, 50);
    }
}

TEST(InventedTest, ALastRowThatSumsUpIsNoFrame) {
    const auto frames = shownFrames(400, 1);
    std::string text = "frame_ms,gpu load %\n";
    for (const auto& f : frames) text += fmt::format("{:.3f},90\n", f.ms);
    const auto plain = readLogText(text);
    const auto summed = readLogText(text + fmt::format("{:.2f},90\n", frames.back().atMs));
    const auto longLast = readLogText(text + fmt::format("{:.2f},90\n", 1.1 * frames.back().atMs));
    ASSERT_TRUE(plain && summed && longLast);
    EXPECT_EQ(summed->framesMs, plain->framesMs);
    EXPECT_EQ(summed->tracks, plain->tracks);
    EXPECT_EQ(longLast->frames(), 401U); // a stall
    const auto notes = notesOf(*summed);
    const auto ending =
        std::find_if(notes.begin(), notes.end(), [](const auto& n) { return n.kind == NoteKind::Ending; });
    ASSERT_NE(ending, notes.end());
    EXPECT_EQ(ending->firstLine, 402U);
}

TEST(InventedTest, TimesOfSeveralFramesAreNoFrameTimes) {
    for (const char* heading : {"time of 10 frames (ms)\n", "ms per 60 frames\n"}) {
        std::string text = heading;
        for (const auto& f : shownFrames(400, 1)) text += fmt::format("{:.3f}\n", 10 * f.ms);
        const auto read = readLogText(text);
        ASSERT_FALSE(read.has_value()) << heading;
        EXPECT_EQ(read.error().code, ErrorCode::NoTimeColumn);
    }
}
