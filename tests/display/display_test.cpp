// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>
#include <impasto/display/display.h>

using namespace impasto;
using namespace impasto::display;

TEST(DisplayTest, ResolutionsReadAndWrite) {
    EXPECT_EQ(parseResolution("2560x1440"), (Resolution{2560, 1440}));
    for (const char* bad : {"", "x", "2560", "0x10", "-1x5", "10x", "99999x1", "10x10x10"})
        EXPECT_FALSE(parseResolution(bad)) << bad;
    EXPECT_DOUBLE_EQ(megapixelsOf({2560, 1440}).value(), 3.6864);
}

TEST(DisplayTest, EvenCapsDivideTheRefresh) {
    const auto caps = evenCaps(Hertz(144), Fps(30));
    ASSERT_EQ(caps.size(), 4U);
    EXPECT_EQ(caps[1], Fps(72));
    EXPECT_EQ(caps[3], Fps(36));
}

TEST(DisplayTest, TheWindowCapOutlastsTheShortestRefreshByTheError) {
    const Fps cap = windowCap({Hertz(48), Hertz(144)}, Milliseconds(0.3));
    EXPECT_NEAR(budgetOf(cap).value(), 1000.0 / 144 + 0.3, 1e-12);
}
