// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/pace/power.h>

using namespace impasto;
using namespace impasto::pace;
using capture::Sensor;

namespace {

/// 60 s at 80 fps with readings every half second.
capture::Capture withReadings(const std::map<Sensor, std::function<double(double)>>& readings) {
    auto c = support::flatCapture(12.5, 4800);
    for (const auto& [sensor, of] : readings) {
        capture::Track track{sensor, {}, {}};
        for (double t = 0; t < 60000; t += 500) {
            track.timeMs.push_back(t);
            track.values.push_back(static_cast<float>(of(t)));
        }
        c.tracks.push_back(std::move(track));
    }
    return c;
}

std::function<double(double)> always(double value) {
    return [value](double) { return value; };
}

Power powerOf(double rate, double watts, Clocks clocks = Clocks::Held) {
    return {{{std::nullopt, {PowerOf::System, Fps(rate), watts, 72.0, 0.6}}}, clocks};
}

} // namespace

TEST(PowerTest, TheWidestReadingCounts) {
    EXPECT_FALSE(drawnIn(withReadings({{Sensor::GpuLoad, always(99)}}))) << "no power told";
    const auto gpu = drawnIn(withReadings({{Sensor::GpuPower, always(150)}}));
    ASSERT_TRUE(gpu);
    EXPECT_EQ(gpu->of, PowerOf::Gpu);
    EXPECT_NEAR(gpu->rate.value(), 80, 1e-6);
    const auto chips = drawnIn(withReadings({{Sensor::GpuPower, always(150)}, {Sensor::CpuPower, always(40)}}));
    EXPECT_EQ(chips->of, PowerOf::Chips);
    EXPECT_NEAR(chips->watts, 190, 1e-6);
    const auto system = drawnIn(withReadings(
        {{Sensor::GpuPower, always(150)}, {Sensor::CpuPower, always(40)}, {Sensor::SystemPower, always(240)}}));
    EXPECT_EQ(system->of, PowerOf::System);
    EXPECT_NEAR(system->watts, 240, 1e-6);
}

TEST(PowerTest, OnlyASettledTemperatureIsOne) {
    const auto flat = drawnIn(withReadings(
        {{Sensor::GpuPower, always(150)}, {Sensor::GpuTemperature, always(71)}, {Sensor::Fan, always(45)}}));
    EXPECT_NEAR(flat->celsius.value(), 71, 1e-6);
    EXPECT_NEAR(flat->fan.value(), 0.45, 1e-6);
    const auto rising = drawnIn(withReadings({{Sensor::GpuPower, always(150)},
                                              {Sensor::GpuTemperature, [](double t) { return 50 + t / 3000; }},
                                              {Sensor::Fan, always(45)}}));
    EXPECT_FALSE(rising->celsius) << "still warming";
    EXPECT_FALSE(rising->fan);
}

TEST(PowerTest, MeansAreOfRecordingsThatTellTheSame) {
    const std::array<Drawn, 2> alike{{{PowerOf::Gpu, Fps(80), 150, 70.0, {}}, {PowerOf::Gpu, Fps(84), 154, {}, {}}}};
    const auto mean = meanOf(alike);
    EXPECT_NEAR(mean->watts, 152, 1e-9);
    EXPECT_FALSE(mean->celsius) << "one had not settled";
    const std::array<Drawn, 2> unlike{{{PowerOf::Gpu, Fps(80), 150, {}, {}}, {PowerOf::System, Fps(80), 250, {}, {}}}};
    EXPECT_FALSE(meanOf(unlike));
    EXPECT_FALSE(meanOf({}));
}

TEST(PowerTest, WhatWasMeasuredIsToldExactlyAndFartherAwayTheBandWidens) {
    const PowerRules rules;
    auto power = powerOf(100, 200);
    const auto at = [&](double rate) { return wattsAt(power, Fps(rate), rules); };
    EXPECT_NEAR(at(100).middle, 200, 1e-9);
    EXPECT_NEAR(at(50).middle, 200 * std::pow(0.5, rules.machine[0].exponent), 1e-9);
    double last = 0;
    for (const double rate : {100.0, 90.0, 70.0, 50.0, 30.0}) {
        const auto band = at(rate);
        EXPECT_LT(band.low, band.middle);
        EXPECT_LT(band.middle, band.high);
        const double width = band.high / band.low;
        EXPECT_GT(width, last);
        last = width;
    }
    EXPECT_LT(at(110).low, at(110).high) << "above it too";
    // A proof in between: told exactly, and nothing jumps on either side of it.
    power.points.push_back({CapPlan{Fps(60)}, {PowerOf::System, Fps(60), 130, {}, {}}});
    EXPECT_NEAR(at(60).middle, 130, 1e-9);
    EXPECT_NEAR(at(60).high / at(60).middle, std::exp(rules.noise), 1e-9);
    for (double rate = 30; rate < 110; rate += 0.5)
        EXPECT_NEAR(std::log(at(rate + 0.5).middle / at(rate).middle), 0, 0.03) << rate;
    const auto before = at(80);
    CapPlan invents{Fps(80)};
    invents.generation = run::Generation{};
    power.points.push_back({invents, {PowerOf::System, Fps(80), 260, {}, {}}});
    EXPECT_EQ(at(80), before) << "what invents frames draws says nothing of a cap";
    EXPECT_NE(power.provenAt(invents), nullptr);
    ASSERT_NE(power.provenAt(CapPlan{Fps(60)}), nullptr);
    EXPECT_EQ(power.provenAt(CapPlan{Fps(61)}), nullptr);
    EXPECT_EQ(drawsOf(power, *power.provenAt(CapPlan{Fps(60)})).watts, (Band{130, 130, 130}));
}

TEST(PowerTest, WhatARecordingSaysOfWhatMayBeAsked) {
    using capture::Sensor;
    using run::Bound;
    auto c = support::flatCapture(10, 600, 5, 9);
    EXPECT_EQ(boundFigures(c, 50.0), run::BoundFigures()) << "nothing is told";
    c.latencyMs = std::vector<double>(600, 30);
    (*c.latencyMs)[7] = std::numeric_limits<double>::quiet_NaN(); // never shown
    const auto track = [&](Sensor sensor, std::vector<float> values) {
        c.tracks.push_back({sensor, {0, 2000, 4000}, std::move(values)});
    };
    track(Sensor::GpuPower, {90, 100, 110});
    track(Sensor::GpuTemperature, {60, 71, 70});
    track(Sensor::GpuLoad, {80, 90, 100});
    track(Sensor::Fan, {30, 45, 40});
    auto said = boundFigures(c, 50.0);
    EXPECT_EQ(said[Bound::Latency], 30.0);
    EXPECT_EQ(said[Bound::Power], 100.0);
    EXPECT_FALSE(said[Bound::BatteryHours]) << "the GPU is not all that empties it";
    EXPECT_EQ(said[Bound::GpuTemperature], 71.0) << "the highest";
    EXPECT_EQ(said[Bound::GpuLoad], 0.9);
    EXPECT_NEAR(*said[Bound::Fan], 0.45, 1e-6);
    track(Sensor::SystemPower, {20, 25, 30});
    said = boundFigures(c, 50.0);
    EXPECT_EQ(said[Bound::Power], 25.0);
    EXPECT_EQ(said[Bound::BatteryHours], 2.0);
    EXPECT_FALSE(boundFigures(c, {})[Bound::BatteryHours]);
}

TEST(PowerTest, WhatIsAskedLeavesFramesSoMuchOfTheTime) {
    const PowerRules rules;
    for (const auto clocks : {Clocks::Held, Clocks::Free, Clocks::Small}) {
        auto power = powerOf(100, 20, clocks);
        power.batteryWh = 40;
        const auto fill = [&](run::Bound bound, double asked) {
            run::BoundFigures all;
            all[bound] = asked;
            return fillFor(all, power, rules);
        };
        EXPECT_EQ(fillFor({}, power, rules), 1.0) << "nothing is asked";
        EXPECT_EQ(fill(run::Bound::Power, 21), 1.0) << "kept without a cap";
        EXPECT_EQ(fill(run::Bound::Latency, 1), 1.0) << "no matter of watts";
        EXPECT_EQ(fill(run::Bound::GpuLoad, 0.2), 1.0);
        EXPECT_FALSE(fill(run::Bound::Power, 0.3)) << "nothing keeps that";
        const double asked = clocks == Clocks::Held ? 16 : 13;
        const auto share = fill(run::Bound::Power, asked);
        ASSERT_TRUE(share && *share < 1 && *share >= leastFill);
        EXPECT_NEAR(run::spared * wattsAt(power, Fps(100 * *share), rules).low, asked, 0.02 * asked);
        EXPECT_GT(wattsAt(power, Fps(100 * *share), rules).high, asked) << "only the favourable end keeps it";
        EXPECT_NEAR(*fill(run::Bound::BatteryHours, 40 / asked), *share, 0.002) << "hours are the same watts";
        EXPECT_LT(*fill(run::Bound::Power, 0.95 * asked), *share);
    }
}

TEST(PowerTest, HeatAndFanShareWhatIsSaved) {
    const PowerRules rules;
    auto power = powerOf(100, 200);
    const auto draws = drawsAt(power, Fps(50), rules);
    ASSERT_TRUE(draws.celsius && draws.fan);
    EXPECT_NEAR(draws.celsius->high, 72, 1e-9) << "the fan takes all";
    EXPECT_NEAR(draws.celsius->low, rules.roomC + draws.watts.low / 200 * (72 - rules.roomC), 1e-9);
    EXPECT_NEAR(draws.fan->high, 0.6, 1e-9);
    EXPECT_FALSE(drawsAt(power, Fps(130), rules).celsius) << "nothing is told of more than was measured";
    EXPECT_FALSE(draws.hours) << "no battery is known";
    power.batteryWh = 50;
    EXPECT_NEAR(drawsAt(power, Fps(100), rules).hours->middle, 0.25, 1e-9);
    for (auto& point : power.points) point.drawn.of = PowerOf::Gpu;
    EXPECT_FALSE(drawsAt(power, Fps(100), rules).hours) << "the GPU is not all that empties it";
}

TEST(PowerTest, AtRestThePanelStillShowsEvenly) {
    EXPECT_EQ(restingCap(display::Panel{{2560, 1440}, Hertz(144), display::RefreshRange{Hertz(48), Hertz(144)}}),
              Fps(48));
    EXPECT_EQ(restingCap(display::Panel{{1920, 1080}, Hertz(60), {}}), Fps(30));
    EXPECT_NEAR(restingCap(display::Panel{{1920, 1080}, Hertz(144), {}}).value(), 36, 1e-9);
    EXPECT_EQ(restingCap(display::Panel{{1280, 800}, Hertz(60), {}, {Hertz(60), Hertz(70), Hertz(90)}}), Fps(30));
    EXPECT_EQ(restingCap(std::nullopt), Fps(30));
}

TEST(PowerTest, RulesAreReadAndRefused) {
    const auto shipped = parseCapRules(support::textOf(support::dataFile("cap_rules.toml")), "cap_rules.toml");
    ASSERT_TRUE(shipped.has_value());
    EXPECT_EQ(shipped->power, PowerRules{}) << "what is built in is what is shipped";
    EXPECT_FALSE(parseCapRules("[power.gpu]\nheld = [0.5, 0.6, 0.7]\n", "rules"));
    EXPECT_FALSE(parseCapRules("[power.gpu]\nheld = [0.5]\n", "rules"));
    EXPECT_EQ(parseCapRules("[power.gpu]\nheld = [0.6, 0.5, 0.7]\n", "rules")->power.gpu[0],
              (PowerRule{0.6, 0.5, 0.7}));
}

TEST(PowerTest, ALowCapAtRestSavesItsShare) {
    const Power power{{{std::nullopt, {PowerOf::System, Fps(100), 200, {}, {}}}}, Clocks::Held, {}};
    const auto half = atRest(power, 200, Fps(30), 0.5, {});
    ASSERT_TRUE(half);
    EXPECT_NEAR(half->watts.middle, 0.5 * (200 - wattsAt(power, Fps(30), {}).middle), 1e-9);
    EXPECT_GT(half->watts.middle, 20);
    EXPECT_NEAR(half->watts.low, 0.5 * (200 - wattsAt(power, Fps(30), {}).high), 1e-9);
    EXPECT_LT(half->watts.low, half->watts.high);
    EXPECT_NEAR(half->backMs, 33.3, 0.1);
    EXPECT_FALSE(atRest(power, 200, Fps(30), 0, {})) << "never at rest";
    EXPECT_FALSE(atRest(power, 50, Fps(30), 0.5, {})) << "it draws less than that already";
    EXPECT_NEAR(atRest({{{std::nullopt, {PowerOf::System, Fps(20), 60, {}, {}}}}, Clocks::Held, {}}, 80, Fps(30), 1, {})
                    ->backMs,
                50, 1e-9)
        << "no faster than it can";
}
