// SPDX-License-Identifier: GPL-3.0-or-later
// Lomb (1976), Scargle (1982): the normalised periodogram against scipy.signal.lombscargle and R's direct formula on
// two series from a linear congruential generator (values from 1.10 and 4.2; formulas from memory).
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/stats/patterns.h>
#include <numbers>

using namespace impasto::stats;

namespace {

class Congruential {
  public:
    explicit Congruential(std::uint32_t seed) : m_x(seed) {}
    double below(std::uint32_t m) {
        m_x = 1664525U * m_x + 1013904223U;
        return (m_x >> 16U) % m;
    }

  private:
    std::uint32_t m_x;
};

} // namespace

TEST(PublishedFrequencyTest, AHitchEverySecondOfJitteredFrames) {
    Congruential r(1);
    std::vector<double> starts, frames, moments;
    double t = 0;
    for (int k = 1; t < 60000;) {
        double ms = 60;
        if (t >= 1000.0 * k)
            ++k;
        else
            ms = 8 + r.below(5);
        starts.push_back(t / 1000);
        frames.push_back(ms);
        if (ms == 60) moments.push_back(t / 1000);
        t += ms;
    }
    ASSERT_EQ(frames.size(), 5699U);
    const std::vector<double> hz{0.5, 0.9, 0.99, 1, 1.01, 1.1, 1.5, 2, 3};
    const std::vector<double> wanted{3.13931911e-06, 1.80584266e-05, 0.00573650357, 0.0231977252, 0.00522990905,
                                     0.000104630734, 6.42150396e-05, 0.0201625486,  0.0198790033};
    const auto power = lombScargle(starts, frames, hz);
    for (std::size_t i = 0; i < hz.size(); ++i) EXPECT_NEAR(power[i], wanted[i], 1e-7 * std::max(0.01, wanted[i]));
    std::vector<double> grid;
    for (int i = 200; i <= 1500; ++i) grid.push_back(0.001 * i);
    const auto all = lombScargle(starts, frames, grid);
    EXPECT_NEAR(grid[static_cast<std::size_t>(std::max_element(all.begin(), all.end()) - all.begin())], 1.0, 0.005);
    impasto::capture::Capture c;
    c.framesMs = frames;
    const auto found = hitches(frames);
    const auto origin = originOf({&c, found});
    EXPECT_EQ(origin.pattern, HitchPattern::Periodic);
    EXPECT_NEAR(origin.periodMs, 1000, 5) << "and not half of it: a comb is as strong at its multiples";
}

TEST(PublishedFrequencyTest, ASineUnderIrregularSampling) {
    Congruential r(7);
    std::vector<double> t, y;
    for (double at = 0; at < 40000; at += 8 + r.below(17)) {
        t.push_back(at / 1000);
        y.push_back(16 + 3 * std::sin(2 * std::numbers::pi * 1.7 * at / 1000));
    }
    ASSERT_EQ(t.size(), 2478U);
    const auto power = lombScargle(t, y, std::vector<double>{1.6, 1.7, 1.8});
    EXPECT_NEAR(power[0], 2.4070553e-05, 1e-10);
    EXPECT_NEAR(power[1], 0.999940238814, 1e-10);
    EXPECT_NEAR(power[2], 3.193366e-05, 1e-10);
    EXPECT_EQ(lombScargle(t, std::vector<double>(t.size(), 1.0), std::vector<double>{1.0}).front(), 0);
}
