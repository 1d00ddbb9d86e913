// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <impasto/capture/pyramid.h>

using namespace impasto;
using namespace impasto::capture;

TEST(PyramidTest, EveryStretchHasTheRangeOfItsFrames) {
    RandomStream s(3, "pyramid");
    for (const std::size_t count : {1U, 63U, 64U, 65U, 1024U, 1025U, 20000U, 300000U}) {
        std::vector<double> frames;
        for (std::size_t i = 0; i < count; ++i) frames.push_back(5 + 20 * s.uniform());
        const Pyramid pyramid(frames);
        for (int k = 0; k < 200; ++k) {
            std::size_t first = s.below(count), last = s.below(count);
            if (k % 3 == 0) last = std::min<std::size_t>(count - 1, first + s.below(300));
            if (first > last) std::swap(first, last);
            const auto range = pyramid.range(first, last + 1);
            const auto [least, most] = std::minmax_element(frames.begin() + static_cast<std::ptrdiff_t>(first),
                                                           frames.begin() + static_cast<std::ptrdiff_t>(last) + 1);
            ASSERT_EQ(range.least, *least) << first << " to " << last << " of " << count;
            ASSERT_EQ(range.most, *most) << first << " to " << last << " of " << count;
        }
    }
}

TEST(PyramidTest, TimesAreThoseOfTheFrames) {
    RandomStream s(4, "pyramid");
    std::vector<double> frames;
    for (int i = 0; i < 5000; ++i) frames.push_back(5 + 20 * s.uniform());
    const Pyramid pyramid(frames);
    double at = 0;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        EXPECT_NEAR(pyramid.startOf(i), at, 1e-9 * at);
        EXPECT_EQ(pyramid.frameAt(at + 0.5 * frames[i]), i);
        at += frames[i];
    }
    EXPECT_DOUBLE_EQ(pyramid.durationMs(), at);
    EXPECT_EQ(pyramid.frameAt(at + 1), frames.size());
    EXPECT_EQ(pyramid.frameAt(-5), 0U);
    EXPECT_EQ(pyramid.startOf(1000000), pyramid.durationMs());
    EXPECT_EQ(Pyramid().durationMs(), 0);
    EXPECT_EQ(Pyramid().frameAt(0), 0U);
}
