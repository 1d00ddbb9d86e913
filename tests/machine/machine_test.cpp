// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

using namespace impasto;
using namespace impasto::machine;

TEST(MachineTest, ShippedMachinesParseAndWriteBackEqual) {
    std::size_t machines = 0;
    for (const auto& entry : std::filesystem::directory_iterator(support::dataFile("machines"))) {
        ++machines;
        const std::string file = entry.path().filename().string();
        const Machine m = support::machineNamed(file);
        const auto back = parseMachine(toToml(m), "again");
        ASSERT_TRUE(back.has_value()) << file;
        EXPECT_EQ(back->panel, m.panel);
        EXPECT_EQ(back->gpuMemory, m.gpuMemory);
        EXPECT_EQ(back->cpu, m.cpu);
        EXPECT_EQ(back->secondGpu, m.secondGpu);
        EXPECT_EQ(back->copyRoute, m.copyRoute);
    }
    EXPECT_EQ(machines, 8U);
}

TEST(MachineTest, FaultsNameTheKey) {
    const std::string good =
        "name = \"m\"\ngpu_memory_gib = 8\nsystem_memory_gib = 16\n[panel]\nnative = \"1920x1080\"\nrefresh_hz = 60\n";
    EXPECT_TRUE(parseMachine(good, "m").has_value());
    EXPECT_EQ(parseMachine(good + "variable_lowest_hz = 90\nvariable_highest_hz = 60\n", "m").error().where.key,
              "panel.variable_lowest_hz");
    EXPECT_EQ(parseMachine("cpu = \"c\"\n", "m").error().where.key, "name");
    EXPECT_EQ(parseMachine(good + "colour = 3\n", "m").error().code, ErrorCode::UnknownName);
    EXPECT_EQ(parseMachine(good + "modes_hz = [75, 90]\n", "m").error().where.key, "panel.refresh_hz");
    EXPECT_EQ(parseMachine(good + "headset = \"yes\"\n", "m").error().where.key, "panel.headset");
    // MiB for GiB, and text for a number.
    const auto mib = parseMachine("name = \"m\"\ngpu_memory_gib = 8192\n", "m.toml");
    EXPECT_EQ(mib.error().code, ErrorCode::OutOfRange);
    EXPECT_EQ(mib.error().where.line, 2U);
    EXPECT_EQ(parseMachine("name = \"m\"\ngpu_memory_gib = \"8 GiB\"\n", "m").error().where.key, "gpu_memory_gib");
}

TEST(MachineTest, WhatIsNotKnownStaysUnknown) {
    const auto m = parseMachine("name = \"m\"\n", "m");
    ASSERT_TRUE(m.has_value()) << m.error().what;
    EXPECT_EQ(m->gpuMemory, Mebibytes(0));
    EXPECT_EQ(m->systemMemory, Mebibytes(0));
    EXPECT_EQ(m->cores, 0);
    EXPECT_EQ(m->panel, display::Panel{});
    const auto text = toToml(*m);
    EXPECT_EQ(text.find("memory"), std::string::npos) << text;
    EXPECT_EQ(text.find("panel"), std::string::npos) << text;
    EXPECT_EQ(parseMachine(text, "m")->panel, display::Panel{});
    // A part of the panel alone.
    const auto refresh = parseMachine("name = \"m\"\n[panel]\nrefresh_hz = 60\n", "m");
    ASSERT_TRUE(refresh.has_value());
    EXPECT_EQ(refresh->panel.native.widthPx, 0);
    EXPECT_EQ(parseMachine(toToml(*refresh), "m")->panel, refresh->panel);
}
