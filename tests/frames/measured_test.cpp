// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>

#include <cmath>
#include <impasto/frames/measured.h>

using namespace impasto;
using namespace impasto::frames;

namespace {

capture::Capture withWork(double cpu, double watts) {
    capture::Capture c;
    c.framesMs = {16, 17, 18};
    c.cpuWorkMs = {cpu, NAN, cpu + 2};
    c.tracks.push_back(
        {capture::Sensor::GpuPower, {0, 500}, {static_cast<float>(watts), static_cast<float>(watts + 10)}});
    return c;
}

} // namespace

TEST(MeasuredTest, WhatTheLogTellsAndNothingElse) {
    const auto m = measuredOf(withWork(5, 100));
    ASSERT_EQ(m.size(), 2U);
    EXPECT_EQ(m.at("cpu_work_ms").mean, 6) << "missing cells do not count";
    EXPECT_EQ(m.at("gpu_power_w").least, 100);
    EXPECT_EQ(m.at("gpu_power_w").most, 110);
    capture::Capture generated;
    generated.framesMs = {20, 20, 20, 20};
    generated.invented = {1, 1, 1, 1};
    EXPECT_NEAR(measuredOf(generated).at("shown_fps").mean, 100, 1e-9);
    EXPECT_TRUE(measuredOf({}).empty());
}

TEST(MeasuredTest, TheSensorThatSetsTheRunsApartComesFirst) {
    const auto run = [](double watts, double load, std::optional<double> temperature) {
        capture::Capture c;
        c.framesMs = {16, 17, 18};
        const auto track = [&](capture::Sensor sensor, double value) {
            c.tracks.push_back({sensor, {0}, {static_cast<float>(value)}});
        };
        track(capture::Sensor::GpuLoad, load);
        track(capture::Sensor::GpuPower, watts);
        if (temperature) track(capture::Sensor::GpuTemperature, *temperature);
        return measuredOf(c);
    };
    using capture::Sensor;
    const auto a = run(150, 97, 60), b = run(151, 90, {}), c = run(149, 98, {}), hot = run(150, 97, 81);
    const auto apart = [](std::vector<const AllMeasured*> runs) { return sensorsApart(runs); };
    EXPECT_EQ(apart({&a, &b, &c}), (std::vector{Sensor::GpuLoad, Sensor::GpuPower})) << "one of three tells degrees";
    EXPECT_EQ(apart({&a, &hot}).front(), Sensor::GpuTemperature);
    EXPECT_EQ(apart({&a, &hot}).size(), 3U);
    EXPECT_TRUE(apart({}).empty());
}

TEST(MeasuredTest, OnlyWhatEveryRunMeasuredIsCompared) {
    const std::vector<AllMeasured> before{measuredOf(withWork(5, 100)), measuredOf(withWork(5.1, 101)),
                                          measuredOf(withWork(4.9, 99))};
    std::vector<AllMeasured> after{measuredOf(withWork(7, 100)), measuredOf(withWork(7.1, 100.5)),
                                   measuredOf(withWork(6.9, 99.5))};
    auto compared = compareMeasured(before, after);
    ASSERT_EQ(compared.size(), 2U);
    EXPECT_EQ(compared[0].key, "cpu_work_ms");
    EXPECT_NEAR(compared[0].comparison.difference.estimate, 2, 1e-9);
    EXPECT_EQ(compared[0].comparison.verdict, stats::Verdict::Differs);
    EXPECT_EQ(compared[1].comparison.verdict, stats::Verdict::NoLargerDifference);
    after[1].erase("cpu_work_ms");
    compared = compareMeasured(before, after);
    ASSERT_EQ(compared.size(), 1U);
    EXPECT_EQ(compared[0].key, "gpu_power_w");
    EXPECT_TRUE(compareMeasured({}, after).empty());
}
