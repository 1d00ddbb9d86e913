// SPDX-License-Identifier: GPL-3.0-or-later
// Numbers as logs of other countries and programs write them, and what is none.
#include "logs/number.h"
#include "support/support.h"

#include <cmath>
#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>
#include <numeric>

using namespace impasto;
using namespace impasto::logs;

namespace {

double numberedMs(std::size_t i) {
    return 15.4 + 0.371 * static_cast<double>((7 * i) % 5) + (i % 61 == 0 ? 11 : 0);
}

constexpr std::size_t numberedFrames = 300;

std::string numberedRows(const std::string& heading, const std::function<std::string(std::size_t, double atMs)>& row) {
    std::string text = heading;
    double at = 0;
    for (std::size_t i = 0; i < numberedFrames; ++i) text += row(i, at += numberedMs(i));
    return text;
}

/// "1234.567" with marks between groups of three.
std::string inGroups(double value, const std::string& group, char decimal) {
    std::string text = fmt::format("{:.3f}", value);
    std::size_t at = text.find('.');
    text[at] = decimal;
    for (; at > 3; at -= 3) text.insert(at - 3, group);
    return text;
}

void expectFrames(const Result<capture::Capture>& read, std::size_t first, const std::string& of) {
    ASSERT_TRUE(read.has_value()) << of << ": " << static_cast<int>(read.error().code) << " " << read.error().what;
    ASSERT_EQ(read->frames(), numberedFrames - first) << of;
    for (std::size_t i = 0; i < read->frames(); ++i) EXPECT_NEAR(read->framesMs[i], numberedMs(i + first), 0.002) << of;
    EXPECT_TRUE(notesOf(*read).empty()) << of;
}

std::optional<Note> noteIn(const capture::Capture& capture, NoteKind kind) {
    for (const auto& note : notesOf(capture))
        if (note.kind == kind) return note;
    return std::nullopt;
}

bool tellsUnit(const capture::Capture& capture) {
    return noteIn(capture, NoteKind::UnitBySize).has_value();
}

} // namespace

TEST(NumberTest, GroupsOfThreeDigits) {
    const struct {
        const char* cell;
        bool comma;
        double value;
    } numbers[] = {{"1.234,5", true, 1234.5},
                   {"1.234.567", true, 1234567},
                   {"-12.345,75", true, -12345.75},
                   {"1,234.5", false, 1234.5},
                   {"\"1,234,567.25\"", false, 1234567.25},
                   {"1 234,5", true, 1234.5},
                   {"1\xc2\xa0"
                    "234,5",
                    true, 1234.5},
                   {"12\xe2\x80\xaf"
                    "345",
                    true, 12345},
                   {"1'234.5", false, 1234.5},
                   {"1'234", false, 1234},
                   {"16,75", true, 16.75},
                   {" 16.75 ", false, 16.75}};
    for (const auto& [cell, comma, value] : numbers) {
        const auto read = parseNumber(cell, comma);
        ASSERT_TRUE(read.has_value()) << cell;
        EXPECT_EQ(*read, value) << cell;
    }
    // A fraction, groups of other lengths, two marks, a clock, a date, an address, nothing.
    for (const char* cell : {"1,234", "12,34.5", "1234,567.8", "1,234,56", "1,,234", "1,234.567,8", "12:345.6",
                             "10.0.0.1", "", "-", "1 2 3", "1 234", ".", ",123", "1,234x", "0x1,234.0"})
        EXPECT_FALSE(parseNumber(cell, false).has_value()) << cell;
    EXPECT_EQ(parseNumber("1.234", true), 1.234) << "of a log with decimal commas, too";
}

TEST(NumberTest, ClocksWithThousandsInGroups) {
    const struct {
        const char *group, *delimiter;
        char decimal;
    } writers[] = {{".", ";", ','},
                   {".", "\t", ','},
                   {",", ";", '.'},
                   {",", "\t", '.'},
                   {"\xc2\xa0", ";", ','},
                   {" ", ";", ','},
                   {"\xe2\x80\xaf", "\t", ','},
                   {"'", ",", '.'}};
    for (const auto& w : writers) {
        const auto log = numberedRows(fmt::format("Zeit ms{}GPU ms\n", w.delimiter), [&](std::size_t, double at) {
            return inGroups(at, w.group, w.decimal) + w.delimiter + inGroups(9.125, w.group, w.decimal) + "\n";
        });
        expectFrames(readLogText(log), 1, log.substr(0, 60));
    }
    const auto quoted = numberedRows("elapsed ms,x\n", [](std::size_t i, double at) {
        return fmt::format("\"{}\",{}\n", inGroups(at, ",", '.'), i % 3);
    });
    expectFrames(readLogText(quoted), 1, "quoted");
}

TEST(NumberTest, LinesOfOtherKinds) {
    // Drawn under a heading, and bars at both ends.
    expectFrames(readLogText(numberedRows(
                     "| frame | frame time ms |\n|------:|:---|\n",
                     [](std::size_t i, double) { return fmt::format("| {} | {:.3f} |\n", i, numberedMs(i)); })),
                 0, "bars");
    expectFrames(readLogText(numberedRows(
                     "frame  ms\n=====  ======\n",
                     [](std::size_t i, double) { return fmt::format("{:5}  {:.3f}\n", i, numberedMs(i)); })),
                 0, "underlined");
    // What is missing in a whole row is no line that was drawn.
    const auto missing = readLogText(numberedRows("index\tframe_ms\n", [](std::size_t i, double) {
        return i == 70 ? std::string("--\t--\n") : fmt::format("{}\t{:.3f}\n", i, numberedMs(i));
    }));
    ASSERT_TRUE(missing.has_value());
    ASSERT_EQ(notesOf(*missing).size(), 1U);
    EXPECT_EQ(notesOf(*missing).front().kind, NoteKind::MissingTime);
    // Carriage returns alone.
    const auto returns =
        numberedRows("frame,ms\r", [](std::size_t i, double) { return fmt::format("{},{:.3f}\r", i, numberedMs(i)); });
    expectFrames(readLogText(returns), 0, "text of returns");
    const support::TemporaryFolder folder;
    expectFrames(readLog(folder.write("returns.csv", returns)), 0, "file of returns");
    // A mark at the begin of each line is no JSON.
    const auto marked = numberedRows("", [](std::size_t i, double at) {
        return fmt::format("[{:02}:{:06.3f}] frame {} took {:.3f} ms\n", 12, at / 1000, i, numberedMs(i));
    });
    expectFrames(readLogText(marked), 0, "marked lines");
    EXPECT_EQ(readLogText("[1, 2, 3] trailing words\n").error().code, ErrorCode::NoFrames);
    // Hertz are a rate.
    expectFrames(readLogText(numberedRows("interval,Hz\n",
                                          [](std::size_t i, double) {
                                              return fmt::format("{:.3f},{:.2f}\n", numberedMs(i),
                                                                 1000 / numberedMs(i));
                                          })),
                 0, "hertz");
}

TEST(NumberTest, FramesOfNoTimeUpToAFifthWhereAHeadingSaysWhatTheyAre) {
    const auto log = [](const char* heading, std::size_t nth) {
        return numberedRows(heading, [nth](std::size_t i, double) {
            return fmt::format("{:.3f},{}\n", i % nth == 3 ? 0 : numberedMs(i), i % nth == 3);
        });
    };
    const auto read = readLogText(log("frametime_ms,dropped\n", 6));
    ASSERT_TRUE(read.has_value()) << static_cast<int>(read.error().code);
    EXPECT_EQ(read->frames(), numberedFrames - numberedFrames / 6);
    ASSERT_EQ(notesOf(*read).size(), 1U);
    EXPECT_EQ(notesOf(*read).front().kind, NoteKind::ZeroTime);
    EXPECT_EQ(notesOf(*read).front().count, numberedFrames / 6);
    EXPECT_FALSE(readLogText(log("frametime_ms,dropped\n", 4)).has_value());
    EXPECT_FALSE(readLogText(log("value,dropped\n", 6)).has_value()) << "it may be anything";
}

TEST(NumberTest, AnUnusualRateThatRestsOnAUnitOfNoHeadingIsTold) {
    const auto clock = [](const char* heading, double perMs) {
        return readLogText(numberedRows(
            heading, [perMs](std::size_t, double at) { return fmt::format("{}\n", std::llround(1e6 + at * perMs)); }));
    };
    const auto ticks = clock("pts\n", 90); // of a video clock: taken for µs
    ASSERT_TRUE(ticks.has_value());
    ASSERT_TRUE(tellsUnit(*ticks));
    const auto note = *noteIn(*ticks, NoteKind::UnitBySize);
    EXPECT_EQ(note.names.front().first, "us");
    EXPECT_NEAR(static_cast<double>(note.names.front().second),
                1000 * static_cast<double>(ticks->frames()) / capture::durationMs(*ticks), 0.51);
    // Not where the heading says it, where the rate is a game's, or where a hand said it.
    EXPECT_FALSE(tellsUnit(*clock("pts (us)\n", 90)));
    EXPECT_FALSE(tellsUnit(*clock("pts\n", 1000)));
    ReadOptions said;
    said.dialect = dialectOf(ticks->notes.at("dialect"));
    ASSERT_TRUE(said.dialect);
    const auto byHand = readLogText(
        numberedRows("pts\n", [](std::size_t, double at) { return fmt::format("{}\n", std::llround(1e6 + at * 90)); }),
        said);
    ASSERT_TRUE(byHand.has_value());
    EXPECT_FALSE(tellsUnit(*byHand));
    const auto times = readLogText(numberedRows("at\n", [](std::size_t i, double) { // 4 fps by clock times
        return fmt::format("10:{:02}:{:06.3f}\n", i / 240,
                           0.25 * static_cast<double>(i % 240) + 0.01 * static_cast<double>(i % 3));
    }));
    ASSERT_TRUE(times.has_value()) << static_cast<int>(times.error().code);
    EXPECT_FALSE(tellsUnit(*times));
}

TEST(NumberTest, AColumnThatIsTakenForTheTimeThoughItsHeadingSaysNothingOfItIsTold) {
    const auto taken = [](const char* heading) {
        const auto read = readLogText(
            numberedRows(heading, [](std::size_t i, double) { return fmt::format("{},{:.3f}\n", i, numberedMs(i)); }));
        EXPECT_TRUE(read.has_value()) << heading;
        return read ? noteIn(*read, NoteKind::TakenForTime) : std::nullopt;
    };
    const auto note = taken("n,value\n");
    ASSERT_TRUE(note);
    EXPECT_EQ(note->names, (std::vector<std::pair<std::string, std::size_t>>{{"value", 2}}));
    for (const char* heading : {"n,frame time\n", "n,ms\n", "n,dt\n", "n,Bildzeit (ms)\n", ""})
        EXPECT_FALSE(taken(heading));
    EXPECT_EQ(taken("\"n\",\"Verdi\"\n")->names.front().first, "Verdi");
    EXPECT_EQ(taken(("n," + std::string(5000, 'x') + "\n").c_str())->names.front().first, std::string(80, 'x'));
    // A round trip is none of a frame.
    EXPECT_FALSE(readLogText(numberedRows("seq,ping ms\n", [](std::size_t i, double) {
                     return fmt::format("{},{:.2f}\n", i, 2 * numberedMs(i));
                 })).has_value());
}

TEST(NumberTest, LastRowsThatNameThemselvesFiguresOfAllAreNoFrames) {
    const auto log = [](const std::string& tail, const std::function<std::string(std::size_t)>& name) {
        return readLogText(numberedRows("frame,frame_ms,gpu_ms\n",
                                        [&](std::size_t i, double) {
                                            return fmt::format("{},{:.3f},{:.3f}\n", name(i), numberedMs(i),
                                                               0.5 * numberedMs(i));
                                        }) +
                           tail);
    };
    const auto number = [](std::size_t i) { return std::to_string(i); };
    for (const char* tail :
         {"avg,16.6,8\nmin,15.4,7\nmax,27.2,14\n", "\"Average\",16.6,8\n\"Max\",27,13\n\"Sum\",9,9\n",
          "Mean:,16.6,8\nMedian:,16.1,8\nstddev:,2.1,1\n", "avg fps,61.2,8\n1% low,24.0,14\n0.1% low,42,20\n"}) {
        const auto read = log(tail, number);
        ASSERT_TRUE(read.has_value()) << tail;
        EXPECT_EQ(read->frames(), numberedFrames) << tail;
        EXPECT_EQ(read->gpuWorkMs->size(), numberedFrames);
        ASSERT_TRUE(noteIn(*read, NoteKind::Ending)) << tail;
        EXPECT_EQ(noteIn(*read, NoteKind::Ending)->count, 3U);
        EXPECT_EQ(noteIn(*read, NoteKind::Ending)->firstLine, numberedFrames + 2);
    }
    // Wherever the word stands in the row.
    for (const char* last : {"16.6,8,average\n", "16.6,8,\"max\"\n", "16.6,avg,8\n"}) {
        const auto read =
            readLogText(numberedRows("frame_ms,gpu_ms,remark\n",
                                     [](std::size_t i, double) {
                                         return fmt::format("{:.3f},{:.3f},{}\n", numberedMs(i), 0.7 * numberedMs(i),
                                                            i % 50 == 7 ? "jump" : "");
                                     }) +
                        last);
        ASSERT_TRUE(read.has_value()) << last;
        EXPECT_EQ(read->frames(), numberedFrames) << last;
        ASSERT_TRUE(noteIn(*read, NoteKind::Ending)) << last;
    }
    // Words that only look like it: of the mode in which each frame was made.
    const auto modes = log("", [](std::size_t i) { return i < numberedFrames / 2 ? "min" : "max"; });
    ASSERT_TRUE(modes.has_value());
    EXPECT_EQ(modes->frames(), numberedFrames);
    const auto once = log("", [](std::size_t i) { return i == 40 ? std::string("max") : std::to_string(i); });
    ASSERT_TRUE(once.has_value());
    EXPECT_EQ(once->frames(), numberedFrames);
}

TEST(NumberTest, WorkIsReadInTheUnitOfItsHeadingOrOfWhatAFrameHolds) {
    const auto log = [](const char* heading, double cpuPerMs, double gpuPerMs) {
        return readLogText(numberedRows(heading, [&](std::size_t i, double) {
            return fmt::format("{:.3f},{:.4f},{:.4f}\n", numberedMs(i), cpuPerMs * 0.4 * numberedMs(i),
                               gpuPerMs * 0.9 * numberedMs(i));
        }));
    };
    const auto mean = [](const std::vector<double>& v) {
        return std::accumulate(v.begin(), v.end(), 0.0) / static_cast<double>(v.size());
    };
    const auto frame = [&](const capture::Capture& c) { return mean(c.framesMs); };
    for (const auto& read : {log("frame_ms,cpu_time,gpu_time\n", 1000, 1000), log("frame_ms,cpu ms,gpu ms\n", 1, 1),
                             log("frame_ms,cpu_time,gpu_time\n", 1, 1), log("frame_ms,cpu us,gpu us\n", 1000, 1000),
                             log("frame_ms,cpu_time,gpu_time\n", 0.001, 0.001),
                             log("frame_ms,cpu ms,gpu us\n", 1, 1000), log("frame_ms,cpu ns,gpu s\n", 1e6, 0.001)}) {
        ASSERT_TRUE(read.has_value());
        ASSERT_TRUE(read->cpuWorkMs && read->gpuWorkMs) << read->notes.at("dialect");
        EXPECT_NEAR(mean(*read->cpuWorkMs), 0.4 * frame(*read), 0.05) << read->notes.at("dialect");
        EXPECT_NEAR(mean(*read->gpuWorkMs), 0.9 * frame(*read), 0.05) << read->notes.at("dialect");
    }
}

TEST(NumberTest, AColumnOfAppsTellsThemApart) {
    const auto read = readLogText(numberedRows("app,frame_ms\n", [](std::size_t i, double) {
        return fmt::format("game,{:.3f}\n{}", numberedMs(i), i % 3 == 0 ? "shell,33.3\n" : "");
    }));
    ASSERT_TRUE(read.has_value());
    EXPECT_EQ(read->frames(), numberedFrames);
    EXPECT_TRUE(noteIn(*read, NoteKind::OtherProgram));
}

TEST(NumberTest, EmptyLinesOfALogOfOneColumnAreFramesWithoutATime) {
    const auto log = [](std::size_t nth, const std::string& tail) {
        return readLogText(numberedRows("frame_ms\n",
                                        [nth](std::size_t i, double) {
                                            return i % nth == 5 ? std::string("\n")
                                                                : fmt::format("{:.3f}\n", numberedMs(i));
                                        }) +
                           tail);
    };
    const auto read = log(10, "\n\n\n");
    ASSERT_TRUE(read.has_value());
    EXPECT_EQ(read->frames(), numberedFrames - numberedFrames / 10);
    ASSERT_TRUE(noteIn(*read, NoteKind::MissingTime));
    EXPECT_EQ(noteIn(*read, NoteKind::MissingTime)->count, numberedFrames / 10) << "not those at the end";
    EXPECT_EQ(noteIn(*read, NoteKind::MissingTime)->firstLine, 7U);
    // Every second line is how it was written; and in a table a blank line says nothing.
    const auto spaced = readLogText(
        numberedRows("frame_ms\n", [](std::size_t i, double) { return fmt::format("{:.3f}\n\n", numberedMs(i)); }));
    ASSERT_TRUE(spaced.has_value());
    EXPECT_TRUE(notesOf(*spaced).empty());
    const auto table = readLogText(numberedRows("n,frame_ms\n", [](std::size_t i, double) {
        return fmt::format("{},{:.3f}\n{}", i, numberedMs(i), i % 9 == 0 ? "\n" : "");
    }));
    ASSERT_TRUE(table.has_value());
    EXPECT_TRUE(notesOf(*table).empty());
}
