// SPDX-License-Identifier: GPL-3.0-or-later
#include "probe/tree.h"

#include <cmath>

namespace impasto::support {
namespace {

std::string cpuInfo(const std::string& name, int cores, int threadsPerCore, const std::string& flags = "fpu sse2") {
    std::string out;
    for (int t = 0; t < cores * threadsPerCore; ++t)
        out += fmt::format("processor\t: {}\nmodel name\t: {}\nphysical id\t: 0\ncore id\t\t: {}\nflags\t\t: {}\n\n", t,
                           name, t % cores, flags);
    return out;
}

void clocks(const TemporaryFolder& folder, int threads, int nowMhz, int highestMhz, const std::string& preference) {
    for (int t = 0; t < threads; ++t) {
        const std::string at = fmt::format("sys/devices/system/cpu/cpu{}/cpufreq/", t);
        put(folder, at + "scaling_cur_freq", fmt::format("{}\n", 1000 * (nowMhz - 10 * t)));
        put(folder, at + "cpuinfo_max_freq", fmt::format("{}\n", 1000 * highestMhz));
        put(folder, at + "scaling_governor", "powersave\n");
        put(folder, at + "energy_performance_preference", preference + "\n");
    }
}

struct Pci {
    std::string address, vendor, device, driver;
    long long memoryMib = 0, windowMib = 0;
    int lanes = 0, bestLanes = 0;
    bool first = false;
};

void gpu(const TemporaryFolder& folder, const Pci& pci) {
    const std::string at = "sys/bus/pci/devices/" + pci.address + "/";
    put(folder, at + "class", "0x030000\n");
    put(folder, at + "vendor", "0x" + pci.vendor + "\n");
    put(folder, at + "device", "0x" + pci.device + "\n");
    put(folder, at + "uevent", fmt::format("DRIVER={}\nPCI_CLASS=30000\nPCI_SLOT_NAME={}\n", pci.driver, pci.address));
    put(folder, at + "boot_vga", pci.first ? "1\n" : "0\n");
    if (pci.memoryMib > 0) put(folder, at + "mem_info_vram_total", fmt::format("{}\n", pci.memoryMib << 20U));
    if (pci.windowMib > 0)
        put(folder, at + "resource",
            fmt::format("0x{:016x} 0x{:016x} 0x000000000014220c\n0x00000000fc000000 0x00000000fc0fffff "
                        "0x0000000000040200\n0x0000000000000000 0x0000000000000000 0x0000000000000000\n",
                        0x6000000000LL, 0x6000000000LL + (pci.windowMib << 20U) - 1));
    if (pci.lanes == 0) return;
    put(folder, at + "current_link_speed", "2.5 GT/s PCIe\n");
    put(folder, at + "max_link_speed", "16.0 GT/s PCIe\n");
    put(folder, at + "current_link_width", fmt::format("{}\n", pci.lanes));
    put(folder, at + "max_link_width", fmt::format("{}\n", pci.bestLanes));
}

void connector(const TemporaryFolder& folder, const std::string& card, const std::string& name,
               const std::string& address, const std::string& edid) {
    put(folder, "sys/class/drm/" + card + "/device/uevent", "PCI_SLOT_NAME=" + address + "\n");
    const std::string at = "sys/class/drm/" + card + "-" + name + "/";
    put(folder, at + "status", edid.empty() ? "disconnected\n" : "connected\n");
    put(folder, at + "enabled", edid.empty() ? "disabled\n" : "enabled\n");
    put(folder, at + "edid", edid);
}

constexpr const char* names = "# A list of devices\n"
                              "aaaa  Marl Works\n"
                              "\t0008  Marl core [Marl 8]\n"
                              "\t\taaaa 0001  Marl 8 with two fans\n"
                              "\t0009  Marl 9\n"
                              "bbbb  Gorse Works\n"
                              "\t0008  Gorse inside\n"
                              "C 03  Display controller\n";

} // namespace

void put(const TemporaryFolder& folder, const std::string& path, std::string_view bytes) {
    std::filesystem::create_directories(folder.path(path).parent_path());
    (void)folder.write(path, bytes);
}

std::string edidOf(int width, int height, double hz, int low, int high, const std::string& name) {
    std::string b(128, '\0');
    const auto set = [&b](std::size_t i, int v) { b[i] = static_cast<char>(v & 255); };
    for (std::size_t i = 1; i < 7; ++i) set(i, 255);
    set(18, 1);
    set(19, 4);
    set(24, low > 0 ? 3 : 2);
    for (std::size_t i = 38; i < 54; ++i) set(i, 1);
    const int clock = static_cast<int>(std::lround((width + 160) * (height + 40) * hz / 10000));
    const int timing[] = {clock, clock >> 8, width, 160, (width >> 8) << 4, height, 40, (height >> 8) << 4,
                          8,     32,         0x35};
    for (std::size_t i = 0; i < std::size(timing); ++i) set(54 + i, timing[i]);
    set(54 + 17, 0x1a);
    set(72 + 3, 0xfc);
    for (std::size_t i = 0; i < 13; ++i) set(72 + 5 + i, i < name.size() ? name[i] : i == name.size() ? '\n' : ' ');
    if (low > 0) {
        set(90 + 3, 0xfd);
        set(90 + 5, low);
        set(90 + 6, high);
    } else {
        set(90 + 3, 0x10);
    }
    set(108 + 3, 0x10);
    int sum = 0;
    for (const char c : b) sum += static_cast<unsigned char>(c);
    set(127, 256 - sum % 256);
    return b;
}

void desktopIn(const TemporaryFolder& folder) {
    put(folder, "proc/cpuinfo", cpuInfo("Thornbury 8", 8, 2));
    put(folder, "proc/meminfo", "MemTotal:       16302548 kB\nMemFree:  1 kB\nMemAvailable:   12000000 kB\n");
    put(folder, "proc/loadavg", "0.31 0.20 0.10 1/600 4242\n");
    clocks(folder, 16, 4550, 4600, "balance_performance");
    put(folder, "usr/share/misc/pci.ids", names);
    gpu(folder, {"0000:01:00.0", "aaaa", "0008", "marl", 8192, 256, 8, 16, true});
    connector(folder, "card0", "DP-1", "0000:01:00.0", edidOf(2560, 1440, 143.97, 48, 144));
    connector(folder, "card0", "DP-2", "0000:01:00.0", "");
    put(folder, "sys/class/dmi/id/chassis_type", "3\n");
    put(folder, "sys/class/dmi/id/product_name", "To Be Filled By O.E.M.\n");
    put(folder, "sys/class/power_supply/mouse/type", "Battery\n");
    put(folder, "sys/class/power_supply/mouse/scope", "Device\n");
    put(folder, "sys/class/hwmon/hwmon0/temp1_input", "41000\n");
    put(folder, "sys/class/hwmon/hwmon0/temp1_label", "Tctl\n");
    put(folder, "sys/class/hwmon/hwmon0/temp1_crit", "95000\n");
    put(folder, "sys/class/hwmon/hwmon1/fan1_input", "900\n");
    put(folder, "sys/class/hwmon/hwmon1/fan2_input", "0\n");
    put(folder, "sys/bus/pci/devices/0000:01:00.0/hwmon/hwmon2/temp1_input", "47000\n");
}

void laptopIn(const TemporaryFolder& folder) {
    put(folder, "proc/cpuinfo", cpuInfo("Whinbush 6", 6, 2));
    put(folder, "proc/meminfo", "MemTotal:       32650000 kB\n");
    clocks(folder, 12, 800, 4200, "power");
    put(folder, "usr/share/misc/pci.ids", names);
    gpu(folder, {"0000:00:02.0", "bbbb", "0008", "gorse", 0, 256, 0, 0, true});
    gpu(folder, {"0000:01:00.0", "aaaa", "0009", "marl", 6144, 8192, 16, 16, false});
    connector(folder, "card1", "eDP-1", "0000:00:02.0", edidOf(1920, 1200, 165, 48, 165, "Marsh 16"));
    put(folder, "sys/class/dmi/id/chassis_type", "10\n");
    put(folder, "sys/class/dmi/id/product_name", "Whinbush laptop\n");
    put(folder, "sys/firmware/acpi/platform_profile", "quiet\n");
    put(folder, "sys/class/power_supply/AC/type", "Mains\n");
    put(folder, "sys/class/power_supply/AC/online", "0\n");
    put(folder, "sys/class/power_supply/BAT0/type", "Battery\n");
    put(folder, "sys/class/power_supply/BAT0/status", "Discharging\n");
    put(folder, "sys/class/power_supply/BAT0/charge_full", "5000000\n");
    put(folder, "sys/class/power_supply/BAT0/charge_full_design", "6000000\n");
    put(folder, "sys/class/power_supply/BAT0/voltage_min_design", "15000000\n");
    put(folder, "sys/class/power_supply/BAT0/current_now", "1200000\n");
}

void handheldIn(const TemporaryFolder& folder) {
    put(folder, "proc/cpuinfo", cpuInfo("Heron 4", 4, 2));
    put(folder, "proc/meminfo", "MemTotal:       11800000 kB\n");
    put(folder, "usr/share/hwdata/pci.ids", names);
    gpu(folder, {"0000:04:00.0", "aaaa", "0009", "marl", 1024, 1024, 0, 0, true});
    connector(folder, "card0", "eDP-1", "0000:04:00.0", edidOf(1280, 800, 60, 0, 0, "Heron"));
    put(folder, "sys/class/dmi/id/chassis_type", "11\n");
    put(folder, "sys/class/power_supply/BAT0/type", "Battery\n");
    put(folder, "sys/class/power_supply/BAT0/status", "Charging\n");
    put(folder, "sys/class/power_supply/BAT0/energy_full", "40000000\n");
    put(folder, "sys/class/power_supply/USB/type", "USB\n");
    put(folder, "sys/class/power_supply/USB/online", "1\n");
}

} // namespace impasto::support
