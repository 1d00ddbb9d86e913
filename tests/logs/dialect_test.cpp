// SPDX-License-Identifier: GPL-3.0-or-later
// Foreign dialects: every one is also fed with its heading removed and its columns permuted.
#include "support/support.h"

#include <impasto/base/random.h>
#include <impasto/logs/import.h>

using namespace impasto;
using namespace impasto::capture;
using namespace impasto::logs;

namespace {

std::vector<double> frames(std::size_t n = 400) {
    RandomStream s(3, "frames");
    std::vector<double> out;
    for (std::size_t i = 0; i < n; ++i) out.push_back(16 + 2 * s.uniform() + (i % 97 == 50 ? 30 : 0));
    return out;
}

struct Written {
    std::string name;
    char delimiter;
    bool decimalComma;
    std::vector<std::string> columns; // kinds: frame, stamp, index, cpu, gpu, word
    double perMs;                     // unit of the file per ms
    int decimals;
};

std::string cell(const Written& w, const std::string& kind, std::size_t i, double frame, double stamp) {
    const auto number = [&](double v) {
        std::string text = fmt::format("{:.{}f}", v * w.perMs, w.decimals);
        if (w.decimalComma) std::replace(text.begin(), text.end(), '.', ',');
        return text;
    };
    if (kind == "index") return std::to_string(i);
    if (kind == "word") return "scene";
    if (kind == "stamp") return number(stamp);
    return number(kind == "frame" ? frame : kind == "cpu" ? 0.6 * frame : 0.8 * frame);
}

std::string headingOf(const std::string& kind) {
    if (kind == "frame") return "frame time";
    if (kind == "stamp") return "elapsed";
    if (kind == "cpu") return "cpu busy";
    if (kind == "gpu") return "gpu busy";
    return kind;
}

std::string written(const Written& w, const std::vector<std::string>& order, bool heading) {
    std::string text = "# recorded by a test\n";
    const auto join = [&](auto make) {
        std::string line;
        for (const auto& kind : order) line += (line.empty() ? "" : std::string(1, w.delimiter)) + make(kind);
        text += line + "\r\n";
    };
    if (heading) join(headingOf);
    double stamp = 12.5;
    const auto all = frames();
    for (std::size_t i = 0; i < all.size(); ++i) {
        stamp += all[i];
        join([&](const std::string& kind) { return cell(w, kind, i, all[i], stamp); });
    }
    return text;
}

const std::vector<Written>& dialects() {
    static const std::vector<Written> all{
        {"comma, ms per frame", ',', false, {"frame"}, 1, 4},
        {"semicolon, decimal comma, stamps in s", ';', true, {"index", "stamp", "frame"}, 0.001, 7},
        {"tab, µs, with work", '\t', false, {"stamp", "frame", "cpu", "gpu"}, 1000, 0},
        {"space, ns stamps alone", ' ', false, {"stamp"}, 1e6, 0},
        {"comma, stamps in s with words", ',', false, {"word", "stamp"}, 0.001, 7},
        {"bar, ms stamps and frames", '|', false, {"index", "stamp", "frame", "gpu"}, 1, 4},
    };
    return all;
}

void expectFrames(const Written& w, const std::vector<std::string>& order, bool heading) {
    const std::string text = written(w, order, heading);
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value()) << w.name << (heading ? "" : " without heading") << ": "
                                     << wording::error(wording::Words(), capture.error()).all();
    const auto all = frames();
    const bool stampsOnly = std::find(w.columns.begin(), w.columns.end(), "frame") == w.columns.end();
    ASSERT_EQ(capture->frames(), all.size() - (stampsOnly ? 1 : 0)) << w.name;
    for (std::size_t i = 0; i < capture->frames(); ++i)
        ASSERT_NEAR(capture->framesMs[i], all[i + (stampsOnly ? 1 : 0)], 0.002) << w.name << " row " << i;
    const bool hasCpu = std::find(order.begin(), order.end(), "cpu") != order.end();
    // Which column is the CPU's only a heading can tell.
    EXPECT_EQ(capture->cpuWorkMs.has_value(), heading && hasCpu) << w.name;
    if (capture->cpuWorkMs) {
        EXPECT_NEAR((*capture->cpuWorkMs)[10], 0.6 * all[10], 0.01) << w.name;
    }
}

} // namespace

TEST(DialectTest, EveryDialectWithAndWithoutItsHeading) {
    for (const auto& w : dialects())
        for (const bool heading : {true, false}) expectFrames(w, w.columns, heading);
}

TEST(DialectTest, PermutedColumnsGiveTheSameFrames) {
    for (const auto& w : dialects()) {
        auto order = w.columns;
        std::sort(order.begin(), order.end());
        do {
            for (const bool heading : {true, false}) expectFrames(w, order, heading);
        } while (std::next_permutation(order.begin(), order.end()));
    }
}

TEST(DialectTest, GuessIsAFunctionOfTheTextAlone) {
    const support::TemporaryFolder folder;
    const std::string text = written(dialects()[2], dialects()[2].columns, true);
    const auto a = readLog(folder.write("run.csv", text)), b = readLog(folder.write("notes.ns.txt", text));
    ASSERT_TRUE(a.has_value() && b.has_value());
    EXPECT_EQ(a->notes.at("dialect"), b->notes.at("dialect"));
    EXPECT_NE(a->notes.at("dialect").find("unit=us"), std::string::npos);
}

TEST(DialectTest, AUnitInTheHeadingWins) {
    std::string text = "frame [us]\n";
    for (int i = 0; i < 200; ++i)
        text += std::to_string(400 + i % 7) + "\n"; // 0.4 ms: 2,500 fps, or 400 ms without the heading
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value());
    EXPECT_NEAR(capture->framesMs[0], 0.4, 1e-9);
}

TEST(DialectTest, ADecimalCommaAloneInALineIsOneColumn) {
    std::string text;
    for (int i = 0; i < 100; ++i) text += fmt::format("{},{:02}\n", 16 + i % 3, (i * 37) % 100);
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value());
    EXPECT_NEAR(capture->framesMs[1], 17.37, 1e-9);
}

TEST(DialectTest, ALoneWorkColumnDoesNotReplaceTheFrame) {
    std::string text = "cpu_ms,gpu_ms\n";
    for (int i = 0; i < 100; ++i) text += fmt::format("{:.2f},{:.2f}\n", 8 + 0.1 * (i % 5), 8.3 - 0.1 * (i % 7));
    const auto capture = readLogText(text);
    ASSERT_FALSE(capture.has_value());
    EXPECT_EQ(capture.error().code, ErrorCode::NoTimeColumn);
}

TEST(DialectTest, RealPrograms) {
    for (const auto& [name, least, most] :
         {std::tuple("real-program-fast.csv", 700.0, 1300.0), std::tuple("real-program-slow.csv", 20.0, 90.0),
          std::tuple("real-program-uneven.csv", 2.0, 12.0)}) {
        const auto capture = readLog(support::testFile(std::string("logs/") + name));
        ASSERT_TRUE(capture.has_value()) << name;
        const double fps = 1000.0 * static_cast<double>(capture->frames()) / durationMs(*capture);
        EXPECT_GT(fps, least) << name;
        EXPECT_LT(fps, most) << name;
    }
}

TEST(DialectTest, ADialectReadsBackFromItsText) {
    Dialect d;
    for (const char delimiter : {',', ';', '\t', ' ', '|'})
        for (const auto unit :
             {TimeUnit::Seconds, TimeUnit::Milliseconds, TimeUnit::Microseconds, TimeUnit::Nanoseconds})
            for (const bool lanes : {false, true}) {
                d.delimiter = delimiter;
                d.unit = unit;
                d.decimalComma = lanes;
                d.firstDataLine = lanes ? 0 : 7;
                d.columns = 9;
                d.timeColumn = 3;
                d.meaning = lanes ? TimeMeaning::Cumulative : TimeMeaning::PerFrame;
                d.cpuColumn = lanes ? std::optional<std::size_t>(4) : std::nullopt;
                d.gpuColumn = lanes ? std::optional<std::size_t>(8) : std::nullopt;
                d.cpuUnit = lanes ? TimeUnit::Microseconds : TimeUnit::Milliseconds;
                d.gpuUnit = lanes ? TimeUnit::Nanoseconds : TimeUnit::Milliseconds;
                d.inventedColumn = lanes ? std::optional<std::size_t>(5) : std::nullopt;
                EXPECT_EQ(dialectOf(textOf(d)), d) << textOf(d);
            }
    d.inventedColumn.reset();
    const auto older = dialectOf("delimiter=, columns=3 first_line=2 time_column=1 unit=ms cpu_column=2 gpu_column=3 "
                                 "work_unit=us");
    ASSERT_TRUE(older.has_value()) << "as it was written when one unit held for both";
    EXPECT_EQ(older->cpuUnit, TimeUnit::Microseconds);
    EXPECT_EQ(older->gpuUnit, TimeUnit::Microseconds);
    for (const char* other : {"", "a comma", "delimiter=,", "delimiter=, columns=0 first_line=1 time_column=1 unit=ms",
                              "delimiter=, columns=2 first_line=x time_column=1 unit=ms",
                              "delimiter=, columns=900000000 first_line=1 time_column=800000000 unit=ms",
                              "delimiter=, columns=2 first_line=1 time_column=1 unit=ms other_900000000=x"})
        EXPECT_FALSE(dialectOf(other)) << other;
}

TEST(DialectTest, OneProgramOfSeveralIsRead) {
    // Rows of two programs and of two swap chains of one of them, as they came.
    std::string text = "Application,ProcessID,SwapChain,TimeInSeconds,FrameTime (ms),Processor load\n";
    std::vector<double> wanted;
    double game = 0, overlay = 0;
    for (int i = 0; i < 600; ++i) {
        const double ms = 16 + 0.1 * (i % 7);
        game += ms / 1000;
        text += fmt::format("game.exe,420,0x1A,{:.4f},{:.1f},50\n", game, ms);
        wanted.push_back(ms);
        if (i % 3 == 0) {
            overlay += 0.0333;
            text += fmt::format("overlay.exe,77,0x2B,{:.4f},33.3,50\n", overlay);
        }
        if (i % 5 == 0) text += fmt::format("game.exe,420,0x3C,{:.4f},100,50\n", game);
    }
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value());
    ASSERT_EQ(capture->frames(), wanted.size());
    for (std::size_t i = 0; i < wanted.size(); ++i) ASSERT_NEAR(capture->framesMs[i], wanted[i], 1e-9);
    const auto dialect = *dialectOf(capture->notes.at("dialect"));
    EXPECT_EQ(dialect.program, "game.exe / 420 / 0x1A");
    EXPECT_EQ(textOf(dialect), capture->notes.at("dialect"));
    const auto programs = programsIn(text, dialect);
    ASSERT_EQ(programs.size(), 3U);
    EXPECT_EQ(programs[1].second, 200U);
    // Another one can be asked for.
    auto other = dialect;
    other.program = programs[1].first;
    EXPECT_EQ(importText(text, other)->frames(), 200U);
    other.program = "nobody";
    EXPECT_EQ(importText(text, other).error().code, ErrorCode::NoFrames);
    // One program alone is no question.
    EXPECT_TRUE(guessDialect("application,frame_ms\ng,16\ng,17\ng,16\ng,18\n")->programColumns.empty());
}

TEST(DialectTest, SlowReadingsComeAlong) {
    std::string text =
        "frame_ms,GPU usage (%),CPU load %,GPU memory used (GB),RAM used MB,GPU power (W),CPU temperature "
        "[\xc2\xb0"
        "C],GPU clock MHz,Fan 1 (%),GPU memory %\n";
    for (int i = 0; i < 2000; ++i)
        text += fmt::format("16.{},{},{},5.5,9000,{},{},1800,{},60\n", i % 4, 90 + i % 3, 40, i % 2 == 0 ? "150" : "",
                            60 + i / 400, 35);
    const auto capture = readLogText(text);
    ASSERT_TRUE(capture.has_value());
    const auto mean = [&](Sensor s) { return trackMean(*capture, s).value_or(-1); };
    EXPECT_NEAR(mean(Sensor::GpuLoad), 91, 0.1);
    EXPECT_NEAR(mean(Sensor::CpuLoad), 40, 1e-4);
    EXPECT_NEAR(mean(Sensor::GpuMemory), 5.5 * 1024, 1e-2);
    EXPECT_NEAR(mean(Sensor::SystemMemory), 9000, 1e-2);
    EXPECT_NEAR(mean(Sensor::GpuPower), 150, 1e-4) << "a row may leave it out";
    EXPECT_NEAR(mean(Sensor::CpuTemperature), 62, 0.1);
    EXPECT_NEAR(mean(Sensor::Fan), 35, 1e-4);
    EXPECT_EQ(capture->tracks.size(), 8U) << "memory in percent is no size";
    EXPECT_NEAR(static_cast<double>(capture->tracks.front().values.size()), durationMs(*capture) / 256, 10);
    const auto dialect = *dialectOf(capture->notes.at("dialect"));
    EXPECT_EQ(dialect.sensors.size(), 8U);
    EXPECT_NEAR(mean(Sensor::GpuMhz), 1800, 1e-2);
    EXPECT_EQ(textOf(dialect), capture->notes.at("dialect"));
    EXPECT_EQ(fingerprintOf(*importText(text, dialect)), fingerprintOf(*importText(text, *guessDialect(text))));
    // Impossible values under such a heading are something else.
    std::string odd = "frame_ms,gpu load\n";
    for (int i = 0; i < 100; ++i) odd += fmt::format("{:.1f},{}\n", 16 + 0.1 * (i % 5), 300 + 97 * (i % 7));
    const auto without = readLogText(odd);
    ASSERT_TRUE(without.has_value());
    EXPECT_TRUE(without->tracks.empty());
}
