// SPDX-License-Identifier: GPL-3.0-or-later
// What an order may ask of the simulated rig beyond values and a cap, and what goes wrong on it.
#include "support/support.h"

#include <impasto/logs/import.h>

#include <cmath>

using namespace impasto;
using namespace impasto::support;

namespace {

const char* const firstPart = "[[rig.part]]";

run::Order orderOf(const game::Game& game, const machine::Machine& machine, const char* preset = "high") {
    run::Order o;
    o.variant.values = game.preset(preset)->values;
    o.variant.resolution = machine.panel.native;
    o.route = game.routes.front().name;
    o.seconds = 20;
    o.seed = 5;
    return o;
}

Result<rig::Recording> recorded(const machine::Machine& machine, const game::Game& game, const run::Order& order,
                                const rig::RigState& state = {1}) {
    return (*rig_sim::simulatedRig(originals(), machine, game))->record(order, state, {}, {});
}

} // namespace

TEST(OrderTest, SomeValuesWaitForAReload) {
    const auto machine = tower();
    const auto game = gameNamed("rainmarket.toml");
    const auto first = recorded(machine, game, orderOf(game, machine));
    EXPECT_EQ(first->next.applied.at("textures"), "high");
    auto lower = orderOf(game, machine);
    lower.variant.values["textures"] = "low";
    lower.variant.values["shadows"] = "low";
    lower.conditions.reload = false;
    const auto without = recorded(machine, game, lower, first->next);
    EXPECT_EQ(capture::fingerprintOf(without->capture), capture::fingerprintOf(first->capture)) << "nothing changed";
    EXPECT_EQ(without->next.applied.at("textures"), "high");
    lower.conditions.reload = true;
    const auto with = recorded(machine, game, lower, without->next);
    EXPECT_GT(with->capture.frames(), first->capture.frames());
    EXPECT_LT(*capture::trackMean(with->capture, capture::Sensor::GpuMemory),
              *capture::trackMean(first->capture, capture::Sensor::GpuMemory) - 1000);
    auto crowd = orderOf(game, machine);
    crowd.variant.values["crowd"] = "few";
    crowd.conditions.reload = false;
    EXPECT_NE(capture::fingerprintOf(recorded(machine, game, crowd, first->next)->capture),
              capture::fingerprintOf(first->capture))
        << "others take effect at once";
}

TEST(OrderTest, ASettingMaySayTheOutput) {
    const auto game = gameNamed("peat-barge.toml");
    const auto machine = machineNamed("whinbush-laptop.toml"); // frames are copied to another chip
    auto order = orderOf(game, machine, "usual");
    const auto work = [&](const char* output, const char* upscaling) {
        order.variant.values["resolution"] = output;
        order.variant.values["upscaling"] = upscaling;
        return capture::trackMean(recorded(machine, game, order)->capture, capture::Sensor::GpuMemory);
    };
    const auto frames = [&](const char* output, const char* upscaling) {
        order.variant.values["resolution"] = output;
        order.variant.values["upscaling"] = upscaling;
        return recorded(machine, game, order)->capture.frames();
    };
    EXPECT_GT(frames("1280x720", "off"), frames("1920x1080", "off"));
    EXPECT_GT(frames("1920x1080", "off"), 1.2 * static_cast<double>(frames("2560x1440", "off")));
    EXPECT_GT(frames("1920x1080", "off"), frames("2560x1440", "temporal 1.5"))
        << "fewer are rendered there, but the output is made, and copied, at its full size";
    EXPECT_LT(*work("1280x720", "off"), *work("2560x1440", "off"));
    const auto other = [&](display::Resolution resolution) {
        order.variant.resolution = resolution;
        return capture::fingerprintOf(recorded(machine, game, order)->capture);
    };
    EXPECT_EQ(other({640, 360}), other(machine.panel.native)) << "the setting stands above what is asked besides";
}

TEST(OrderTest, TheStateIsStoredWithWhatIsApplied) {
    rig::RigState state{0.25, {}, {{"textures", "very high %"}, {"shadows", "low"}}};
    EXPECT_EQ(rig::textOf(state), "shaders=0.25 applied.shadows=low applied.textures=very%20high%20%25");
    EXPECT_EQ(*rig::stateOf(rig::textOf(state)), state);
    for (const char* bad : {"shaders=2", "shaders=-0.1", "applied.textures=very%2", "shaders=half"})
        EXPECT_EQ(rig::stateOf(bad).error().code, ErrorCode::BadValue) << bad;
}

TEST(OrderTest, ShadersMetInOneRunAreNotMetAgain) {
    const auto machine = tower();
    const auto game = gameNamed("rainmarket.toml");
    auto order = orderOf(game, machine);
    const auto slow = [&](const rig::RigState& state) {
        const auto run = recorded(machine, game, order, state);
        const auto& cpu = *run->capture.cpuWorkMs;
        return std::count_if(cpu.begin(), cpu.end(), [](double ms) { return ms > 17; });
    };
    const auto first = recorded(machine, game, order, {});
    EXPECT_NEAR(first->next.shadersMet, 1.0 / 3, 0.02) << "20 of 60 seconds";
    const auto usual = slow({1});
    EXPECT_EQ(slow(first->next), usual);
    EXPECT_GT(slow({}), usual + 5);
    order.conditions.driverUpdated = true;
    EXPECT_GT(slow({1}), usual + 5);
    order.conditions.driverUpdated = false;
    order.conditions.warmUpSeconds = 20;
    EXPECT_LT(slow({}), usual + 5) << "playing before the recording meets them";
}

TEST(OrderTest, APanelModeIsTheRefresh) {
    const auto machine = machineNamed("curlew-pocket.toml");
    const auto game = gameNamed("lantern-orchard.toml");
    auto order = orderOf(game, machine, "low");
    order.variant.sync = run::Sync::Fixed;
    for (const double mode : {60.0, 70.0, 90.0}) {
        order.variant.refresh = Hertz(mode);
        const auto run = recorded(machine, game, order);
        for (const double ms : run->capture.framesMs) ASSERT_NEAR(std::remainder(ms, 1000 / mode), 0, 1e-6) << mode;
    }
}

TEST(OrderTest, SharpeningCostsALittle) {
    const auto machine = machineNamed("fenwick-duo.toml");
    const auto game = gameNamed("rainmarket.toml");
    auto order = orderOf(game, machine);
    const auto off = recorded(machine, game, order)->capture.frames();
    order.variant.sharpening = 0.4;
    const auto on = recorded(machine, game, order)->capture.frames();
    EXPECT_LT(on, off);
    EXPECT_GT(static_cast<double>(on), 0.95 * static_cast<double>(off));
}

TEST(OrderTest, WhatGameOrMachineLackIsRefused) {
    const auto machine = tower();
    const auto game = gameNamed("rainmarket.toml");
    using Change = std::function<void(run::Order&)>;
    struct Case {
        Change change;
        ErrorCode code;
        const char* key;
    };
    const Case cases[] = {{[](run::Order& o) { o.route = "nowhere"; }, ErrorCode::UnknownName, "route"},
                          {[](run::Order& o) { o.variant.values["crowd"] = "all"; }, ErrorCode::UnknownName, "crowd"},
                          {[](run::Order& o) { o.variant.refresh = Hertz(75); }, ErrorCode::UnknownName, "refresh"},
                          {[](run::Order& o) {
                               o.variant.upscaling = {game::UpscalerKind::Engine, 1.5};
                           },
                           ErrorCode::UnknownName, "upscaling"},
                          {[](run::Order& o) {
                               o.variant.upscaling = {game::UpscalerKind::Spatial, 0.5};
                           },
                           ErrorCode::OutOfRange, "upscaling"},
                          {[](run::Order& o) { o.variant.sharpening = 2; }, ErrorCode::OutOfRange, "sharpening"},
                          {[](run::Order& o) {
                               o.variant.generation = run::Generation{run::GenerationKind::External, 2, {}, true};
                           },
                           ErrorCode::UnknownName, "generation"},
                          {[](run::Order& o) { o.variant.direct = true; }, ErrorCode::UnknownName, "copy_route"}};
    for (const auto& c : cases) {
        auto order = orderOf(game, machine);
        c.change(order);
        const auto run = recorded(machine, game, order);
        ASSERT_FALSE(run.has_value()) << c.key;
        EXPECT_EQ(static_cast<int>(run.error().code), static_cast<int>(c.code)) << c.key;
        EXPECT_EQ(run.error().where.key, c.key);
    }
    const auto duo = machineNamed("fenwick-duo.toml");
    auto order = orderOf(game, duo);
    order.variant.generation = run::Generation{run::GenerationKind::External, 40};
    EXPECT_EQ(recorded(duo, game, order).error().code, ErrorCode::OutOfRange);
    order.variant.generation = run::Generation{run::GenerationKind::BuiltIn, 2, {}, true};
    EXPECT_EQ(recorded(duo, game, order).error().code, ErrorCode::UnknownName) << "its own frames stay at home";
}

TEST(OrderTest, BrokenTablesGiveOneClearMessageEach) {
    struct Case {
        const char *from, *to, *key;
        ErrorCode code;
    };
    const Case ofGame[] = {
        {"gpu_ms = [0.6, 1.15, 1.9, 2.8]", "gpu_ms = [0.6, 1.15, 1.9, -2.8]", "rig.cost.shadows.gpu_ms",
         ErrorCode::OutOfRange},
        {"gpu_ms = [0.6, 1.15, 1.9, 2.8]", "gpu_ms = [0.6, 1.15]", "rig.cost.shadows.gpu_ms", ErrorCode::BadValue},
        {"cpu_ms = 2.6\n", "", "rig.cpu_ms", ErrorCode::MissingKey},
        {"cpu_ms = 2.6\n", "cpu_ms = \"2.6 ms\"\n", "rig.cpu_ms", ErrorCode::OutOfRange},
        {"weights = { crowd = 0.6", "weights = { crowds = 0.6", "rig.part[0].weights.crowds", ErrorCode::UnknownName},
        {"waits_for_reload = [\"shadows\"", "waits_for_reload = [\"shadow\"", "rig.waits_for_reload",
         ErrorCode::UnknownName},
        {"temporal = 0.22", "magic = 0.22", "rig.upscaler_per_mpix_ms.magic", ErrorCode::UnknownName},
        {firstPart, "[[rig.crash]]\nsetting = \"crowd\"\nlevel = \"all\"\n[[rig.part]]", "rig.crash[0].level",
         ErrorCode::UnknownName},
        {"turn = 0.04", "turns = 0.04", "rig.noise.turns", ErrorCode::UnknownName},
        {"still_seconds = 7", "still_seconds = -7", "rig.part[3].still_seconds", ErrorCode::OutOfRange}};
    const auto check = [](const Result<std::unique_ptr<rig::Rig>>& rig, const Case& c) {
        ASSERT_FALSE(rig.has_value()) << c.key;
        EXPECT_EQ(rig.error().where.key, c.key);
        EXPECT_EQ(static_cast<int>(rig.error().code), static_cast<int>(c.code)) << c.key;
        if (c.code != ErrorCode::MissingKey) EXPECT_TRUE(rig.error().where.line) << c.key; // a table may lack
        EXPECT_FALSE(rig.error().where.file.empty()) << c.key;
    };
    for (const auto& c : ofGame)
        check(rig_sim::simulatedRig(originals(), tower(), gameWith("rainmarket.toml", {{c.from, c.to}})), c);
    const Case ofMachine[] = {
        {"speed = 0.62", "speed = 0", "rig.second_gpu.speed", ErrorCode::OutOfRange},
        {"second_gpu = \"Alder 2\"\n", "", "rig.second_gpu", ErrorCode::UnknownName},
        {"second_gpu = \"Alder 2\"\n", "second_gpu = \"Alder 2\"\ncopy_route = true\n", "rig.copy.fixed_ms",
         ErrorCode::MissingKey},
        {"outside_per_mpix_ms = 1.6", "", "rig.generation.outside_per_mpix_ms", ErrorCode::MissingKey},
        {"sharpening_per_mpix_ms = 0.06", "sharpening_per_mpix_ms = -1", "rig.sharpening_per_mpix_ms",
         ErrorCode::OutOfRange}};
    for (const auto& c : ofMachine)
        check(rig_sim::simulatedRig(originals(), machineWith("fenwick-duo.toml", {{c.from, c.to}}),
                                    gameNamed("rainmarket.toml")),
              c);
}

TEST(OrderTest, ACrashKeepsWhatThereWas) {
    const auto machine = tower();
    const auto game = gameWith(
        "rainmarket.toml", {{firstPart, "[[rig.crash]]\nsetting = \"traced_light\"\nlevel = \"on\"\n\n[[rig.part]]"}});
    auto order = orderOf(game, machine);
    const auto before = recorded(machine, game, order);
    EXPECT_FALSE(before->crashed);
    order.variant.values["traced_light"] = "on";
    const auto crashed = recorded(machine, game, order, before->next);
    ASSERT_TRUE(crashed.has_value());
    EXPECT_TRUE(crashed->crashed);
    EXPECT_GT(crashed->capture.frames(), 10U);
    EXPECT_LT(capture::durationMs(crashed->capture), 0.5 * 20000);
    EXPECT_EQ(crashed->next.applied, before->next.applied) << "it was never really applied";
    rig::RigState applied{1, {}, {{"traced_light", "on"}}};
    EXPECT_FALSE(recorded(machine, game, order, applied)->crashed) << "only when it is new";
}

TEST(OrderTest, AToolMayMakeTheGpuIdle) {
    const auto game = gameNamed("rainmarket.toml");
    const auto run = [&](const Changes& changes, run::GenerationKind kind) {
        const auto machine = machineWith("marram-desktop.toml", changes);
        auto order = orderOf(game, machine, "medium");
        order.seconds = 60;
        order.variant.generation = run::Generation{kind};
        return std::move(recorded(machine, game, order)->capture);
    };
    const Changes faulty{{"[rig.generation]", "[[rig.idle_fault]]\nwait_ms = 60\n\n[rig.generation]"}};
    const auto sound = run({}, run::GenerationKind::External), idle = run(faulty, run::GenerationKind::External);
    const auto last = [](const capture::Capture& c, capture::Sensor sensor) {
        return static_cast<double>(c.track(sensor)->values.back());
    };
    EXPECT_LT(idle.frames(), sound.frames() / 2) << "the rate collapses";
    EXPECT_LT(last(idle, capture::Sensor::GpuLoad), 45) << "while the load falls";
    EXPECT_LT(last(idle, capture::Sensor::GpuPower), 0.6 * last(sound, capture::Sensor::GpuPower));
    EXPECT_EQ(capture::fingerprintOf(run(faulty, run::GenerationKind::Driver)),
              capture::fingerprintOf(run({}, run::GenerationKind::Driver)))
        << "left out, all is well";
}

TEST(OrderTest, InventedAndLostFramesAreKeptInFiles) {
    const auto machine = tower();
    const auto game = gameNamed("lantern-orchard.toml");
    auto order = orderOf(game, machine);
    order.variant.sync = run::Sync::Latest;
    const auto lost = recorded(machine, game, order)->capture;
    ASSERT_TRUE(lost.lost);
    const auto headset = machineNamed("plover-headset.toml");
    const auto ridge = gameNamed("chalk-ridge.toml");
    const auto filled = recorded(headset, ridge, orderOf(ridge, headset, "clear"))->capture;
    ASSERT_TRUE(filled.invented);
    for (const auto* c : {&lost, &filled}) {
        const auto back = logs::readLogText(logs::writeCsv(*c));
        ASSERT_TRUE(back.has_value());
        EXPECT_EQ(capture::fingerprintOf(*back), capture::fingerprintOf(*c));
    }
}

TEST(OrderTest, LoadsAreMeansOfASecondAndTemperaturesComeLate) {
    const auto game = gameNamed("lantern-orchard.toml");
    const auto machine = machineNamed("marram-desktop.toml");
    auto order = orderOf(game, machine);
    order.seconds = 60;
    const auto cold = recorded(machine, game, order)->capture;
    const auto* load = cold.track(capture::Sensor::GpuLoad);
    for (std::size_t i = 1; i < load->values.size(); ++i) {
        EXPECT_LE(load->values[i], 100.0F);
        EXPECT_GE(load->timeMs[i] - load->timeMs[i - 1], 499) << "slow readings";
    }
    const auto* warmth = cold.track(capture::Sensor::GpuTemperature);
    EXPECT_LT(warmth->values.front(), 30);
    EXPECT_GT(warmth->values.back(), 45);
}
