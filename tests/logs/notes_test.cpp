// SPDX-License-Identifier: GPL-3.0-or-later
// A figure is right, or the user was asked, or told: what readers pass over is noted, and what is no list of frames is
// refused. Every rule in both directions.
#include "support/support.h"

#include <impasto/base/random.h>

#include <cmath>
#include <fcntl.h>
#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>
#include <sys/stat.h>
#include <zlib.h>
#include <zstd.h>

using namespace impasto;
using namespace impasto::logs;

namespace {

/// A frame's time in the made-up logs, ms.
double frameAt(int i) {
    return 16 + (i % 7) * 0.25;
}

std::string logOf(const std::string& heading, int frames, const std::function<std::string(int, double)>& row) {
    std::string text = heading.empty() ? std::string() : heading + "\n";
    double at = 0;
    for (int i = 0; i < frames; ++i) {
        at += frameAt(i);
        text += row(i, at) + "\n";
    }
    return text;
}

std::string plainRow(int i, double) {
    return fmt::format("{},{:.2f}", i, frameAt(i));
}

std::map<std::string, std::pair<std::size_t, std::size_t>> noted(const capture::Capture& capture) {
    std::map<std::string, std::pair<std::size_t, std::size_t>> out;
    for (const auto& note : notesOf(capture)) out[std::string(keyOf(note.kind))] = {note.count, note.firstLine};
    return out;
}

ErrorCode codeOf(const std::string& text) {
    const auto capture = readLogText(text);
    EXPECT_FALSE(capture.has_value()) << text.substr(0, 60);
    return capture ? ErrorCode::Internal : capture.error().code;
}

} // namespace

TEST(NotesTest, AWholeLogHasNone) {
    const auto capture = readLogText(logOf("index,frame_ms", 200, plainRow));
    ASSERT_TRUE(capture.has_value());
    EXPECT_EQ(capture->frames(), 200U);
    EXPECT_TRUE(notesOf(*capture).empty());
}

TEST(NotesTest, RowsWithoutATimeArePassedOverAndTold) {
    for (const char* word : {"NA", "n/a", "-", "null", "NaN", "", "\"\""}) {
        const auto capture = readLogText(logOf("index,frame_ms", 200, [&](int i, double at) {
            return i == 50 || i == 90 ? fmt::format("{},{}", i, word) : plainRow(i, at);
        }));
        ASSERT_TRUE(capture.has_value()) << word << ": " << capture.error().what;
        EXPECT_EQ(capture->frames(), 198U) << word;
        EXPECT_EQ(noted(*capture),
                  (std::map<std::string, std::pair<std::size_t, std::size_t>>{{"missing_time", {2, 52}}}))
            << word;
    }
    // Up to a fifth; then the lows would say little.
    const auto withEvery = [](int nth) {
        return logOf("index,frame_ms", 600,
                     [&](int i, double at) { return i % nth == 0 ? fmt::format("{},NA", i) : plainRow(i, at); });
    };
    EXPECT_TRUE(readLogText(withEvery(6)).has_value());
    EXPECT_FALSE(readLogText(withEvery(4)).has_value());
    // A stamp that is missing makes no long frame of two.
    const auto stamps = readLogText(logOf(
        "time_ms", 200, [](int i, double at) { return i == 50 ? std::string("NA") : fmt::format("{:.3f}", at); }));
    ASSERT_TRUE(stamps.has_value()) << stamps.error().what;
    EXPECT_LT(*std::max_element(stamps->framesMs.begin(), stamps->framesMs.end()), 18);
    EXPECT_EQ(noted(*stamps).at("missing_time").second, 52U);
    // A word that is no word for nothing is an error, where frames follow it.
    EXPECT_EQ(codeOf(logOf("index,frame_ms", 200,
                           [](int i, double at) { return i == 50 ? std::string("50,soon") : plainRow(i, at); })),
              ErrorCode::BadNumber);
}

TEST(NotesTest, ASummaryAtTheEndIsNoFrame) {
    const auto body = logOf("index,frame_ms", 200, plainRow);
    for (const std::string ending :
         {"average,16.75 ms\nworst,17.50 ms\n", "total\n\n", "Average,n ms,x\n", "199 frames\n17.5 worst\n"}) {
        const auto capture = readLogText(body + ending);
        ASSERT_TRUE(capture.has_value()) << ending << capture.error().what;
        EXPECT_EQ(capture->frames(), 200U) << ending;
        EXPECT_EQ(notesOf(*capture).size(), 1U) << ending;
        EXPECT_EQ(notesOf(*capture).front().firstLine, 202U) << ending;
    }
}

TEST(NotesTest, RowsOfAnotherKindArePassedOverWhereTheyAreFew) {
    const auto capture = readLogText(logOf("index,frame_ms,load", 300, [](int i, double) {
        return i % 50 == 30 ? fmt::format("event {}", i) : fmt::format("{},{:.2f},71", i, frameAt(i));
    }));
    ASSERT_TRUE(capture.has_value()) << capture.error().what;
    EXPECT_EQ(capture->frames(), 294U);
    EXPECT_EQ(noted(*capture).at("other_width"), (std::pair<std::size_t, std::size_t>{6, 32}));
    // Where they are many the log is not what it was taken for.
    const auto many = readLogText(logOf("index,frame_ms,load", 2600, [](int i, double) {
        return i > 1500 ? fmt::format("{},{:.2f}", i, frameAt(i)) : fmt::format("{},{:.2f},71", i, frameAt(i));
    }));
    ASSERT_FALSE(many.has_value());
    EXPECT_EQ(many.error().code, ErrorCode::UnevenRow);
    EXPECT_EQ(many.error().where.line, 1503U);
}

TEST(NotesTest, AUnitThatChangesOnTheWayIsTold) {
    // From row 220 on, microseconds.
    const auto changed = [](int times) {
        return readLogText(logOf("index,frame_ms", 300, [times](int i, double) {
            return fmt::format("{},{:.3f}", i, frameAt(i) * (i >= 220 ? times : 1));
        }));
    };
    const auto capture = changed(1000);
    ASSERT_TRUE(capture.has_value()) << capture.error().what;
    EXPECT_EQ(noted(*capture),
              (std::map<std::string, std::pair<std::size_t, std::size_t>>{{"unit_change", {80, 222}}}));
    EXPECT_TRUE(notesOf(*changed(20)).empty()) << "it became slow";
    const auto stamps = readLogText(logOf("time_s", 300, [](int i, double at) {
        const double before = 220 * 0.01675;
        return fmt::format("{:.5f}", i < 220 ? at / 1000 : before + (at / 1000 - before) * 1000);
    }));
    ASSERT_TRUE(stamps.has_value()) << stamps.error().what;
    EXPECT_TRUE(noted(*stamps).contains("unit_change"));
    // A stall, even one of two frames, is none.
    const auto stall = readLogText(logOf("index,frame_ms", 300, [](int i, double) {
        return fmt::format("{},{:.3f}", i, frameAt(i) * (i == 120 || i == 121 ? 400 : 1));
    }));
    ASSERT_TRUE(stall.has_value());
    EXPECT_TRUE(notesOf(*stall).empty());
}

TEST(NotesTest, TimesThatNoFrameTakesAreTold) {
    const auto withOdd = [](const std::string& odd) {
        return readLogText(logOf("index,frame_ms", 300, [&](int i, double at) {
            return i == 100 ? fmt::format("{},{}", i, odd) : plainRow(i, at);
        }));
    };
    for (const auto& [odd, key] : std::map<std::string, std::string>{
             {"0", "zero_time"}, {"1e21", "absurd_time"}, {"90000", "absurd_time"}, {"0.001", "absurd_time"}}) {
        const auto capture = withOdd(odd);
        ASSERT_TRUE(capture.has_value()) << odd << capture.error().what;
        EXPECT_EQ(capture->frames(), 299U) << odd;
        EXPECT_TRUE(noted(*capture).contains(key)) << odd;
    }
    EXPECT_EQ(withOdd("900.00")->frames(), 300U) << "a long stall is a frame";
    EXPECT_TRUE(notesOf(*withOdd("900.00")).empty());
    const auto repeated = readLogText(logOf("time_s", 300, [](int i, double at) {
        return fmt::format("{:.5f}", i == 100 ? (at - frameAt(100)) / 1000 : at / 1000);
    }));
    ASSERT_TRUE(repeated.has_value()) << repeated.error().what;
    EXPECT_EQ(noted(*repeated).at("repeated_stamp"), (std::pair<std::size_t, std::size_t>{1, 102}));
    EXPECT_EQ(codeOf("frame_ms\n16\n17\n"), ErrorCode::NoFrames) << "of two frames no figure is told";
}

TEST(NotesTest, DatesAndClockTimesAreStamps) {
    const auto clock = [](double ms) {
        const auto whole = static_cast<long>(ms);
        return fmt::format("{:02}:{:02}:{:02}.{:03}", whole / 3600000 % 24, whole / 60000 % 60, whole / 1000 % 60,
                           whole % 1000);
    };
    const std::vector<std::pair<std::string, std::function<std::string(double)>>> kinds{
        {"ISO with a zone", [&](double at) { return "2031-04-05T" + clock(at + 4e7) + "Z"; }},
        {"ISO with an offset", [&](double at) { return "2031-04-05T" + clock(at + 4e7) + "+02:00"; }},
        {"a space", [&](double at) { return "2031-04-05 " + clock(at + 4e7); }},
        {"the time alone", [&](double at) { return clock(at + 4e7); }},
        {"over midnight", [&](double at) { return clock(at + 86400000 - 2500); }}};
    for (const auto& [what, write] : kinds) {
        const auto capture =
            readLogText(logOf("when,gpu load %", 400, [&](int, double at) { return fmt::format("{},70", write(at)); }));
        ASSERT_TRUE(capture.has_value()) << what << ": " << capture.error().what;
        EXPECT_EQ(capture->frames(), 399U) << what;
        const double mean = capture::durationMs(*capture) / 399;
        EXPECT_NEAR(mean, 16.75, 0.01) << what;
    }
    // Beside frame times they are no second time.
    const auto both = readLogText(logOf("when,frame_ms", 200, [&](int i, double at) {
        return fmt::format("2031-04-05T{}Z,{:.2f}", clock(at + 4e7), frameAt(i));
    }));
    ASSERT_TRUE(both.has_value()) << both.error().what;
    EXPECT_EQ(both->frames(), 200U);
    EXPECT_EQ(codeOf(logOf("when", 100, [](int i, double) { return fmt::format("2031-13-0{}T10:61:00", 1 + i % 9); })),
              ErrorCode::NoFrames);
}

TEST(NotesTest, AClockIsNeverTakenForFrameTimes) {
    // It falls, but not to where it began, and goes on.
    const auto fallen = readLogText(logOf("elapsed", 1000, [](int i, double at) {
        return fmt::format("{:.4f}", (i < 700 ? at : at - 400 * 16.75) / 1000);
    }));
    ASSERT_FALSE(fallen.has_value());
    EXPECT_EQ(fallen.error().code, ErrorCode::TimeRunsBackwards);
    EXPECT_EQ(fallen.error().where.line, 702U);
    // It stands still: whole seconds beside other figures.
    EXPECT_EQ(
        codeOf(logOf("second,gpu load %", 600,
                     [](int i, double at) { return fmt::format("{},{}", static_cast<int>(at / 1000), 60 + i % 9); })),
        ErrorCode::NoTimeColumn);
    // Beside frame times it harms nothing.
    const auto beside = readLogText(logOf("second,frame_ms", 600, [](int i, double at) {
        return fmt::format("{},{:.2f}", static_cast<int>(at / 1000), frameAt(i));
    }));
    ASSERT_TRUE(beside.has_value()) << beside.error().what;
    EXPECT_EQ(beside->frames(), 600U);
    // A frame counter with gaps is no clock.
    EXPECT_EQ(codeOf(logOf("frame number,gpu load %", 600,
                           [](int i, double) { return fmt::format("{},{}", i + i / 40, 60 + i % 9); })),
              ErrorCode::NoTimeColumn);
}

TEST(NotesTest, RatesAreNoFrames) {
    const auto told = [](const std::string& text) {
        const auto capture = readLogText(text);
        EXPECT_FALSE(capture.has_value()) << text.substr(0, 40);
        return capture || capture.error().code != ErrorCode::NotFrames ? std::string("read") : capture.error().what;
    };
    EXPECT_EQ(told(logOf("time_s,fps", 120, [](int i, double) { return fmt::format("{},{}", i, 58 + i % 5); })),
              "one rate every 1 s (average 60.0, 58.0 to 62.0 fps)");
    EXPECT_EQ(told(logOf("time_ms,fps", 120, [](int i, double) { return fmt::format("{},{}", 250 * i, 58 + i % 5); })),
              "one rate every 0.25 s (average 60.0, 58.0 to 62.0 fps)");
    EXPECT_EQ(told(logOf("fps", 120, [](int i, double) { return std::to_string(58 + i % 5); })), "one rate a line");
    EXPECT_EQ(told(logOf("run,average fps,1% low", 8,
                         [](int i, double) { return fmt::format("{},{},{}", i + 1, 61 + i, 48 - i); })),
              "averages and lows of runs");
    // A rate beside the frames' own times is another column.
    const auto momentary = readLogText(logOf(
        "time_ms,fps", 600, [](int i, double at) { return fmt::format("{:.3f},{:.1f}", at, 1000 / frameAt(i)); }));
    ASSERT_TRUE(momentary.has_value()) << momentary.error().what;
    EXPECT_EQ(momentary->frames(), 599U);
    EXPECT_NEAR(capture::durationMs(*momentary) / 599, 16.75, 0.01);
}

TEST(NotesTest, AHeadingAndValuesThatDisagreeAreAsked) {
    const auto inUnit = [](const std::string& heading, double factor) {
        return logOf(heading, 200, [&](int i, double) { return fmt::format("{:.4f}", frameAt(i) * factor); });
    };
    EXPECT_EQ(codeOf(inUnit("frame (ms)", 1000)), ErrorCode::UnclearUnit);
    EXPECT_EQ(readLogText(inUnit("frame (ms)", 1000)).error().what, "ms/us");
    EXPECT_EQ(codeOf(inUnit("frame_s", 1)), ErrorCode::UnclearUnit);
    // Where they agree, or none is said, nothing is asked.
    for (const auto& [heading, factor] :
         std::map<std::string, double>{{"frame (ms)", 1}, {"frame_us", 1000}, {"frame_s", 0.001}, {"frame", 1000}})
        EXPECT_TRUE(readLogText(inUnit(heading, factor)).has_value()) << heading;
    // It can be looked at and said.
    const support::TemporaryFolder folder;
    const auto preview = previewLog(folder.write("log.csv", inUnit("frame (ms)", 1000)));
    ASSERT_TRUE(preview.has_value());
    EXPECT_EQ(preview->dialect.unit, TimeUnit::Milliseconds);
    EXPECT_EQ(preview->begin.error().code, ErrorCode::UnclearUnit);
    auto said = preview->dialect;
    said.unit = TimeUnit::Microseconds;
    EXPECT_TRUE(readLogText(inUnit("frame (ms)", 1000), {said}).has_value());
}

TEST(NotesTest, CommasInCellsAndBetweenThemAreToldApart) {
    const auto comma = [](double v) {
        auto text = fmt::format("{:.2f}", v);
        std::replace(text.begin(), text.end(), '.', ',');
        return text;
    };
    // Two columns of whole numbers, whose heading says so.
    const auto two = readLogText(
        logOf("frame_ms,level", 200, [](int i, double) { return fmt::format("{},{}", 16 + i % 3, 10 + i % 80); }));
    ASSERT_TRUE(two.has_value()) << two.error().what;
    EXPECT_EQ(two->framesMs[1], 17);
    // One column with a decimal comma, with a heading of one cell, and without any.
    for (const char* heading : {"frame_ms", ""}) {
        const auto one = readLogText(logOf(heading, 200, [&](int i, double) { return comma(frameAt(i)); }));
        ASSERT_TRUE(one.has_value()) << heading << one.error().what;
        EXPECT_DOUBLE_EQ(one->framesMs[1], 16.25) << heading;
    }
    // Quoted cells with decimal commas between commas.
    const auto quoted = readLogText(logOf("frame_ms,load", 200, [&](int i, double) {
        return fmt::format("\"{}\",\"{}\"", comma(frameAt(i)), comma(71.5));
    }));
    ASSERT_TRUE(quoted.has_value()) << quoted.error().what;
    EXPECT_DOUBLE_EQ(quoted->framesMs[1], 16.25);
}

TEST(NotesTest, APackedFileThatEndsEarlyIsTold) {
    const auto text = logOf("index,frame_ms", 20000, plainRow);
    const support::TemporaryFolder folder;
    const auto whole = folder.path("log.gz");
    auto* out = gzopen(whole.c_str(), "wb");
    ASSERT_NE(out, nullptr);
    gzwrite(out, text.data(), static_cast<unsigned>(text.size()));
    gzclose(out);
    const auto bytes = support::textOf(whole);
    const auto good = readLog(whole);
    ASSERT_TRUE(good.has_value());
    EXPECT_TRUE(notesOf(*good).empty());
    const auto cut = readLog(folder.write("cut.gz", bytes.substr(0, bytes.size() / 2)));
    ASSERT_TRUE(cut.has_value()) << cut.error().what;
    EXPECT_TRUE(noted(*cut).contains("cut_file"));
    EXPECT_LT(cut->frames(), 20000U);
    for (std::size_t i = 0; i < cut->frames(); ++i) ASSERT_EQ(cut->framesMs[i], frameAt(static_cast<int>(i))) << i;
    auto flipped = bytes;
    flipped[bytes.size() - 6] = static_cast<char>(flipped[bytes.size() - 6] ^ 0x10); // of the checksum
    const auto wrong = readLog(folder.write("flipped.gz", flipped));
    EXPECT_TRUE(!wrong || noted(*wrong).contains("cut_file"));
}

TEST(NotesTest, AFlippedBitOfAPackedLogIsNeverSilent) {
    const auto text = logOf("index,frame_ms", 3000, plainRow);
    const auto frames = readLogText(text)->framesMs;
    std::string gzip(compressBound(static_cast<uLong>(text.size())) + 64, '\0');
    z_stream stream{};
    ASSERT_EQ(deflateInit2(&stream, 6, Z_DEFLATED, 15 + 16, 8, Z_DEFAULT_STRATEGY), Z_OK);
    std::string in = text;
    stream.next_in = reinterpret_cast<Bytef*>(in.data());
    stream.avail_in = static_cast<uInt>(in.size());
    stream.next_out = reinterpret_cast<Bytef*>(gzip.data());
    stream.avail_out = static_cast<uInt>(gzip.size());
    ASSERT_EQ(deflate(&stream, Z_FINISH), Z_STREAM_END);
    gzip.resize(stream.total_out);
    deflateEnd(&stream);
    const auto zstd = [&](int checksum) {
        const std::unique_ptr<ZSTD_CCtx, std::size_t (*)(ZSTD_CCtx*)> context(ZSTD_createCCtx(), ZSTD_freeCCtx);
        ZSTD_CCtx_setParameter(context.get(), ZSTD_c_checksumFlag, checksum);
        std::string out(ZSTD_compressBound(text.size()), '\0');
        out.resize(ZSTD_compress2(context.get(), out.data(), out.size(), text.data(), text.size()));
        return out;
    };
    EXPECT_FALSE(noted(*readLogText(zstd(1))).contains("unchecked"));
    EXPECT_TRUE(noted(*readLogText(zstd(0))).contains("unchecked"));
    RandomStream s(6, "flipped bits");
    int read = 0;
    for (const auto& packed : {gzip, zstd(1), zstd(0)})
        for (int i = 0; i < 150; ++i) {
            auto flipped = packed;
            auto& byte = flipped[s.below(flipped.size())];
            byte = static_cast<char>(byte ^ (1 << s.below(8)));
            const auto got = readLogText(flipped);
            if (!got) continue;
            ++read;
            EXPECT_TRUE(got->framesMs == frames || !notesOf(*got).empty()) << i;
        }
    EXPECT_GT(read, 100);
}

TEST(NotesTest, OnlyPlainFilesAreRead) {
    const support::TemporaryFolder folder;
    const auto pipe = folder.path("pipe");
    ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
    EXPECT_EQ(readLog(pipe).error().code, ErrorCode::CannotRead) << "at once, though nobody writes to it";
    EXPECT_EQ(readLog("/dev/zero").error().code, ErrorCode::CannotRead);
    EXPECT_EQ(readLog(folder.root()).error().code, ErrorCode::CannotRead);
}
