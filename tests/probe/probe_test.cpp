// SPDX-License-Identifier: GPL-3.0-or-later
#include "probe/tree.h"

#include <fstream>
#include <impasto/base/random.h>
#include <impasto/probe/edid.h>
#include <sys/stat.h>

using namespace impasto;
using namespace impasto::probe;
using machine::numberIn;
using machine::wordIn;
using support::put;

namespace {

Probed probedIn(const support::TemporaryFolder& folder, std::vector<Screen> screens = {}) {
    auto read = readMachine({folder.root(), std::move(screens), 1780000000, {}});
    EXPECT_TRUE(read.has_value());
    return read ? *read : Probed{};
}

bool isMissing(const Probed& read, Missing what) {
    return std::find(read.missing.begin(), read.missing.end(), what) != read.missing.end();
}

} // namespace

TEST(ProbeTest, ADesktop) {
    const support::TemporaryFolder folder;
    support::desktopIn(folder);
    const auto read = probedIn(folder, {{"DP-1", {2560, 1440}, Hertz(59.95)}});
    const auto& m = read.machine;
    EXPECT_EQ(m.name, "This machine"); // a maker's filler is no name
    EXPECT_EQ(m.cpu, "Thornbury 8");
    EXPECT_EQ(m.cores, 8);
    EXPECT_EQ(numberIn(m.facts, "cpu.threads"), 16);
    EXPECT_EQ(numberIn(m.facts, "cpu.now_mhz"), 4550);
    EXPECT_EQ(numberIn(m.facts, "cpu.highest_mhz"), 4600);
    EXPECT_EQ(m.systemMemory, Mebibytes(16 * 1024));
    EXPECT_EQ(m.gpu, "Marl 8");
    EXPECT_EQ(m.gpuMemory, Mebibytes(8192));
    EXPECT_EQ(wordIn(m.facts, "gpu.integrated"), "no");
    EXPECT_EQ(numberIn(m.facts, "gpu.window_mib"), 256);
    EXPECT_EQ(numberIn(m.facts, "gpu.link_lanes"), 8);
    EXPECT_EQ(numberIn(m.facts, "gpu.link_best_lanes"), 16);
    EXPECT_EQ(numberIn(m.facts, "gpu.link_gts"), 2.5);
    EXPECT_EQ(m.panel.native, (display::Resolution{2560, 1440}));
    EXPECT_NEAR(m.panel.refresh.value(), 143.97, 0.02);
    ASSERT_TRUE(m.panel.variable.has_value());
    EXPECT_EQ(m.panel.variable->lowest, Hertz(48));
    EXPECT_EQ(numberIn(m.facts, "panel.now_hz"), 59.95);
    EXPECT_EQ(wordIn(m.facts, "panel.wired_to"), "gpu");
    EXPECT_EQ(wordIn(m.facts, "power.battery"), "no"); // the mouse's does not drive the machine
    EXPECT_EQ(wordIn(m.facts, "power.mains"), "yes");
    EXPECT_EQ(numberIn(m.facts, "heat.cpu_c"), 41);
    EXPECT_EQ(numberIn(m.facts, "heat.cpu_limit_c"), 95);
    EXPECT_EQ(numberIn(m.facts, "heat.gpu_c"), 47);
    EXPECT_EQ(numberIn(m.facts, "fans.turning"), 1);
    EXPECT_EQ(wordIn(m.facts, "system.virtual"), "no");
    EXPECT_EQ(m.readAt, 1780000000);
    EXPECT_EQ(read.missing, std::vector<Missing>{Missing::MemorySpeed});
}

TEST(ProbeTest, ALaptopWithACopyRoute) {
    const support::TemporaryFolder folder;
    support::laptopIn(folder);
    const auto read = probedIn(folder);
    const auto& m = read.machine;
    EXPECT_EQ(m.name, "Whinbush laptop");
    EXPECT_EQ(m.gpu, "Marl 9"); // the one with memory of its own, though the system starts on the other
    EXPECT_EQ(m.secondGpu, "Gorse inside");
    EXPECT_EQ(wordIn(m.facts, "second.integrated"), "yes");
    EXPECT_EQ(wordIn(m.facts, "panel.wired_to"), "second");
    EXPECT_TRUE(m.copyRoute);
    EXPECT_EQ(wordIn(m.facts, "power.mains"), "no");
    EXPECT_EQ(numberIn(m.facts, "power.battery_wh"), 75);
    EXPECT_EQ(numberIn(m.facts, "power.battery_new_wh"), 90);
    EXPECT_EQ(numberIn(m.facts, "power.draw_w"), 18);
    EXPECT_EQ(wordIn(m.facts, "system.profile"), "quiet");
    EXPECT_EQ(wordIn(m.facts, "cpu.preference"), "power");
    EXPECT_TRUE(isMissing(read, Missing::RefreshNow));
    EXPECT_TRUE(isMissing(read, Missing::Fans));
}

TEST(ProbeTest, AHandheld) {
    const support::TemporaryFolder folder;
    support::handheldIn(folder);
    const auto read = probedIn(folder, {{"", {1280, 800}, Hertz(60)}});
    const auto& m = read.machine;
    EXPECT_EQ(wordIn(m.facts, "system.kind"), "handheld");
    EXPECT_EQ(wordIn(m.facts, "gpu.integrated"), "yes");
    EXPECT_FALSE(m.facts.contains("gpu.window_mib")); // its memory is the system's
    EXPECT_FALSE(m.panel.variable.has_value());
    EXPECT_EQ(m.panel.refresh, Hertz(60));
    EXPECT_EQ(wordIn(m.facts, "power.mains"), "yes"); // by the plug for charging
    EXPECT_EQ(numberIn(m.facts, "power.battery_wh"), 40);
    EXPECT_EQ(m.systemMemory, Mebibytes(12 * 1024));
    EXPECT_FALSE(m.copyRoute);
    EXPECT_TRUE(m.secondGpu.empty());
}

TEST(ProbeTest, AVirtualMachineWithNothing) {
    const support::TemporaryFolder folder;
    put(folder, "proc/cpuinfo", "processor : 0\nflags : fpu hypervisor\n\n");
    const auto read = probedIn(folder);
    const auto& m = read.machine;
    EXPECT_EQ(m.cpu, "not said");
    EXPECT_EQ(m.gpu, "not said");
    EXPECT_EQ(m.cores, 1);
    EXPECT_EQ(m.panel, display::Panel{});
    EXPECT_EQ(wordIn(m.facts, "system.virtual"), "yes");
    EXPECT_FALSE(m.facts.contains("power.mains")); // nothing tells of power at all
    EXPECT_EQ(read.missing.size(), 7U);
    // And where there is no such system: an error, and nothing is made up.
    const support::TemporaryFolder empty;
    const auto none = readMachine({empty.root(), {}, 0, {}});
    ASSERT_FALSE(none.has_value());
    EXPECT_EQ(none.error().code, ErrorCode::CannotRead);
}

TEST(ProbeTest, WhatItReadIsADescriptionThatReadsBack) {
    const support::TemporaryFolder folder;
    support::laptopIn(folder);
    const auto m = probedIn(folder).machine;
    const auto again = machine::parseMachine(toToml(m), "again");
    ASSERT_TRUE(again.has_value()) << again.error().what;
    EXPECT_EQ(again->facts, m.facts);
    EXPECT_EQ(again->panel, m.panel);
    EXPECT_EQ(again->readAt, m.readAt);
    EXPECT_EQ(again->mark, m.mark);
    EXPECT_FALSE(again->simulated);
}

TEST(ProbeTest, MemoryModulesOfTheFirmwareTable) {
    // Two modules of structure 17, one empty slot between them, and the end.
    const auto module = [](int sizeMib, int rated, int set) {
        std::string s(0x22, '\0');
        s[0] = 17;
        s[1] = 0x22;
        const auto word = [&s](std::size_t at, int v) {
            s[at] = static_cast<char>(v & 255);
            s[at + 1] = static_cast<char>(v >> 8);
        };
        word(0x0c, sizeMib);
        word(0x15, rated);
        word(0x20, set);
        return s + std::string("A slot\0\0", 8);
    };
    const std::string end("\x7f\x04\0\0\0\0", 6);
    const support::TemporaryFolder folder;
    support::desktopIn(folder);
    put(folder, "sys/firmware/dmi/tables/DMI",
        module(8192, 3600, 3200) + module(0, 0, 0) + module(8192, 3600, 3200) + end);
    const auto facts = probedIn(folder).machine.facts;
    EXPECT_EQ(numberIn(facts, "memory.modules"), 2);
    EXPECT_EQ(numberIn(facts, "memory.speed_mts"), 3200);
    EXPECT_EQ(numberIn(facts, "memory.rated_mts"), 3600);
}

TEST(ProbeTest, MemoryIsWhatModulesComeTo) {
    const std::pair<double, double> shownAndBuiltIn[] = {{62.6, 64}, {15.4, 16}, {31.1, 32}, {7.6, 8},    {11.3, 12},
                                                         {24, 24},   {40, 40},   {0.4, 0.5}, {300.2, 301}};
    for (const auto& [shown, builtIn] : shownAndBuiltIn) {
        const support::TemporaryFolder folder;
        put(folder, "proc/meminfo", fmt::format("MemTotal: {:.0f} kB\n", shown * 1024 * 1024));
        EXPECT_EQ(probedIn(folder).machine.systemMemory, Mebibytes(1024 * builtIn)) << shown;
    }
}

TEST(ProbeTest, NamesOfDevices) {
    const char* list = "1000  One\n\t0001  Plain\n\t0002  Long name [Short]\n2000  Two\n\t0001  Other\n";
    EXPECT_EQ(pciName(list, 0x1000, 1), "Plain");
    EXPECT_EQ(pciName(list, 0x1000, 2), "Short");
    EXPECT_EQ(pciName(list, 0x2000, 1), "Other");
    EXPECT_EQ(pciName(list, 0x2000, 2), std::nullopt);
    EXPECT_EQ(pciName(list, 0x3000, 1), std::nullopt);
    EXPECT_EQ(pciName("", 1, 1), std::nullopt);
}

TEST(ProbeTest, OddFilesAreLeftOutOneByOne) {
    const support::TemporaryFolder folder;
    support::desktopIn(folder);
    put(folder, "sys/bus/pci/devices/0000:01:00.0/mem_info_vram_total", "-5\n");
    put(folder, "sys/bus/pci/devices/0000:01:00.0/current_link_width", "63\n");
    put(folder, "sys/bus/pci/devices/0000:01:00.0/resource", std::string(3000, 'x'));
    put(folder, "sys/devices/system/cpu/cpu3/cpufreq/scaling_cur_freq", "<unknown>\n");
    put(folder, "sys/class/dmi/id/product_name", "\x1b[31m red \xff\xfe\n");
    put(folder, "sys/class/drm/card0-DP-1/edid", std::string(200, '\7'));
    put(folder, "proc/loadavg", "");
    put(folder, "sys/class/hwmon/hwmon0/temp1_input", std::string(100000, '4'));
    std::filesystem::create_directories(folder.path("sys/firmware/acpi/platform_profile"));
    ASSERT_EQ(::mkfifo(folder.path("sys/class/hwmon/hwmon1/fan3_input").c_str(), 0600), 0);
    const auto read = probedIn(folder);
    EXPECT_EQ(read.machine.gpuMemory, Mebibytes(0));
    EXPECT_FALSE(read.machine.facts.contains("gpu.link_lanes"));
    EXPECT_FALSE(read.machine.facts.contains("gpu.window_mib"));
    EXPECT_FALSE(read.machine.facts.contains("heat.cpu_c"));
    EXPECT_FALSE(read.machine.facts.contains("system.profile"));
    EXPECT_EQ(read.machine.panel, display::Panel{});
    EXPECT_EQ(numberIn(read.machine.facts, "cpu.now_mhz"), 4550);
    EXPECT_EQ(read.machine.name.find('\x1b'), std::string::npos);
    EXPECT_TRUE(machine::parseMachine(toToml(read.machine), "m").has_value());
}

TEST(ProbeTest, EveryFileCutAndChangedNeverEndsTheProgram) {
    auto random = RandomStream(7, "probe");
    std::vector<std::filesystem::path> files;
    const support::TemporaryFolder folder;
    support::laptopIn(folder);
    for (const auto& entry : std::filesystem::recursive_directory_iterator(folder.root()))
        if (entry.is_regular_file()) files.push_back(entry.path());
    for (int round = 0; round < 300; ++round) {
        const auto& file = files[random.below(files.size())];
        const std::string whole = support::textOf(file);
        std::string bytes = whole;
        for (int k = 0; k < 4 && !bytes.empty(); ++k)
            bytes[random.below(bytes.size())] = static_cast<char>(random.below(256));
        if (round % 3 == 0) bytes.resize(random.below(bytes.size() + 1));
        std::ofstream(file, std::ios::binary) << bytes;
        const auto read = readMachine({folder.root(), {}, 1, {}});
        ASSERT_TRUE(read.has_value()) << file << ": " << read.error().what;
        std::ofstream(file, std::ios::binary) << whole;
    }
}

TEST(ProbeTest, CancelledBeforeItEnds) {
    const support::TemporaryFolder folder;
    support::desktopIn(folder);
    std::stop_source stop;
    stop.request_stop();
    EXPECT_EQ(readMachine({folder.root(), {}, 0, {stop.get_token(), {}}}).error().code, ErrorCode::Cancelled);
}

TEST(EdidTest, ABadFirstBlockIsRefusedABadLaterOnePassedOver) {
    const auto good = support::edidOf(2560, 1440, 144, 48, 144);
    EXPECT_TRUE(parseEdid(good).has_value());
    for (std::size_t i = 0; i < good.size(); ++i) {
        std::string bad = good;
        bad[i] = static_cast<char>(bad[i] ^ 1);
        EXPECT_FALSE(parseEdid(bad).has_value()) << i; // every byte is in the sum
    }
    EXPECT_FALSE(parseEdid(good.substr(0, 127)).has_value());
    EXPECT_FALSE(parseEdid("").has_value());
    EXPECT_TRUE(parseEdid(good + std::string(128, '\2')).has_value());
    EXPECT_EQ(parseEdid(good)->native, (display::Resolution{2560, 1440}));
}
