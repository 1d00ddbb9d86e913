// SPDX-License-Identifier: GPL-3.0-or-later
// Energy by definition: 1 W = 1 J/s, 1 h = 3600 s, 1 kWh = 3.6e6 J; hours = Wh / W (SI brochure of the BIPM, from
// memory). Values worked out as exact fractions. The fan law: sound power level changes by 50 log10 of the ratio of
// speeds (handbooks of ventilation, from memory).
#include "support/support.h"

#include <impasto/pace/power.h>

using namespace impasto;

TEST(EnergyTest, AYearOfPlay) {
    struct Row {
        double watts, hoursAWeek, kwh;
    };
    for (const auto& row : {Row{250, 28, 364},                // 250 W, 4 h a day, 52 weeks
                            Row{85, 1000.0 / 52, 85},         // 1000 h
                            Row{250, 4.0 / 52, 1},            // 4 h: 1 kWh
                            Row{15, 10, 7.8}, Row{0, 10, 0}}) // 520 h of 15 W
        EXPECT_NEAR(pace::kwhAYear(row.watts, row.hoursAWeek), row.kwh, 1e-9) << row.watts;
    EXPECT_NEAR(0.30 * pace::kwhAYear(85, 1000.0 / 52), 25.5, 1e-9);
}

TEST(EnergyTest, HoursOfABattery) {
    struct Row {
        double wh, watts, hours;
    };
    for (const auto& row : {Row{50, 12.5, 4}, Row{40.04, 15, 1001.0 / 375}, Row{72, 22, 36.0 / 11}}) {
        pace::Power power{{{std::nullopt, {pace::PowerOf::System, Fps(60), row.watts, {}, {}}}}, pace::Clocks::Held};
        power.batteryWh = row.wh;
        EXPECT_NEAR(pace::drawsOf(power, power.uncapped()).hours->middle, row.hours, 1e-9) << row.wh;
    }
}

TEST(EnergyTest, HalfTheSpeedIsFifteenDecibelsQuieter) {
    EXPECT_NEAR(pace::fanNoiseDb(1, 0.5), -15.051, 0.001);
    EXPECT_NEAR(pace::fanNoiseDb(0.8, 0.8), 0, 1e-12);
    EXPECT_NEAR(pace::fanNoiseDb(1, 2), 15.051, 0.001);
}
