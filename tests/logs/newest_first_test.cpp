// SPDX-License-Identifier: GPL-3.0-or-later
// Logs whose rows stand newest first: the same capture as the other way round, and a note; and what only looks so.
#include "support/support.h"

#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>

using namespace impasto;
using namespace impasto::logs;
using namespace impasto::support;

namespace {

struct OrderedFrame {
    std::size_t i;
    double ms, atMs; // its end
};

using OrderedRow = std::function<std::string(const OrderedFrame&)>;

/// Frames of about 16 ms, uneven, with a stall.
std::vector<std::string> orderedRows(const OrderedRow& row, std::size_t frames = 2600) {
    std::vector<std::string> out;
    double at = 4000;
    for (std::size_t i = 0; i < frames; ++i) {
        const double ms = 15.4 + 0.37 * static_cast<double>((7 * i) % 5) + (i == 1900 ? 240 : 0);
        out.push_back(row({i, ms, at += ms}));
    }
    return out;
}

std::string textInOrder(const std::string& heading, const std::vector<std::string>& rows, bool newestFirst) {
    std::string out = heading;
    for (std::size_t i = 0; i < rows.size(); ++i) out += rows[newestFirst ? rows.size() - 1 - i : i] + "\n";
    return out;
}

std::optional<Note> newestFirstNote(const capture::Capture& capture) {
    for (const auto& note : notesOf(capture))
        if (note.kind == NoteKind::NewestFirst) return note;
    return std::nullopt;
}

std::string clockTimeOf(double ms) {
    const auto seconds = static_cast<int>(ms / 1000);
    return fmt::format("20:{:02}:{:06.3f}", 14 + seconds / 60, ms / 1000 - 60 * (seconds / 60));
}

} // namespace

TEST(NewestFirstTest, TheCaptureIsThatOfTheOtherWayRound) {
    const std::vector<std::pair<std::string, OrderedRow>> logs{
        {"Elapsed (s),Frame time (ms)\n",
         [](const OrderedFrame& f) { return fmt::format("{:.6f},{:.3f}", f.atMs / 1000, f.ms); }},
        {"time,CPU load\n",
         [](const OrderedFrame& f) { return fmt::format("{:.6f},{}", f.atMs / 1000, 60 + f.i % 30); }},
        {"TimeInMs,GPU busy ms\n",
         [](const OrderedFrame& f) { return fmt::format("{:.3f},{:.3f}", f.atMs, 0.8 * f.ms); }},
        {"", [](const OrderedFrame& f) { return fmt::format("{:.3f}", f.atMs); }},
        {"frame,ms\n", [](const OrderedFrame& f) { return fmt::format("{},{:.3f}", f.i, f.ms); }},
        {"frame;fps\n", [](const OrderedFrame& f) { return fmt::format("{};{:.2f}", f.i, 1000 / f.ms); }},
        {"stamp,scene\n",
         [](const OrderedFrame& f) { return fmt::format("2031-05-04T{},{}", clockTimeOf(f.atMs), f.i / 900 + 10); }},
        {"clock\n", [](const OrderedFrame& f) { return clockTimeOf(f.atMs); }},
        {"time_s;program;ms\n", [](const OrderedFrame& f) {
             return fmt::format("{:.5f};{};{:.3f}", f.atMs / 1000, f.i % 3 == 0 ? "b" : "a", f.ms);
         }}};
    for (const auto& [heading, row] : logs) {
        const auto rows = orderedRows(row);
        const auto usual = readLogText(textInOrder(heading, rows, false)),
                   turned = readLogText(textInOrder(heading, rows, true));
        ASSERT_TRUE(usual.has_value()) << heading;
        ASSERT_TRUE(turned.has_value()) << heading;
        EXPECT_FALSE(newestFirstNote(*usual)) << heading;
        ASSERT_TRUE(newestFirstNote(*turned)) << heading;
        EXPECT_EQ(newestFirstNote(*turned)->count, turned->frames()) << heading;
        EXPECT_EQ(capture::fingerprintOf(*usual), capture::fingerprintOf(*turned)) << heading;
        const auto dialect = dialectOf(turned->notes.at("dialect"));
        ASSERT_TRUE(dialect && dialect->newestFirst) << heading;
        EXPECT_EQ(capture::fingerprintOf(*importText(textInOrder(heading, rows, true), *dialect)),
                  capture::fingerprintOf(*usual));
    }
}

TEST(NewestFirstTest, LinesInNotesAndFaultsAreThoseOfTheLog) {
    auto rows =
        orderedRows([](const OrderedFrame& f) { return fmt::format("{:.6f},{:.3f}", f.atMs / 1000, f.ms); }, 300);
    rows[40] = rows[40].substr(0, rows[40].find(',')) + ",NA";
    auto text = textInOrder("# by hand\ntime (s),frame ms\n", rows, true);
    const auto missing = readLogText(text);
    ASSERT_TRUE(missing.has_value());
    const auto notes = notesOf(*missing);
    const auto note =
        std::find_if(notes.begin(), notes.end(), [](const Note& n) { return n.kind == NoteKind::MissingTime; });
    ASSERT_NE(note, notes.end());
    EXPECT_EQ(note->firstLine, 2 + 300 - 40U);
    EXPECT_EQ(note->count, 1U);
    rows[40] = rows[40].substr(0, rows[40].find(',')) + ",-7";
    const auto negative = readLogText(textInOrder("# by hand\ntime (s),frame ms\n", rows, true));
    ASSERT_FALSE(negative.has_value());
    EXPECT_EQ(negative.error().code, ErrorCode::NegativeTime);
    EXPECT_EQ(negative.error().where.line, 2 + 300 - 40U);
}

TEST(NewestFirstTest, ARememberedDialectLeavesTheOrderToTheLog) {
    const support::TemporaryFolder folder;
    const auto rows =
        orderedRows([](const OrderedFrame& f) { return fmt::format("{:.6f},{}", f.atMs / 1000, f.i % 7); }, 400);
    const auto usual = folder.write("usual.csv", textInOrder("time,x\n", rows, false)),
               turned = folder.write("turned.csv", textInOrder("time,x\n", rows, true));
    for (const auto& [corrected, other] : {std::pair(usual, turned), {turned, usual}}) {
        const auto preview = previewLog(corrected);
        ASSERT_TRUE(preview.has_value());
        ReadOptions options;
        options.remembered[preview->headingMark] = preview->dialect;
        const auto read = readLog(other, options), same = readLog(corrected, options);
        ASSERT_TRUE(read && same) << other;
        EXPECT_EQ(capture::fingerprintOf(*read), capture::fingerprintOf(*same));
        EXPECT_EQ(read->frames(), 399U);
        EXPECT_EQ(newestFirstNote(*read).has_value(), other == turned);
    }
}

TEST(NewestFirstTest, WhatCountsDownInOrderTurnsNothing) {
    const std::vector<std::pair<std::string, OrderedRow>> logs{
        {"remaining_s,frame_ms\n",
         [](const OrderedFrame& f) { return fmt::format("{:.3f},{:.3f}", 90 - f.atMs / 1000, f.ms); }},
        {"frames left,ms\n", [](const OrderedFrame& f) { return fmt::format("{},{:.3f}", 5000 - f.i, f.ms); }},
        {"time,fuel,ms\n",
         [](const OrderedFrame& f) {
             return fmt::format("{:.6f},{:.3f},{:.3f}", f.atMs / 1000, 900 - 0.1 * static_cast<double>(f.i), f.ms);
         }},
        {"battery %,frame ms\n", [](const OrderedFrame& f) { return fmt::format("{},{:.3f}", 99 - f.i / 40, f.ms); }}};
    for (const auto& [heading, row] : logs) {
        const auto read = readLogText(textInOrder(heading, orderedRows(row), false));
        ASSERT_TRUE(read.has_value()) << heading;
        EXPECT_FALSE(newestFirstNote(*read)) << heading;
        ASSERT_EQ(read->frames(), 2600U) << heading;
        EXPECT_NEAR(read->framesMs[1], 15.4 + 0.37 * 2, 0.002) << heading;
    }
    // OrderedFrame times that fall evenly are frame times where the heading says so.
    std::string falling = "frame time (ms)\n";
    for (int i = 0; i < 60; ++i) falling += fmt::format("{:.1f}\n", 40 - 0.3 * i);
    const auto read = readLogText(falling);
    ASSERT_TRUE(read.has_value());
    EXPECT_FALSE(newestFirstNote(*read));
    EXPECT_EQ(read->framesMs.front(), 40);
    EXPECT_EQ(read->frames(), 60U);
}

TEST(NewestFirstTest, AFallingClockIsNeverFrameTimes) {
    // It falls, and once begins anew: whatever that is, 65 s are no frames of 65 ms.
    std::string text = "time\n";
    for (int part = 0; part < 2; ++part)
        for (int i = 0; i < 900; ++i) text += fmt::format("{:.4f}\n", 65.2 - 0.0161 * i - 0.0003 * (i % 4));
    const auto read = readLogText(text);
    EXPECT_TRUE(!read || newestFirstNote(*read)) << "frames " << (read ? read->frames() : 0);
}
