// SPDX-License-Identifier: GPL-3.0-or-later
// A run's own doubt against the truth of the process that made its frames: a 95% interval of one run holds the figure
// of an endless one about 95 times in a hundred, in short runs and in those that are drawn again in cells.
#include <cmath>
#include <fmt/core.h>
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <impasto/frames/doubt.h>

using namespace impasto;

namespace {

/// Correlated frame times with rare hitches.
std::vector<double> framesOf(std::size_t n, std::uint64_t seed) {
    RandomStream s(seed, "coverage");
    std::vector<double> out;
    out.reserve(n);
    double x = s.normal();
    for (std::size_t i = 0; i < n; ++i) {
        x = 0.8 * x + 0.6 * s.normal();
        out.push_back(16 + x + (s.uniform() < 0.004 ? s.uniform(10, 40) : 0));
    }
    return out;
}

struct Held {
    int average = 0, low = 0, p99 = 0, runs = 0;
};

Held heldOf(std::size_t frames, int runs) {
    const auto endless = framesOf(4'000'000, 1);
    double sum = 0;
    for (const double ms : endless) sum += ms;
    const double average = 1000 * static_cast<double>(endless.size()) / sum;
    const double low = stats::low(endless, 0.01, stats::LowRule::WorstMean)->rate.value();
    const double p99 = 1000 / stats::low(endless, 0.01, stats::LowRule::Percentile)->rate.value();
    Held held;
    for (held.runs = 0; held.runs < runs; ++held.runs) {
        const auto doubt = frames::doubtOf(framesOf(frames, static_cast<std::uint64_t>(held.runs) + 100));
        if (!doubt) return {};
        const auto holds = [](const stats::Doubt& d, double v) { return d.low <= v && v <= d.high ? 1 : 0; };
        held.average += holds(doubt->average, average);
        held.low += holds(doubt->onePercentLow[static_cast<std::size_t>(stats::LowRule::WorstMean)], low);
        held.p99 += holds(doubt->p99, p99);
    }
    fmt::print("{} runs of {} frames: average {:.1f}%, 1% low {:.1f}%, p99 {:.1f}%\n", runs, frames,
               100.0 * held.average / runs, 100.0 * held.low / runs, 100.0 * held.p99 / runs);
    return held;
}

} // namespace

TEST(CoverageTest, OfShortRuns) {
    const auto held = heldOf(5000, 1000);
    EXPECT_GE(held.average, 930);
    EXPECT_LE(held.average, 970);
    EXPECT_GE(held.low, 900) << "a bootstrap of 50 slow frames is a little too narrow";
    EXPECT_GE(held.p99, 900);
}

TEST(CoverageTest, OfLongRunsDrawnInCells) {
    const auto held = heldOf(200'000, 60);
    EXPECT_GE(held.average, 54);
    EXPECT_GE(held.low, 54);
    EXPECT_GE(held.p99, 54);
}
