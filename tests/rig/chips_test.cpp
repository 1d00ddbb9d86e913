// SPDX-License-Identifier: GPL-3.0-or-later
// Power, heat and clocks of the simulated machine: against closed forms, and the facts of the trade that must come out
// by mechanism (common practice, no source), each with the mechanism switched off.
#include "support/support.h"

#include <cmath>
#include <impasto/stats/stats.h>
#include <rig/chips.h>

using namespace impasto;
using namespace impasto::support;

namespace {

/// A machine file with some of its text replaced.
machine::Machine machineWith(const std::string& file,
                             const std::vector<std::pair<std::string, std::string>>& replaced = {}) {
    std::string text = textOf(dataFile("machines/" + file));
    for (const auto& [from, to] : replaced) {
        const auto at = text.find(from);
        EXPECT_NE(at, std::string::npos) << from;
        if (at != std::string::npos) text.replace(at, from.size(), to);
    }
    const auto parsed = machine::parseMachine(text, file);
    EXPECT_TRUE(parsed.has_value());
    return *parsed;
}

struct Played {
    capture::Capture capture;
    rig::RigState after;
    [[nodiscard]] double average() const { return stats::summarize(capture.framesMs)->average.value(); }
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

/// The third of three runs, so that the machine is warm.
Played played(const machine::Machine& machine, const char* preset, std::optional<Fps> cap, std::uint64_t seed) {
    const auto game = saltmarsh();
    const auto rig = rig::simulatedRig(machine, game);
    EXPECT_TRUE(rig.has_value());
    run::Order o;
    for (const auto& p : game.presets)
        if (p.name == preset) o.variant.values = p.values;
    o.variant.resolution = machine.panel.native;
    o.variant.sync = run::Sync::None;
    o.variant.cap = cap;
    o.route = game.routes.front().name;
    o.seconds = game.routes.front().seconds();
    Played out{{}, {true}};
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

// The step response of one resistance and one capacity: T = ambient + P / h (1 - exp(-t h / C)); any textbook.
TEST(ChipsTest, ASinkWarmsAsTheClosedFormSays) {
    rig_model::Power p;
    p.gpu = {60, 0, 0.001, 0.9, 0.4, {}, 0};
    p.cpu = {0, 0, 0.001, 0.9, 0.4, {}, 0};
    p.gpuHeat = {1.5, 0, 90, 110, 8, 45, 85, 1};
    p.cpuHeat = p.gpuHeat;
    p.ambientC = 22;
    rig::Chips chips(p, {});
    double seconds = 0;
    for (int i = 0; i < 4000; ++i) {
        chips.advance(50, 0, 0);
        seconds += 0.05;
        if (i % 400 == 0) {
            const double closed = 22 + 60 / 1.5 * (1 - std::exp(-seconds * 1.5 / 90));
            EXPECT_NEAR(chips.reading().gpuC, closed, 0.02) << seconds;
        }
    }
    EXPECT_NEAR(chips.reading().cpuC, 22, 0.01) << "a sink of its own stays cold";
}

TEST(ChipsTest, ABurstEndsAtTheSustainedPower) {
    rig_model::Power p;
    p.gpu = {10, 10, 180, 0.9, 0.3, 120, 160};
    p.cpu = {5, 5, 20, 0.9, 0.3, {}, 0};
    p.gpuHeat = p.cpuHeat = {50, 0, 100, 110, 8, 45, 85, 1};
    p.boostSeconds = 10;
    rig::Chips chips(p, {});
    for (int i = 0; i < 60; ++i) chips.advance(20, 5, 20);
    EXPECT_GT(chips.reading().gpuW, 130) << "at first it bursts";
    for (int i = 0; i < 6000; ++i) chips.advance(20, 5, 20);
    EXPECT_NEAR(chips.reading().gpuW, 120, 3);
    EXPECT_LT(chips.reading().gpuClock, 0.9);
    EXPECT_EQ(chips.reading().cpuClock, 1);
    EXPECT_NEAR(chips.gpuStretch(), 0.9 / chips.reading().gpuClock + 0.1, 1e-12);
}

TEST(ChipsTest, HowTimeIsCutDoesNotMatter) {
    const auto machine = machineWith("marram-desktop.toml");
    rig_model::Power p;
    p.cpu = {10, 10, 38, 0.92, 0.5, 95, 120};
    p.gpu = {14, 12, 124, 0.88, 0.35, 156, 168};
    p.governor = rig_model::Governor{};
    rig::Chips coarse(p, {}), fine(p, {});
    for (int i = 0; i < 200; ++i) coarse.advance(100, 40, 90);
    for (int i = 0; i < 20000; ++i) fine.advance(1, 0.4, 0.9);
    EXPECT_NEAR(coarse.reading().gpuC, fine.reading().gpuC, 1e-6);
    EXPECT_NEAR(coarse.reading().gpuClock, fine.reading().gpuClock, 1e-6);
    EXPECT_NEAR(coarse.reading().gpuW, fine.reading().gpuW, 1e-6);
}

TEST(ChipsTest, TheStateIsCarriedAndStored) {
    const auto machine = machineWith("whinbush-laptop.toml");
    const auto warm = played(machine, "high", {}, 1);
    ASSERT_TRUE(warm.after.power);
    EXPECT_GT(warm.after.power->gpuC, 60);
    EXPECT_EQ(*rig::stateOf(rig::textOf(warm.after)), warm.after);
    EXPECT_FALSE(played(tower(), "high", {}, 1).after.power) << "a machine without the tables stays as it was";
    for (const char* bad : {"shaders=compiled cpu_c=70", "shaders=compiled cpu_c=hot", "cpu_c", "shaders=old"})
        EXPECT_EQ(rig::stateOf(bad).error().code, ErrorCode::BadValue) << bad;
}

TEST(ChipsTest, ACapSavesPowerAndHeatAndKeepsItsRate) {
    const auto machine = machineWith("marram-desktop.toml");
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
    const auto machine = machineWith("curlew-pocket.toml"),
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

TEST(ChipsTest, AQuietFanCostsRateOnlyThroughHeat) {
    const std::pair<std::string, std::string> quiet{"fan_to_c = 88", "fan_to_c = 88\nmost_fan = 0.12"};
    const std::pair<std::string, std::string> cold{"watt_per_kelvin = 0.55", "watt_per_kelvin = 20"};
    const double automatic = played(machineWith("whinbush-laptop.toml"), "high", {}, 1).average();
    const auto hushed = played(machineWith("whinbush-laptop.toml", {quiet}), "high", {}, 1);
    EXPECT_GT(automatic / hushed.average(), 1.2);
    EXPECT_LT(automatic / hushed.average(), 1.7);
    EXPECT_GT(hushed.mean(capture::Sensor::GpuTemperature), 87);
    const double a = played(machineWith("whinbush-laptop.toml", {cold}), "high", {}, 1).average();
    const double b = played(machineWith("whinbush-laptop.toml", {cold, quiet}), "high", {}, 1).average();
    EXPECT_NEAR(a / b, 1, 0.01) << "without heat the fan does not matter";
}

TEST(ChipsTest, TheFirstLapOfAColdMachineMisleads) {
    const auto machine = machineWith("whinbush-laptop.toml", {{"fan_to_c = 88", "fan_to_c = 88\nmost_fan = 0.12"}});
    const auto game = saltmarsh();
    const auto rig = rig::simulatedRig(machine, game);
    run::Order o;
    o.variant.values = game.presets.front().values;
    o.variant.resolution = machine.panel.native;
    o.route = game.routes.front().name;
    o.seconds = game.routes.front().seconds();
    const auto cold = (*rig)->record(o, {true}, {}, {});
    const auto warm = (*rig)->record(o, cold->next, {}, {});
    EXPECT_LT(capture::durationMs(cold->capture) / static_cast<double>(cold->capture.frames()),
              0.95 * capture::durationMs(warm->capture) / static_cast<double>(warm->capture.frames()));
}

TEST(ChipsTest, ACopyRouteTakesMuchFromFastGamesAndLittleFromSlowOnes) {
    const std::pair<std::string, std::string> direct{
        "[rig.copy]\nfixed_ms = 0.8\ngib_per_second = 3.4\nblocking_share = "
        "0.22\n",
        ""};
    const std::pair<std::string, std::string> serial{"blocking_share = 0.22", "blocking_share = 0"};
    const std::pair<std::string, std::string> fast{"gpu_speed = 0.9", "gpu_speed = 7"};
    const std::pair<std::string, std::string> fastCpu{"cpu_speed = 0.9", "cpu_speed = 6"};
    const auto rate = [](const std::vector<std::pair<std::string, std::string>>& replaced) {
        return played(machineWith("sedge-laptop.toml", replaced), "medium", {}, 2).average();
    };
    const double slow = rate({}) / rate({direct}), quick = rate({fast, fastCpu}) / rate({fast, fastCpu, direct});
    EXPECT_LT(slow, 0.97);
    EXPECT_GT(slow, 0.88);
    EXPECT_LT(quick, 0.7);
    EXPECT_GT(quick, 0.3);
    // A pipelined stage alone takes nothing from a slow game.
    EXPECT_GT(rate({serial}) / rate({direct}), 0.99);
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
        const auto rig = rig::simulatedRig(machineWith("whinbush-laptop.toml", {{c.from, c.to}}), saltmarsh());
        ASSERT_FALSE(rig.has_value()) << c.key;
        EXPECT_EQ(rig.error().where.key, c.key);
        EXPECT_EQ(static_cast<int>(rig.error().code), static_cast<int>(c.code)) << c.key;
    }
}
