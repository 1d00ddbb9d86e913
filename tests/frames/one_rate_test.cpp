// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"
#include "support/swinging.h"

#include <impasto/base/random.h>
#include <impasto/frames/examine.h>
#include <impasto/frames/one_rate.h>

using namespace impasto;

namespace {

std::vector<double> workOf(double mean, double spread, std::size_t count, std::uint64_t seed) {
    return support::swinging(mean, spread, count, seed, "work");
}

/// Frames that a clock starts `everyMs`, shown when the work is done.
std::vector<double> clocked(double everyMs, const std::vector<double>& work) {
    std::vector<double> out;
    double start = 0, shown = 0;
    for (const double ms : work) {
        const double done = std::max(start, shown - everyMs) + ms;
        if (shown > 0) out.push_back(std::max(0.1, done - shown));
        shown = done;
        start += everyMs;
    }
    return out;
}

} // namespace

TEST(OneRateTest, FramesThatAClockStartsKeepIt) {
    for (const std::uint64_t seed : {1U, 2U, 3U}) {
        const auto work = workOf(9, 0.08, 2000, seed);
        EXPECT_TRUE(frames::keepsOneRate(clocked(14.1, work))) << seed;
        EXPECT_FALSE(frames::keepsOneRate(work)) << "the same, free";
    }
}

TEST(OneRateTest, AHitchOrAMenuHidesItNot) {
    const auto held = clocked(14.1, workOf(9, 0.08, 3000, 4));
    auto hitching = held, menu = held;
    for (std::size_t i = 100; i < held.size(); i += 400) hitching[i] += 70;
    for (std::size_t i = 0; i < 200; ++i) menu[i] = 4;
    EXPECT_TRUE(frames::keepsOneRate(hitching));
    EXPECT_TRUE(frames::keepsOneRate(menu));
}

TEST(OneRateTest, SteadyFramesThatNothingHoldsAreNotTakenForIt) {
    RandomStream random(5, "steady");
    std::vector<double> steady, inTurn, everyThird, rounded;
    double at = 0, shown = 0;
    for (std::size_t i = 0; i < 3000; ++i) {
        steady.push_back(9 * std::exp(0.02 * random.normal()));
        inTurn.push_back((i % 2 == 0 ? 8.2 : 9.8) * std::exp(0.005 * random.normal()));
        everyThird.push_back((i % 3 == 0 ? 11 : 9) * std::exp(0.01 * random.normal()));
        at += 9 * std::exp(0.02 * random.normal());
        rounded.push_back(std::max(1.0, std::round(at) - shown));
        shown = std::round(at);
    }
    EXPECT_FALSE(frames::keepsOneRate(steady));
    EXPECT_FALSE(frames::keepsOneRate(inTurn)) << "heavy and light in turn";
    EXPECT_FALSE(frames::keepsOneRate(everyThird));
    EXPECT_FALSE(frames::keepsOneRate(rounded)) << "a clock of whole milliseconds evens them out";
    EXPECT_FALSE(frames::keepsOneRate({}));
    const auto held = clocked(14.1, workOf(9, 0.08, 3000, 6));
    EXPECT_FALSE(frames::keepsOneRate(std::span(held).first(300))) << "four seconds are too few";
}

TEST(OneRateTest, ItIsLookedAtAndAReadingThatHoldsTheWaitIsNoWork) {
    capture::Capture c;
    c.framesMs = clocked(14.1, workOf(9, 0.08, 2000, 7));
    const auto flattened = [&c] { return frames::examine(c).front(); };
    ASSERT_EQ(flattened().finding, frames::Finding::Flattened);
    EXPECT_TRUE(flattened().found);
    EXPECT_FALSE(flattened().sure) << "it may be a still scene";
    c.cpuWorkMs = c.framesMs; // from start to start
    EXPECT_FALSE(frames::partMeans(c).front().cpuMs);
    c.cpuWorkMs = workOf(6, 0.08, c.frames(), 8);
    EXPECT_TRUE(frames::partMeans(c).front().cpuMs);
    c.framesMs = workOf(9, 0.08, 2000, 7);
    c.cpuWorkMs.reset();
    EXPECT_FALSE(flattened().found);
}
