// SPDX-License-Identifier: GPL-3.0-or-later
// Logs of real programs, read in several dialects, against the figures that R computes from them
// (tables/make_recorded.R).
#include "support/support.h"

#include <cmath>
#include <impasto/frames/summary.h>
#include <impasto/logs/import.h>
#include <impasto/stats/resample.h>
#include <sstream>

using namespace impasto;
using namespace impasto::stats;
using namespace impasto::frames;

namespace {

struct Row {
    std::string log;
    double frames, durationMs, averageFps, meanMs, sdMs, median, p95, p99, p999, worst;
    std::array<double, 6> lows; // percentile, worst-mean, time-share; 1% and 0.1% each
    double r1, step;
};

std::vector<Row> table() {
    std::istringstream in(support::textOf(support::sourceDir() / "tests/published/tables/recorded.txt"));
    std::vector<Row> out;
    for (std::string line; std::getline(in, line);) {
        if (line.empty() || line.front() == '#') continue;
        std::istringstream cells(line);
        Row r;
        cells >> r.log >> r.frames >> r.durationMs >> r.averageFps >> r.meanMs >> r.sdMs >> r.median >> r.p95 >>
            r.p99 >> r.p999 >> r.worst;
        for (double& low : r.lows) cells >> low;
        cells >> r.r1 >> r.step;
        EXPECT_FALSE(cells.fail()) << line;
        out.push_back(r);
    }
    return out;
}

/// The log's own frame times written another way.
std::string inDialect(const std::vector<double>& frames, int dialect) {
    std::string out;
    const auto withComma = [](double v) {
        std::string text = fmt::format("{:.4f}", v);
        text[text.find('.')] = ',';
        return text;
    };
    if (dialect == 0) out = "frame;frametime [ms];note\n";
    if (dialect == 1) out = "# a tool's heading\nframetime_us\n";
    if (dialect == 2) out = "index\tframe time (s)\n";
    for (std::size_t i = 0; i < frames.size(); ++i) {
        if (dialect == 0) out += fmt::format("{};{};x\n", i, withComma(frames[i]));
        if (dialect == 1) out += fmt::format("{:.1f}\n", 1000 * frames[i]);
        if (dialect == 2) out += fmt::format("{}\t{:.7f}\n", i, frames[i] / 1000);
    }
    return out;
}

void expectFigures(const std::vector<double>& frames, const Row& r, double tolerance) {
    const auto near = [tolerance](double value, double wanted) {
        EXPECT_NEAR(value, wanted, tolerance * std::abs(wanted));
    };
    const auto s = *summarize(frames);
    EXPECT_EQ(static_cast<double>(s.frames), r.frames);
    near(s.durationMs, r.durationMs);
    near(s.average.value(), r.averageFps);
    near(*mean(frames), r.meanMs);
    near(*standardDeviation(frames), r.sdMs);
    near(s.medianMs, r.median);
    near(s.p95Ms, r.p95);
    near(s.p99Ms, r.p99);
    near(s.p999Ms, r.p999);
    near(s.worstMs, r.worst);
    near(s.stepMs, r.step);
    const auto covariance = autocovariances(frames, 1);
    near(covariance[1] / covariance[0], r.r1);
    for (std::size_t school = 0; school < 3; ++school) {
        near(s.lows[school].onePercent->rate.value(), r.lows[2 * school]);
        near(s.lows[school].tenthPercent->rate.value(), r.lows[2 * school + 1]);
    }
}

} // namespace

TEST(PublishedRecordedTest, FiguresOfRealLogsAreThoseOfR) {
    const auto rows = table();
    ASSERT_EQ(rows.size(), 3U);
    for (const auto& row : rows) {
        SCOPED_TRACE(row.log);
        const auto log = logs::readLog(support::testFile("logs/" + row.log + ".csv"));
        ASSERT_TRUE(log.has_value());
        expectFigures(log->framesMs, row, 1e-12);
        for (int dialect = 0; dialect < 3; ++dialect) {
            SCOPED_TRACE(dialect);
            const auto again = logs::readLogText(inDialect(log->framesMs, dialect));
            ASSERT_TRUE(again.has_value());
            expectFigures(again->framesMs, row, 1e-9); // decimals of the dialect
        }
    }
}
