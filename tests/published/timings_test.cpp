// SPDX-License-Identifier: GPL-3.0-or-later
// VESA CVT 1.2, reduced blanking version 2, as edid-decode (Debian 12) computes it: tables/timings.txt, made by
// tables/make_timings.sh. What links carry is the standards' arithmetic: lanes, times bits a second, times the share
// that their line coding leaves (the rates themselves from memory).
#include "support/support.h"

#include <impasto/checklist/checklist.h>
#include <impasto/display/timing.h>
#include <sstream>

using namespace impasto;
using namespace impasto::display;

TEST(PublishedTimingsTest, ModesEqualTheTable) {
    std::istringstream table(support::textOf(support::sourceDir() / "tests/published/tables/timings.txt"));
    std::string line;
    int checked = 0;
    while (std::getline(table, line)) {
        if (line.starts_with("#")) continue;
        std::istringstream in(line);
        Resolution size;
        double rate = 0, clock = 0;
        int width = 0, lines = 0;
        in >> size.widthPx >> size.heightPx >> rate >> width >> lines >> clock;
        ASSERT_TRUE(in) << line;
        const auto timing = reducedBlanking(size, Hertz(rate));
        EXPECT_EQ(timing.lineWidthPx, width) << line;
        EXPECT_EQ(timing.linesAFrame, lines) << line;
        EXPECT_NEAR(timing.pixelClockMHz, clock, 0.0011) << line << ": a step of the clock, by rounding";
        ++checked;
    }
    EXPECT_EQ(checked, 170);
}

TEST(PublishedTimingsTest, WhatLinksCarryIsSaidOfTheCable) {
    const auto points =
        checklist::parseChecklist(support::textOf(support::dataFile("checklist.toml")), "checklist.toml");
    ASSERT_TRUE(points.has_value());
    const auto cable =
        std::find_if(points->begin(), points->end(), [](const checklist::Point& p) { return p.id == "cable"; });
    ASSERT_NE(cable, points->end());
    const double eightOfTen = 0.8, sixteenOfEighteen = 16.0 / 18;
    for (const double gbit : {4 * 5.4 * eightOfTen, 4 * 8.1 * eightOfTen, 3 * 0.340 * 10 * eightOfTen,
                              3 * 0.600 * 10 * eightOfTen, 48 * sixteenOfEighteen})
        EXPECT_NE(cable->check.find(fmt::format("{:.1f}", gbit)), std::string::npos) << gbit;
    // A fact that follows: 2160 lines at 120 Hz and 10 bits are more than 4 lanes of 8.1 Gbit/s carry uncompressed.
    const auto timing = reducedBlanking({3840, 2160}, Hertz(120));
    EXPECT_GT(gbitPerSecond(timing, 10), 4 * 8.1 * eightOfTen);
    EXPECT_LT(gbitPerSecond(timing, 8), 4 * 8.1 * eightOfTen);
    EXPECT_LT(gbitPerSecond(timing, 10), 48 * sixteenOfEighteen);
}
