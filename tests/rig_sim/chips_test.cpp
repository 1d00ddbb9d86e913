// SPDX-License-Identifier: GPL-3.0-or-later
// Power, heat and clocks of the simulated machine: and the facts of the trade that must come out
// by mechanism (common practice, no source), each with the mechanism switched off.
#include "support/support.h"

#include <cmath>
#include <impasto/frames/parts.h>
#include <impasto/frames/summary.h>
#include <impasto/stats/stats.h>
#include <rig_sim/chips.h>

using namespace impasto;
using namespace impasto::support;

namespace {

struct PlayedRun {
    capture::Capture capture;
    rig::RigState after;
    [[nodiscard]] double average() const { return frames::summarize(capture.framesMs)->average.value(); }
    [[nodiscard]] double mean(capture::Sensor sensor) const {
        return capture::trackMean(capture, sensor).value_or(std::nan(""));
    }
    /// The lowest rate of half a second.
    [[nodiscard]] double lowestWindow() const {
        double low = 1e9, span = 0;
        int frames = 0;
        for (const double ms : capture.framesMs) {
            span += ms;
            ++frames;
            if (span < 500) continue;
            low = std::min(low, 1000 * frames / span);
            span = frames = 0;
        }
        return low;
    }
};

/// The whole route of the demo's game at a preset.
run::Order orderOn(const machine::Machine& machine, const char* preset, std::uint64_t seed) {
    const auto game = saltmarsh();
    run::Order o;
    o.variant.values = game.preset(preset)->values;
    o.variant.resolution = machine.panel.native;
    o.route = game.routes.front().name;
    o.seconds = game.routes.front().seconds();
    o.seed = seed;
    return o;
}

/// The third of three runs, so that the machine is warm.
PlayedRun played(const machine::Machine& machine, const char* preset, std::optional<Fps> cap, std::uint64_t seed,
                 const run::Conditions& conditions = {}) {
    const auto game = saltmarsh();
    const auto rig = rig_sim::simulatedRig(originals(), machine, game);
    EXPECT_TRUE(rig.has_value());
    run::Order o = orderOn(machine, preset, seed);
    o.variant.cap = cap;
    o.conditions = conditions;
    PlayedRun out{{}, {true}};
    for (std::uint64_t i = 0; i < 3; ++i) {
        o.seed = 10 * seed + i;
        auto recording = (*rig)->record(o, out.after, {}, {});
        EXPECT_TRUE(recording.has_value());
        out = {std::move(recording->capture), recording->next};
    }
    return out;
}

const char* const governor = "[rig.power.governor]\nperiod_ms = 250\nsmoothing = 0.05\ncpu_target = 0.6\ngpu_target = "
                             "0.97\nmost_step_up = 1.03\n";

} // namespace

TEST(ChipsTest, ABurstEndsAtTheSustainedPower) {
    rig_model::Power p;
    p.gpu = {10, 10, 180, 0.9, 0.3, 120, 160};
    p.cpu = {5, 5, 20, 0.9, 0.3, {}, 0};
    p.gpuHeat = p.cpuHeat = {50, 0, 100, 110, 8, 45, 85, 1, 0.05, 1};
    p.boostSeconds = 10;
    rig_sim::Chips chips(p, {});
    for (int i = 0; i < 60; ++i) chips.advance(20, 5, 20);
    EXPECT_GT(chips.reading().gpuW, 130) << "at first it bursts";
    for (int i = 0; i < 6000; ++i) chips.advance(20, 5, 20);
    EXPECT_NEAR(chips.reading().gpuW, 120, 3);
    EXPECT_LT(chips.reading().gpuClock, 0.9);
    EXPECT_EQ(chips.reading().cpuClock, 1);
    EXPECT_NEAR(chips.gpuStretch(), 0.9 / chips.reading().gpuClock + 0.1, 1e-12);
}

TEST(ChipsTest, HowTimeIsCutDoesNotMatter) {
    const auto machine = machineNamed("marram-desktop.toml");
    rig_model::Power p;
    p.cpu = {10, 10, 38, 0.92, 0.5, 95, 120};
    p.gpu = {14, 12, 124, 0.88, 0.35, 156, 168};
    p.governor = rig_model::Governor{};
    rig_sim::Chips coarse(p, {}), fine(p, {});
    for (int i = 0; i < 200; ++i) coarse.advance(100, 40, 90);
    for (int i = 0; i < 20000; ++i) fine.advance(1, 0.4, 0.9);
    EXPECT_NEAR(coarse.reading().gpuC, fine.reading().gpuC, 1e-6);
    EXPECT_NEAR(coarse.reading().gpuClock, fine.reading().gpuClock, 1e-6);
    EXPECT_NEAR(coarse.reading().gpuW, fine.reading().gpuW, 1e-6);
}

TEST(ChipsTest, TheStateIsCarriedAndStored) {
    const auto machine = machineNamed("whinbush-laptop.toml");
    const auto warm = played(machine, "high", {}, 1);
    ASSERT_TRUE(warm.after.power);
    EXPECT_GT(warm.after.power->gpuC, 60);
    EXPECT_EQ(*rig::stateOf(rig::textOf(warm.after)), warm.after);
    EXPECT_FALSE(played(tower(), "high", {}, 1).after.power) << "a machine without the tables stays as it was";
    for (const char* bad : {"shaders=compiled cpu_c=70", "shaders=compiled cpu_c=hot", "cpu_c", "shaders=old"})
        EXPECT_EQ(rig::stateOf(bad).error().code, ErrorCode::BadValue) << bad;
}

TEST(ChipsTest, ACapSavesPowerAndHeatAndKeepsItsRate) {
    const auto machine = machineNamed("marram-desktop.toml");
    for (std::uint64_t seed = 1; seed <= 3; ++seed) {
        const auto free = played(machine, "medium", {}, seed);
        const Fps cap(0.85 * free.average());
        const auto capped = played(machine, "medium", cap, seed);
        EXPECT_NEAR(capped.average() / cap.value(), 1, 0.03);
        const double saved = 1 - capped.mean(capture::Sensor::GpuPower) / free.mean(capture::Sensor::GpuPower);
        EXPECT_GT(saved, 0.08) << seed;
        EXPECT_LT(saved, 0.35) << seed;
        EXPECT_LT(capped.mean(capture::Sensor::GpuTemperature), free.mean(capture::Sensor::GpuTemperature) - 1);
        EXPECT_LT(capped.mean(capture::Sensor::SystemPower), free.mean(capture::Sensor::SystemPower));
    }
}

TEST(ChipsTest, ASlowGovernorMakesALowCapWaver) {
    const auto machine = machineNamed("curlew-pocket.toml"),
               without = machineWith("curlew-pocket.toml", {{governor, ""}});
    for (std::uint64_t seed = 1; seed <= 3; ++seed) {
        const auto wavering = played(machine, "low", Fps(40), seed), steady = played(without, "low", Fps(40), seed);
        EXPECT_LT(wavering.lowestWindow(), 35) << seed;
        EXPECT_GT(steady.lowestWindow(), 38.5) << "with the governor off the same cap is even, " << seed;
        EXPECT_LT(wavering.mean(capture::Sensor::GpuClock), 60);
        EXPECT_GT(wavering.mean(capture::Sensor::GpuLoad), 90) << "busy is no headroom while the clock moves";
        EXPECT_LT(wavering.mean(capture::Sensor::SystemPower), 0.7 * steady.mean(capture::Sensor::SystemPower));
    }
}

TEST(ChipsTest, ChipsThatShareTheirPowerTakeItFromOneAnother) {
    const auto machine = machineNamed("curlew-pocket.toml"),
               without = machineWith("curlew-pocket.toml",
                                     {{"[rig.power.shared_limit]\nsustained_w = 15\nburst_w = 18\n", ""}});
    const run::Conditions fast{{}, run::PowerPlan::Performance}; // no governor in the way
    const auto drawn = [](const PlayedRun& p) {
        return p.mean(capture::Sensor::CpuPower) + p.mean(capture::Sensor::GpuPower);
    };
    const auto shared = played(machine, "high", {}, 1, fast), own = played(without, "high", {}, 1, fast);
    EXPECT_NEAR(drawn(shared), 15, 0.6);
    EXPECT_GT(drawn(own), drawn(shared) + 0.4) << "with limits of their own they draw what they like";
    EXPECT_LT(shared.mean(capture::Sensor::GpuClock), own.mean(capture::Sensor::GpuClock));
    EXPECT_LT(shared.average(), own.average());
    // A lighter CPU leaves the GPU more.
    const auto lighter = machineWith("curlew-pocket.toml", {{"dynamic_w = 4.6", "dynamic_w = 1.6"}});
    EXPECT_GT(played(lighter, "high", {}, 1, fast).mean(capture::Sensor::GpuPower),
              shared.mean(capture::Sensor::GpuPower) + 0.5);
}

TEST(ChipsTest, AQuietFanCostsRateOnlyThroughHeat) {
    const Changes cold{{"watt_per_kelvin = 0.55", "watt_per_kelvin = 20"}};
    const run::Conditions quiet{run::FanProfile::Quiet}, full{run::FanProfile::Full};
    const auto machine = machineNamed("whinbush-laptop.toml");
    const auto automatic = played(machine, "high", {}, 1), hushed = played(machine, "high", {}, 1, quiet),
               loud = played(machine, "high", {}, 1, full);
    EXPECT_GT(automatic.average() / hushed.average(), 1.2);
    EXPECT_LT(automatic.average() / hushed.average(), 1.7);
    EXPECT_GT(hushed.mean(capture::Sensor::GpuTemperature), 87);
    EXPECT_LT(loud.mean(capture::Sensor::GpuTemperature), automatic.mean(capture::Sensor::GpuTemperature));
    EXPECT_NEAR(loud.mean(capture::Sensor::Fan), 100, 1e-3);
    const double a = played(machineWith("whinbush-laptop.toml", cold), "high", {}, 1).average();
    const double b = played(machineWith("whinbush-laptop.toml", cold), "high", {}, 1, quiet).average();
    EXPECT_NEAR(a / b, 1, 0.01) << "without heat the fan does not matter";
}

TEST(ChipsTest, PlansAndTheBatteryMoveClocksAndPower) {
    const auto machine = machineNamed("whinbush-laptop.toml");
    const auto with = [&](run::PowerPlan plan, run::Supply supply) {
        return played(machine, "medium", Fps(40), 1, {run::FanProfile::Automatic, plan, supply});
    };
    const auto balanced = with(run::PowerPlan::Balanced, run::Supply::Mains),
               performance = with(run::PowerPlan::Performance, run::Supply::Mains),
               saving = with(run::PowerPlan::Saving, run::Supply::Mains);
    using capture::Sensor;
    EXPECT_LT(balanced.mean(Sensor::GpuClock), 95) << "the governor lets the clock fall under a cap";
    EXPECT_GT(performance.mean(Sensor::GpuClock), 97);
    EXPECT_GT(performance.mean(Sensor::SystemPower), balanced.mean(Sensor::SystemPower));
    EXPECT_LE(saving.mean(Sensor::GpuClock), 60.01);
    const auto mains = played(machine, "high", {}, 1),
               battery = played(machine, "high", {}, 1, {{}, {}, run::Supply::Battery});
    EXPECT_LT(battery.average(), 0.93 * mains.average());
    EXPECT_LT(battery.mean(Sensor::SystemPower), 0.8 * mains.mean(Sensor::SystemPower));
}

TEST(ChipsTest, TheFirstLapOfAColdMachineMisleads) {
    const auto machine = machineNamed("whinbush-laptop.toml");
    const auto game = saltmarsh();
    const auto rig = rig_sim::simulatedRig(originals(), machine, game);
    run::Order o;
    o.variant.values = game.presets.front().values;
    o.variant.resolution = machine.panel.native;
    o.route = game.routes.front().name;
    o.seconds = game.routes.front().seconds();
    o.conditions.fans = run::FanProfile::Quiet;
    const auto meanMs = [](const rig::Recording& r) {
        return capture::durationMs(r.capture) / static_cast<double>(r.capture.frames());
    };
    const auto cold = (*rig)->record(o, {true}, {}, {});
    const auto warm = (*rig)->record(o, cold->next, {}, {});
    EXPECT_LT(meanMs(*cold), 0.95 * meanMs(*warm));
    o.conditions.warmUpSeconds = 100;
    const auto afterWarmUp = (*rig)->record(o, {true}, {}, {});
    EXPECT_NEAR(meanMs(*afterWarmUp), meanMs(*warm), 0.02 * meanMs(*warm)) << "playing before it mends that";
}

TEST(ChipsTest, ACopyRouteTakesMuchFromFastGamesAndLittleFromSlowOnes) {
    const std::pair<std::string, std::string> serial{"blocking_share = 0.22", "blocking_share = 0"};
    const std::pair<std::string, std::string> fast{"gpu_speed = 0.9", "gpu_speed = 7"};
    const std::pair<std::string, std::string> fastCpu{"cpu_speed = 0.9", "cpu_speed = 6"};
    const auto rate = [](const Changes& changes, bool direct) {
        const auto machine = machineWith("sedge-laptop.toml", changes);
        run::Order o = orderOn(machine, "medium", 2);
        o.variant.direct = direct;
        const auto run = (*rig_sim::simulatedRig(originals(), machine, saltmarsh()))->record(o, {true}, {}, {});
        return frames::summarize(run->capture.framesMs)->average.value();
    };
    const double slow = rate({}, false) / rate({}, true),
                 quick = rate({fast, fastCpu}, false) / rate({fast, fastCpu}, true);
    EXPECT_LT(slow, 0.97);
    EXPECT_GT(slow, 0.88);
    EXPECT_LT(quick, 0.7);
    EXPECT_GT(quick, 0.3);
    // A pipelined stage alone takes nothing from a slow game.
    EXPECT_GT(rate({serial}, false) / rate({serial}, true), 0.99);
}

TEST(ChipsTest, FaultsOfThePowerTablesNameTheirKey) {
    struct Case {
        const char *from, *to, *key;
        ErrorCode code;
    };
    const Case cases[] = {{"idle_w = 4\n", "", "rig.power.cpu.idle_w", ErrorCode::MissingKey},
                          {"dynamic_w = 82", "dynamic_w = -1", "rig.power.gpu.dynamic_w", ErrorCode::OutOfRange},
                          {"fan_to_c = 88", "fan_to_c = 40", "rig.power.shared_heat.fan_to_c", ErrorCode::OutOfRange},
                          {"burst_w = 70", "", "rig.power.cpu.burst_w", ErrorCode::MissingKey},
                          {"rest_w = 16", "rest = 16", "rig.power.rest", ErrorCode::UnknownName}};
    for (const auto& c : cases) {
        const auto rig =
            rig_sim::simulatedRig(originals(), machineWith("whinbush-laptop.toml", {{c.from, c.to}}), saltmarsh());
        ASSERT_FALSE(rig.has_value()) << c.key;
        EXPECT_EQ(rig.error().where.key, c.key);
        EXPECT_EQ(static_cast<int>(rig.error().code), static_cast<int>(c.code)) << c.key;
    }
}
