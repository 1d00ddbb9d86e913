// SPDX-License-Identifier: GPL-3.0-or-later
#include "probe/tree.h"

#include <fstream>
#include <impasto/base/random.h>
#include <impasto/probe/sampler.h>

using namespace impasto;
using namespace impasto::probe;
using capture::Sensor;
using support::put;

namespace {

const capture::Track* trackOf(const std::vector<capture::Track>& tracks, Sensor sensor) {
    const auto it = std::find_if(tracks.begin(), tracks.end(), [&](const auto& t) { return t.sensor == sensor; });
    return it == tracks.end() ? nullptr : &*it;
}

/// All processors, then each: user, nice, system, idle, waiting, interrupts.
void stat(const support::TemporaryFolder& folder, const std::string& all, const std::vector<std::string>& cores) {
    std::string text = "cpu  " + all + "\n";
    for (std::size_t i = 0; i < cores.size(); ++i) text += fmt::format("cpu{} {}\n", i, cores[i]);
    put(folder, "proc/stat", text + "intr 12345 0 0\nctxt 99\n");
}

const std::string gpu = "sys/bus/pci/devices/0000:01:00.0/";

} // namespace

TEST(SamplerTest, LoadsAreWhatPassedSinceTheReadingBefore) {
    const support::TemporaryFolder folder;
    support::desktopIn(folder);
    stat(folder, "100 0 100 800 0 0 0 0 0 0", {"50 0 50 400 0 0 0 0 0 0", "50 0 50 400 0 0 0 0 0 0"});
    Sampler sampler(folder.root());
    sampler.sample(1000);
    EXPECT_EQ(trackOf(sampler.readings(), Sensor::CpuLoad), nullptr) << "nothing has passed yet";
    // Of 200 ticks 50 were work, 40 a wait for the disk: all of them on the second core.
    stat(folder, "140 0 110 910 40 0 0 0 0 0", {"50 0 50 500 0 0 0 0 0 0", "90 0 60 410 40 0 0 0 0 0"});
    sampler.sample(1200);
    const auto all = sampler.readings();
    const auto* load = trackOf(all, Sensor::CpuLoad);
    ASSERT_NE(load, nullptr);
    EXPECT_EQ(load->timeMs, (std::vector<double>{1200}));
    EXPECT_NEAR(load->values[0], 25, 1e-4);
    const auto* busiest = trackOf(all, Sensor::BusiestCore);
    ASSERT_NE(busiest, nullptr);
    EXPECT_NEAR(busiest->values[0], 50, 1e-4);
    // A core that goes away, a counter that falls, a file that is no such list: none is made up.
    for (const char* odd :
         {"cpu  1 0 1 1 0 0 0 0\ncpu0 1 0 1 1 0 0 0 0\n", "cpu  1 0\n", "cpu  a b c d\n", "", "intr 1\n"}) {
        put(folder, "proc/stat", odd);
        sampler.sample(sampler.latest().front().timeMs.front() + 200);
    }
    EXPECT_EQ(trackOf(sampler.readings(), Sensor::CpuLoad)->values.size(), 1U);
}

TEST(SamplerTest, EverySensorInItsUnit) {
    const support::TemporaryFolder folder;
    support::desktopIn(folder);
    put(folder, gpu + "gpu_busy_percent", "97\n");
    put(folder, gpu + "mem_info_vram_used", fmt::format("{}\n", 6000LL << 20U));
    put(folder, gpu + "hwmon/hwmon2/power1_average", "185000000\n");
    put(folder, gpu + "hwmon/hwmon2/freq1_input", "2100000000\n");
    put(folder, gpu + "pp_dpm_sclk", "0: 500Mhz \n1: 2100Mhz *\n2: 2400Mhz \n");
    put(folder, "sys/class/hwmon/hwmon1/fan1_max", "1800\n");
    put(folder, "sys/class/powercap/zone:0/name", "package-0\n");
    put(folder, "sys/class/powercap/zone:0/max_energy_range_uj", "1000000000\n");
    put(folder, "sys/class/powercap/zone:0/energy_uj", "990000000\n");
    Sampler sampler(folder.root());
    sampler.sample(0);
    put(folder, "sys/class/powercap/zone:0/energy_uj", "3000000\n"); // it began anew
    sampler.sample(200);
    const auto now = sampler.latest();
    const auto value = [&](Sensor sensor) {
        const auto* track = trackOf(now, sensor);
        return track == nullptr ? -1.0 : double{track->values.back()};
    };
    EXPECT_EQ(value(Sensor::GpuLoad), 97);
    EXPECT_EQ(value(Sensor::GpuMemory), 6000);
    EXPECT_EQ(value(Sensor::GpuPower), 185);
    EXPECT_NEAR(value(Sensor::GpuClock), 100 * 2100.0 / 2400, 1e-4);
    EXPECT_EQ(value(Sensor::GpuTemperature), 47);
    EXPECT_EQ(value(Sensor::CpuTemperature), 41);
    EXPECT_NEAR(value(Sensor::CpuClock), 100 * 4550.0 / 4600, 1e-4);
    EXPECT_NEAR(value(Sensor::CpuPower), 13 / 0.2, 1e-4);
    EXPECT_EQ(value(Sensor::Fan), 50) << "the faster of the two, against the highest that it says";
    EXPECT_NEAR(value(Sensor::SystemMemory), (16302548 - 12000000) / 1024.0, 0.01);
    EXPECT_EQ(value(Sensor::SystemPower), -1) << "the mouse's battery does not drive the machine";
}

TEST(SamplerTest, ABatteryTellsTheMachinesWattsWhileItDrivesIt) {
    const support::TemporaryFolder folder;
    support::laptopIn(folder);
    put(folder, "sys/class/power_supply/BAT0/voltage_now", "15000000\n");
    Sampler sampler(folder.root());
    sampler.sample(1);
    const auto drawn = sampler.readings();
    ASSERT_NE(trackOf(drawn, Sensor::SystemPower), nullptr);
    EXPECT_NEAR(trackOf(drawn, Sensor::SystemPower)->values[0], 18, 1e-4);
    put(folder, "sys/class/power_supply/BAT0/status", "Charging\n");
    sampler.sample(2);
    EXPECT_EQ(trackOf(sampler.readings(), Sensor::SystemPower)->values.size(), 1U);
}

TEST(SamplerTest, AGpuThatSleepsIsNotWoken) {
    const support::TemporaryFolder folder;
    support::desktopIn(folder);
    put(folder, gpu + "gpu_busy_percent", "3\n");
    put(folder, gpu + "power/runtime_status", "suspended\n");
    Sampler sampler(folder.root());
    sampler.sample(1);
    EXPECT_EQ(trackOf(sampler.readings(), Sensor::GpuLoad), nullptr);
    EXPECT_EQ(trackOf(sampler.readings(), Sensor::GpuTemperature), nullptr);
    EXPECT_NE(trackOf(sampler.readings(), Sensor::CpuClock), nullptr);
    put(folder, gpu + "power/runtime_status", "active\n");
    sampler.sample(2);
    EXPECT_NE(trackOf(sampler.readings(), Sensor::GpuLoad), nullptr);
}

TEST(SamplerTest, TheGpuThatWorksIsReadAndToldWhereItIsAnother) {
    const support::TemporaryFolder folder;
    support::laptopIn(folder);
    const std::string inside = "sys/bus/pci/devices/0000:00:02.0/";
    put(folder, gpu + "gpu_busy_percent", "97\n");
    put(folder, inside + "gpu_busy_percent", "35\n"); // it copies
    {
        Sampler sampler(folder.root());
        sampler.sample(1);
        EXPECT_FALSE(sampler.otherGpu());
        EXPECT_EQ(trackOf(sampler.readings(), Sensor::GpuLoad)->values, (std::vector<float>{97}));
        EXPECT_EQ(trackOf(sampler.readings(), Sensor::SecondGpuLoad)->values, (std::vector<float>{35}));
        EXPECT_EQ(trackOf(sampler.latest(), Sensor::SecondGpuLoad)->values, (std::vector<float>{35}));
    }
    put(folder, gpu + "gpu_busy_percent", "2\n");
    put(folder, inside + "gpu_busy_percent", "99\n");
    for (const bool asleep : {false, true}) {
        if (asleep) put(folder, gpu + "power/runtime_status", "suspended\n");
        Sampler sampler(folder.root());
        sampler.sample(1);
        EXPECT_EQ(sampler.otherGpu(), "Gorse inside");
        EXPECT_EQ(trackOf(sampler.readings(), Sensor::GpuLoad)->values, (std::vector<float>{99}));
        const auto all = sampler.readings();
        const auto* beside = trackOf(all, Sensor::SecondGpuLoad);
        EXPECT_EQ(beside == nullptr, asleep) << "a GPU that sleeps is not woken";
        if (beside != nullptr) EXPECT_EQ(beside->values, (std::vector<float>{2}));
    }
    std::filesystem::remove(folder.path(gpu + "power/runtime_status"));
    std::filesystem::remove(folder.path(gpu + "gpu_busy_percent")); // a driver that does not say
    Sampler sampler(folder.root());
    sampler.sample(1);
    EXPECT_FALSE(sampler.otherGpu());
}

TEST(SamplerTest, AClockWithoutAHighestIsHeldAgainstTheFastestRead) {
    const support::TemporaryFolder folder;
    support::desktopIn(folder);
    put(folder, gpu + "hwmon/hwmon2/freq1_input", "1000000000\n");
    Sampler sampler(folder.root());
    sampler.sample(1);
    put(folder, gpu + "hwmon/hwmon2/freq1_input", "2000000000\n");
    sampler.sample(2);
    const auto tracks = sampler.readings();
    EXPECT_EQ(trackOf(tracks, Sensor::GpuClock)->values, (std::vector<float>{50, 100}));
}

TEST(SamplerTest, WhatIsNotThereOrMakesNoSenseIsNotRead) {
    const support::TemporaryFolder folder;
    Sampler nothing(folder.root());
    nothing.sample(1);
    nothing.sample(2);
    EXPECT_TRUE(nothing.readings().empty());
    support::desktopIn(folder);
    put(folder, gpu + "gpu_busy_percent", "97\n");
    put(folder, "proc/meminfo", "MemTotal: 5 kB\nMemAvailable: 9 kB\n");
    Sampler sampler(folder.root());
    sampler.sample(1);
    RandomStream random(7, "sensors");
    for (int round = 0; round < 300; ++round) {
        for (const char* path : {"gpu_busy_percent", "hwmon/hwmon2/temp1_input", "mem_info_vram_used"}) {
            std::string bytes;
            for (std::uint64_t i = random.below(30); i > 0; --i) bytes += static_cast<char>(random.below(256));
            put(folder, gpu + path, random.below(4) == 0 ? "-1e308\n" : random.below(4) == 0 ? "nan\n" : bytes);
        }
        if (round % 50 == 0) std::filesystem::remove(folder.path(gpu + "gpu_busy_percent"));
        sampler.sample(2 + round);
        sampler.sample(2 + round); // no time passed
    }
    for (const auto& track : sampler.readings()) {
        EXPECT_NE(track.sensor, Sensor::SystemMemory) << "more free than there is";
        EXPECT_EQ(track.timeMs.size(), track.values.size());
        EXPECT_TRUE(std::is_sorted(track.timeMs.begin(), track.timeMs.end()));
        for (const float v : track.values) EXPECT_TRUE(std::isfinite(v) && v >= 0);
        if (track.sensor == Sensor::GpuLoad)
            for (const float v : track.values) EXPECT_LE(v, 100);
    }
}
