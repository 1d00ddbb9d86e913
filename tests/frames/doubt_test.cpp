// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <impasto/frames/doubt.h>
#include <impasto/stats/lows.h>

using namespace impasto;
using namespace impasto::stats;
using namespace impasto::frames;

namespace {

/// Frame times that follow each other: first-order autoregressive around 16 ms, with a hitch now and then.
std::vector<double> framesOf(std::size_t n, double phi, std::uint64_t seed, double hitches = 0.01) {
    RandomStream s(seed, "frames");
    std::vector<double> out;
    double x = 0;
    for (std::size_t i = 0; i < n; ++i) {
        x = phi * x + std::sqrt(1 - phi * phi) * s.normal();
        out.push_back(16 + x + (s.uniform() < hitches ? s.uniform(10, 40) : 0));
    }
    return out;
}

} // namespace

TEST(DoubtTest, CorrelatedFramesCountForFewer) {
    EXPECT_LT(blockLength(framesOf(4000, 0, 1, 0)), 8);
    EXPECT_GT(blockLength(framesOf(4000, 0.9, 1, 0)), 25);
    EXPECT_EQ(blockLength(std::vector<double>(50, 16.0)), 1);
}

// The short way over the slow frames against the long way: every resample built and its lows computed.
TEST(DoubtTest, TheTailIsThatOfTheWholeResample) {
    const auto all = framesOf(3000, 0.7, 2);
    const auto quick = *doubtOf(all, {2000, 20.0, 5});
    RandomStream s(99, "long way");
    std::array<std::vector<double>, 3> lows;
    std::vector<double> averages;
    for (int b = 0; b < 2000; ++b) {
        std::vector<double> drawn;
        std::size_t at = 0;
        while (drawn.size() < all.size()) {
            if (drawn.empty() || s.uniform() < 1 / 20.0) at = s.below(all.size());
            drawn.push_back(all[at]);
            at = (at + 1) % all.size();
        }
        double sum = 0;
        for (const double v : drawn) sum += v;
        averages.push_back(1000 * static_cast<double>(drawn.size()) / sum);
        for (const auto school : stats::allLowRules)
            lows[static_cast<std::size_t>(school)].push_back(low(drawn, 0.01, school)->rate.value());
    }
    EXPECT_NEAR(quick.average.standardError, *standardDeviation(averages), 0.08 * *standardDeviation(averages));
    for (std::size_t i = 0; i < 3; ++i) {
        const double sd = *standardDeviation(lows[i]);
        EXPECT_NEAR(quick.onePercentLow[i].standardError, sd, 0.1 * sd) << i;
        EXPECT_NEAR(quick.onePercentLow[i].low, *quantile(lows[i], 0.025), 0.25 * sd) << i;
        EXPECT_NEAR(quick.onePercentLow[i].high, *quantile(lows[i], 0.975), 0.25 * sd) << i;
        EXPECT_LE(quick.tenthPercentLow[i].low, quick.onePercentLow[i].high) << i;
    }
}

TEST(DoubtTest, SlowFramesInOnePlaceAreStillReached) {
    // All slow frames in one stretch: a resample may hold many more of them than the run.
    auto all = framesOf(1200, 0, 3, 0);
    for (std::size_t i = 300; i < 500; ++i) all[i] = 60 + 0.01 * static_cast<double>(i);
    const auto doubt = doubtOf(all, {500, 300.0, 1});
    ASSERT_TRUE(doubt);
    EXPECT_GT(doubt->average.standardError, 3);
    EXPECT_LE(doubt->onePercentLow[1].low, doubt->onePercentLow[1].high);
}

// Common practice, no source: where a route is heavy is no chance.
TEST(DoubtTest, PartsOfTheRouteAreNotDoubt) {
    impasto::capture::Capture c;
    c.framesMs = framesOf(1500, 0.5, 6, 0);
    for (std::size_t i = 750; i < 1500; ++i) c.framesMs[i] *= 1.6;
    c.marks = {{"light", 0}, {"heavy", 750}};
    const auto stretches = stretchesOf(c);
    EXPECT_EQ(stretches.front(), 0U);
    EXPECT_TRUE(std::is_sorted(stretches.begin(), stretches.end()));
    EXPECT_NE(std::find(stretches.begin(), stretches.end(), 750U), stretches.end());
    EXPECT_EQ(stretches.size(), 4U) << "12 and 19 s, none longer than ten";
    const double blind = doubtOf(c.framesMs, {400, {}, 1})->average.standardError,
                 aware = doubtOf(c, {400, {}, 1})->average.standardError;
    EXPECT_LT(aware, 0.3 * blind);
    EXPECT_GT(aware, 0);
    EXPECT_LT(doubtOf(c)->blockLength, 40) << "the step between the parts is no correlation";
}

TEST(DoubtTest, ASeedGivesTheSameAgainAndFewFramesNothing) {
    const auto all = framesOf(2000, 0.5, 4);
    EXPECT_EQ(doubtOf(all)->average.low, doubtOf(all)->average.low);
    EXPECT_FALSE(doubtOf(std::vector<double>(9, 16.0)));
    EXPECT_EQ(doubtOf(std::vector<double>(100, 16.0))->average.standardError, 0);
}

TEST(DoubtTest, QuantilesHaveTheIntervalOfTheirRanks) {
    // Independent values: the ranks of a quantile are binomial, its interval runs between two order statistics
    // (David and Nagaraja 2003, from memory): np -+ 1.96 sqrt(np (1 - p)).
    RandomStream s(12, "ranks");
    std::vector<double> values;
    for (int i = 0; i < 4000; ++i) values.push_back(s.lognormal(2, 0.5));
    Resampling how;
    how.resamples = 2000;
    how.blockLength = 1;
    const auto doubt = doubtOf(values, how);
    ASSERT_TRUE(doubt);
    std::sort(values.begin(), values.end());
    for (const auto& [p, d] : {std::pair(0.5, doubt->median), {0.95, doubt->p95}, {0.99, doubt->p99}}) {
        const double n = static_cast<double>(values.size()), reach = 1.96 * std::sqrt(n * p * (1 - p));
        const double low = values[static_cast<std::size_t>(n * p - reach)],
                     high = values[static_cast<std::size_t>(n * p + reach)];
        EXPECT_NEAR(d.low, low, 0.15 * (high - low)) << p;
        EXPECT_NEAR(d.high, high, 0.15 * (high - low)) << p;
        EXPECT_LT(d.low, *quantile(values, p));
        EXPECT_GT(d.high, *quantile(values, p));
    }
    EXPECT_LT(doubt->p999.low, doubt->p999.high);
}
