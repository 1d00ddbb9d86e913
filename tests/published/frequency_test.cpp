// SPDX-License-Identifier: GPL-3.0-or-later
// A comb of moments from a linear congruential generator, and the Rayleigh statistic of all frequencies by FFT against
// its definition.
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/frames/hitch_origin.h>
#include <impasto/stats/spectrum.h>

using namespace impasto::stats;
using namespace impasto::frames;

namespace {

class LinearCongruential {
  public:
    explicit LinearCongruential(std::uint32_t seed) : m_x(seed) {}
    double below(std::uint32_t m) {
        m_x = 1664525U * m_x + 1013904223U;
        return (m_x >> 16U) % m;
    }

  private:
    std::uint32_t m_x;
};

} // namespace

TEST(PublishedFrequencyTest, AHitchEverySecondOfJitteredFrames) {
    LinearCongruential r(1);
    std::vector<double> frames, moments;
    double t = 0;
    for (int k = 1; t < 60000;) {
        double ms = 60;
        if (t >= 1000.0 * k)
            ++k;
        else
            ms = 8 + r.below(5);
        frames.push_back(ms);
        if (ms == 60) moments.push_back(t / 1000);
        t += ms;
    }
    ASSERT_EQ(frames.size(), 5699U);
    impasto::capture::Capture c;
    c.framesMs = frames;
    const auto found = hitches(frames);
    const auto origin = originOf({found, partStartsOf(c)});
    EXPECT_EQ(origin.pattern, HitchPattern::Periodic);
    EXPECT_NEAR(origin.periodMs, 1000, 5) << "and not half of it: a comb is as strong at its multiples";
}

TEST(PublishedFrequencyTest, GatheringsAreThoseOfTheDefinition) {
    // Mardia and Jupp (2000), Directional Statistics: the mean resultant length, here at every tenth of a period.
    LinearCongruential r(7);
    std::vector<double> moments;
    for (double at = 0; at < 90; at += 0.02 + 0.001 * r.below(900)) moments.push_back(at);
    const double span = moments.back() - moments.front();
    const auto all = gatherings(moments, 150);
    ASSERT_EQ(all.size(), 1501U);
    for (std::size_t k = 0; k < all.size(); k += 7) {
        const double exact = gathering(moments, 0.1 * static_cast<double>(k) / span);
        EXPECT_NEAR(all[k], exact, 0.02) << k;
    }
}
