// SPDX-License-Identifier: GPL-3.0-or-later
// Logs that are longer than a block, columns that come along, dialects that were corrected and remembered, previews.
#include "support/support.h"

#include <cmath>
#include <impasto/capture/trim.h>
#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>
#include <zlib.h>

using namespace impasto;
using namespace impasto::capture;
using namespace impasto::logs;

namespace {

/// Some 6 MB: several blocks, with lines over their borders.
std::string longLog(std::size_t rows = 200000) {
    std::string text = "time_s,frame_ms,quality,scene,frame\n";
    double at = 0;
    for (std::size_t i = 0; i < rows; ++i) {
        const double ms = 8 + 0.001 * static_cast<double>(i % 977);
        at += ms / 1000;
        text += fmt::format("{:.6f},{:.4f},{},{},{}\n", at, ms, i % 7, i % 3 == 0 ? "hill" : "shore", i + 1);
    }
    return text;
}

std::filesystem::path gzippedFile(const support::TemporaryFolder& folder, const std::string& text) {
    const auto path = folder.path("log.csv.gz");
    gzFile file = gzopen(path.c_str(), "wb1");
    EXPECT_EQ(gzwrite(file, text.data(), static_cast<unsigned>(text.size())), static_cast<int>(text.size()));
    gzclose(file);
    return path;
}

} // namespace

TEST(ReadTest, ALogOfManyBlocksIsTheSameAsItsText) {
    const support::TemporaryFolder folder;
    const std::string text = longLog();
    const auto whole = readLogText(text);
    ASSERT_TRUE(whole.has_value());
    ASSERT_EQ(whole->frames(), 200000U);
    for (const auto& file : {folder.write("log.csv", text), gzippedFile(folder, text)}) {
        double progress = 0;
        ReadOptions options;
        options.context.progress = [&progress](double share) {
            EXPECT_GE(share, progress);
            progress = share;
        };
        const auto read = readLog(file, options);
        ASSERT_TRUE(read.has_value()) << file;
        EXPECT_EQ(fingerprintOf(*read), fingerprintOf(*whole));
        EXPECT_GT(progress, 0.9);
        EXPECT_LE(progress, 1);
    }
}

TEST(ReadTest, AReadingCanBeCancelled) {
    const support::TemporaryFolder folder;
    const auto file = folder.write("log.csv", longLog());
    std::stop_source stop;
    ReadOptions options;
    options.context = {stop.get_token(), [&stop](double share) {
                           if (share > 0.4) stop.request_stop();
                       }};
    const auto read = readLog(file, options);
    ASSERT_FALSE(read.has_value());
    EXPECT_EQ(read.error().code, ErrorCode::Cancelled);
}

TEST(ReadTest, AFaultFarBehindTheHeadNamesItsLine) {
    const support::TemporaryFolder folder;
    std::string text = longLog();
    const auto broken = [&](const std::string& row) { return readLog(folder.write("log.csv", text + row)); };
    const auto inside = broken("1700.5,sixteen,1,hill,3\n1700.6,16,1,hill,4\n");
    EXPECT_EQ(inside.error().where.line, 200002U);
    EXPECT_EQ(inside.error().code, ErrorCode::BadNumber);
    // A row that no frame follows, or of another kind, is passed over and told.
    for (const char* row : {"1700.5,sixteen,1,hill,3\n", "1700.5\n"}) {
        const auto told = broken(row);
        ASSERT_TRUE(told.has_value()) << row;
        EXPECT_EQ(told->frames(), 200000U);
        ASSERT_EQ(notesOf(*told).size(), 1U) << row;
        EXPECT_EQ(notesOf(*told).front().firstLine, 200002U);
    }
    EXPECT_EQ(broken(std::string("1,\0\0\0,1,hill,3\n", 16)).error().code, ErrorCode::NotText)
        << "a file full of holes";
    EXPECT_EQ(broken("1700.5,16").value().frames(), 200000U) << "cut while it was written";
    EXPECT_EQ(broken("1," + std::string(3'000'000, '7') + "\n").error().code, ErrorCode::LineTooLong);
}

TEST(ReadTest, OtherColumnsComeAlong) {
    const auto capture = readLogText(longLog(3000));
    ASSERT_TRUE(capture.has_value());
    ASSERT_EQ(capture->others.size(), 2U) << "the stamps repeat the frame times, and the last column counts rows";
    EXPECT_EQ(capture->others[0].name, "quality");
    EXPECT_EQ(capture->others[0].values[12], 5.0F);
    EXPECT_TRUE(capture->others[0].words.empty());
    EXPECT_EQ(capture->others[1].name, "scene");
    EXPECT_EQ(capture->others[1].words, (std::vector<std::string>{"hill", "shore"}));
    EXPECT_EQ(capture->others[1].values[4], 1.0F);
    const auto back = readLogText(writeCsv(*capture));
    ASSERT_TRUE(back.has_value()) << wording::error(wording::Words(), back.error()).all();
    EXPECT_EQ(back->others, capture->others);
    EXPECT_EQ(fingerprintOf(*back), fingerprintOf(*capture));
    const std::vector<Span> cut{{0, 1000}};
    const auto trimmed = without(*capture, cut);
    EXPECT_EQ(trimmed.others[1].values.size(), trimmed.frames());
    EXPECT_EQ(trimmed.others[1].values.back(), capture->others[1].values.back());
}

TEST(ReadTest, AColumnOfEverNewWordsIsLeftOut) {
    std::string text = "frame_ms,note,scene\n";
    for (int i = 0; i < 5000; ++i) text += fmt::format("{},said {} times,{}\n", 16 + i % 3, i, i % 2 == 0 ? "a" : "b");
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value());
    EXPECT_EQ(capture->frames(), 5000U);
    ASSERT_EQ(capture->others.size(), 1U);
    EXPECT_EQ(capture->others[0].name, "scene");
    EXPECT_EQ(capture->others[0].words, (std::vector<std::string>{"a", "b"}));
}

TEST(ReadTest, OurOwnFileIsReadInBlocksAndCanBeCancelled) {
    const support::TemporaryFolder folder;
    const auto whole = readLogText(longLog());
    ASSERT_TRUE(whole.has_value());
    const std::string own = writeCsv(*whole);
    for (const auto& file : {folder.write("own.csv", own), gzippedFile(folder, own)}) {
        const auto read = readLog(file);
        ASSERT_TRUE(read.has_value()) << wording::error(wording::Words(), read.error()).all();
        EXPECT_EQ(read->framesMs, whole->framesMs);
        EXPECT_EQ(read->others, whole->others);
        ReadOptions options;
        std::stop_source stop;
        options.context = {stop.get_token(), [&](double share) {
                               if (share > 0.3) stop.request_stop();
                           }};
        EXPECT_EQ(readLog(file, options).error().code, ErrorCode::Cancelled);
    }
    const auto cut = readLogText(own.substr(0, own.size() - 2));
    ASSERT_TRUE(cut.has_value());
    for (const auto& other : cut->others) EXPECT_EQ(other.values.size(), cut->frames());
}

TEST(ReadTest, NamesAndWordsOfAnyKindReadBack) {
    std::string text = "frame_ms;\"a = b, 100%\";c\td;\xc3\xa4\n";
    for (int i = 0; i < 40; ++i) text += fmt::format("{};{};x\ty = {} %;\n", 16 + i % 3, i % 2, i % 5);
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value()) << wording::error(wording::Words(), capture.error()).all();
    ASSERT_EQ(capture->others.size(), 3U);
    EXPECT_EQ(capture->others[1].words[4], "x\ty = 4 %");
    EXPECT_TRUE(std::isnan(capture->others[2].values[7])) << "an empty cell says nothing";
    const auto dialect = dialectOf(capture->notes.at("dialect"));
    ASSERT_TRUE(dialect) << capture->notes.at("dialect");
    EXPECT_EQ(fingerprintOf(*importText(text, *dialect)), fingerprintOf(*capture));
    const auto back = readLogText(writeCsv(*capture));
    ASSERT_TRUE(back.has_value());
    EXPECT_EQ(back->others[1], capture->others[1]);
}

TEST(ReadTest, ACorrectedDialectIsRememberedForItsHeading) {
    const support::TemporaryFolder folder;
    std::string text = "frame;two\n";
    for (int i = 0; i < 60; ++i) text += fmt::format("{};{}\n", 9 + i % 4, 12 + i % 5);
    const auto file = folder.write("a.csv", text);
    const auto preview = previewLog(file);
    ASSERT_TRUE(preview.has_value());
    EXPECT_EQ(preview->heading, (std::vector<std::string>{"frame", "two"}));
    EXPECT_EQ(preview->rows.size(), 14U);
    EXPECT_EQ(preview->rows[1], (std::vector<std::string>{"10", "13"}));
    EXPECT_FALSE(preview->remembered);
    ASSERT_TRUE(preview->begin.has_value());
    Dialect corrected = preview->dialect;
    corrected.timeColumn = 1 - corrected.timeColumn;
    RememberedDialects remembered{{preview->headingMark, corrected}};
    const auto memory = folder.path("dialects.txt");
    ASSERT_TRUE(saveDialects(memory, remembered).has_value());
    EXPECT_EQ(loadDialects(memory), remembered);
    ReadOptions options;
    options.remembered = loadDialects(memory);
    const auto guess = readLog(file), known = readLog(file, options),
               moved = readLogText("# a comment more\n" + text, options);
    EXPECT_NE(fingerprintOf(*guess), fingerprintOf(*known));
    EXPECT_EQ(fingerprintOf(*moved), fingerprintOf(*known)) << "the heading counts, not where it stands";
    EXPECT_TRUE(previewLog(file, options)->remembered);
    text.replace(0, 5, "frame a");
    EXPECT_EQ(readLogText(text, options)->framesMs, guess->framesMs) << "another heading is guessed";
    const auto bad = folder.write("bad.txt", "rubbish\n0000000000000001 delimiter=\nffff\n\xff\xfe");
    EXPECT_TRUE(loadDialects(bad).empty());
    EXPECT_TRUE(loadDialects(folder.path("none.txt")).empty());
}

TEST(ReadTest, ALogWhoseColumnsAreNotClearCanStillBeLookedAt) {
    const support::TemporaryFolder folder;
    std::string text = "one;two\n";
    for (int i = 0; i < 60; ++i) text += fmt::format("{};{}\n", 10 + i % 9, 18 - i % 9);
    const auto file = folder.write("log.csv", text);
    const auto preview = previewLog(file);
    ASSERT_TRUE(preview.has_value());
    ASSERT_FALSE(preview->begin.has_value());
    EXPECT_EQ(preview->begin.error().code, ErrorCode::AmbiguousColumns);
    EXPECT_EQ(preview->begin.error().where.file, file.string());
    ReadOptions options;
    options.dialect = preview->dialect;
    options.dialect->timeColumn = 5;
    EXPECT_EQ(readLog(file, options).error().code, ErrorCode::UnevenRow) << "there is no such column";
    options.dialect->timeColumn = 1;
    EXPECT_TRUE(previewLog(file, options)->begin.has_value());
    EXPECT_EQ(readLog(file, options)->frames(), 60U);
    EXPECT_EQ(previewLog(folder.write("own.csv", writeCsv(*readLog(file, options)))).error().code, ErrorCode::BadValue);
    EXPECT_EQ(previewLog(folder.write("text.csv", "no\nnumbers\n")).error().code, ErrorCode::NoFrames);
    EXPECT_EQ(previewLog(folder.path("none.csv")).error().code, ErrorCode::CannotRead);
}

TEST(ReadTest, RowsBetweenOthersAreAllTakenWhereverTheyStand) {
    // So many that they lie in several blocks, with something to be said of every few.
    std::string text = "frame_ms,gpu_ms,load %,scene\n";
    std::vector<double> frames, gpu;
    std::size_t missing = 0, uneven = 0;
    for (int i = 0; i < 60000; ++i) {
        if (i % 11 == 3) {
            text += "NA,,50,hill\n";
            ++missing;
        } else if (i % 13 == 5) {
            text += "# a comment\n";
        } else if (i % 17 == 7) {
            text += "16.5,12\n";
            ++uneven;
        } else {
            frames.push_back(16 + 0.25 * (i % 5));
            gpu.push_back(12 + 0.5 * (i % 3));
            text += fmt::format("{:.2f},{:.1f},50,{}\n", frames.back(), gpu.back(), i % 2 == 0 ? "hill" : "shore");
        }
    }
    const auto read = readLogText(text);
    ASSERT_TRUE(read.has_value()) << read.error().what;
    EXPECT_EQ(read->framesMs, frames);
    EXPECT_EQ(read->gpuWorkMs, gpu);
    ASSERT_EQ(read->others.size(), 2U);
    EXPECT_EQ(read->others[1].values.size(), frames.size());
    EXPECT_EQ(read->others[1].words, (std::vector<std::string>{"hill", "shore"}));
    for (const auto& note : notesOf(*read)) {
        if (note.kind == NoteKind::MissingTime) EXPECT_EQ(note.count, missing);
        if (note.kind == NoteKind::OtherWidth) EXPECT_EQ(note.count, uneven);
    }
}
