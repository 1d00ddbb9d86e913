// SPDX-License-Identifier: GPL-3.0-or-later
#include "devices.h"

#include <algorithm>
#include <charconv>
#include <impasto/base/text.h>

namespace impasto::probe {
namespace {

constexpr double mib = 1024 * 1024;

std::optional<unsigned long long> hexOf(std::string_view text) {
    if (text.substr(0, 2) == "0x") text.remove_prefix(2);
    unsigned long long value = 0;
    const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), value, 16);
    return fault == std::errc() && end == text.data() + text.size() && !text.empty() ? std::optional(value)
                                                                                     : std::nullopt;
}

std::optional<unsigned long long> hexIn(const Tree& tree, const std::string& path) {
    const auto text = tree.line(path);
    return text ? hexOf(*text) : std::nullopt;
}

/// The largest window that may be read ahead (linux/ioport.h: memory, prefetched).
std::optional<double> windowIn(std::string_view resource) {
    constexpr unsigned long long memory = 0x200, ahead = 0x2000;
    double most = 0;
    std::size_t row = 0;
    for (auto line : linesOf(resource)) {
        if (row++ >= 6) break;
        const auto one = line.find(' '), two = one == std::string_view::npos ? one : line.find(' ', one + 1);
        if (two == std::string_view::npos) continue;
        const auto from = hexOf(line.substr(0, one)), to = hexOf(line.substr(one + 1, two - one - 1)),
                   flags = hexOf(trimmed(line.substr(two + 1)));
        if (!from || !to || !flags || *to <= *from || (*flags & memory) == 0 || (*flags & ahead) == 0) continue;
        most = std::max(most, static_cast<double>(*to - *from + 1) / mib);
    }
    return most > 0 ? std::optional(most) : std::nullopt;
}

/// 0, 63 and 255 lanes are what the kernel writes where it does not know.
std::optional<double> lanesIn(const Tree& tree, const std::string& path) {
    const auto lanes = tree.number(path);
    return lanes && *lanes >= 1 && *lanes <= 32 ? lanes : std::nullopt;
}

void readHeat(const Tree& tree, const std::string& folder, Gpu& gpu) {
    for (const auto& sensor : tree.names(folder + "/hwmon")) {
        const std::string at = folder + "/hwmon/" + sensor;
        const auto now = tree.number(at + "/temp1_input"), limit = tree.number(at + "/temp1_crit");
        if (now && *now > 0 && *now < 200000) gpu.heatC = *now / 1000;
        if (limit && *limit > 0 && *limit < 200000) gpu.heatLimitC = *limit / 1000;
    }
}

Gpu gpuAt(const Tree& tree, const std::string& address, const std::string& names) {
    const std::string at = "sys/bus/pci/devices/" + address;
    Gpu gpu;
    gpu.address = cleanText(address);
    const auto vendor = hexIn(tree, at + "/vendor"), device = hexIn(tree, at + "/device");
    if (vendor && device && *vendor <= 0xffff && *device <= 0xffff)
        gpu.name = pciName(names, static_cast<unsigned>(*vendor), static_cast<unsigned>(*device)).value_or("");
    gpu.driver = tree.valueOf(at + "/uevent", "DRIVER").value_or("");
    gpu.first = tree.number(at + "/boot_vga") == 1.0;
    if (const auto bytes = tree.number(at + "/mem_info_vram_total"); bytes && *bytes > 0 && *bytes < 1e15)
        gpu.memoryMib = *bytes / mib;
    if (const auto resource = tree.bytes(at + "/resource")) gpu.windowMib = windowIn(*resource);
    // Common practice, no source: what hangs on the first bus, or has less than 2 GiB, is part of the CPU.
    const bool firstBus = address.size() > 7 && address.substr(5, 2) == "00";
    if (firstBus || gpu.memoryMib > 0) gpu.integrated = firstBus || gpu.memoryMib < 2048;
    if (!gpu.integrated.value_or(false)) {
        gpu.linkGts = tree.number(at + "/current_link_speed");
        gpu.linkBestGts = tree.number(at + "/max_link_speed");
        gpu.lanes = lanesIn(tree, at + "/current_link_width");
        gpu.bestLanes = lanesIn(tree, at + "/max_link_width");
    }
    readHeat(tree, at, gpu);
    return gpu;
}

} // namespace

std::vector<Gpu> gpusIn(const Tree& tree) {
    std::vector<Gpu> out;
    std::string names;
    for (const char* file : {"usr/share/misc/pci.ids", "usr/share/hwdata/pci.ids"})
        if (names.empty()) names = tree.bytes(file, std::size_t{1} << 24U).value_or("");
    for (const auto& address : tree.names("sys/bus/pci/devices")) {
        const auto kind = hexIn(tree, "sys/bus/pci/devices/" + address + "/class");
        if (kind && *kind >> 16U == 0x03 && out.size() < 16) out.push_back(gpuAt(tree, address, names));
    }
    std::stable_sort(out.begin(), out.end(), [](const Gpu& a, const Gpu& b) {
        const bool aOwn = !a.integrated.value_or(false), bOwn = !b.integrated.value_or(false);
        if (aOwn != bOwn) return aOwn;
        if (a.memoryMib != b.memoryMib) return a.memoryMib > b.memoryMib;
        return a.first && !b.first;
    });
    // Beside one that is part of the CPU the other has its own place.
    if (out.size() > 1 && !out.front().integrated) out.front().integrated = false;
    return out;
}

std::optional<std::string> pciName(std::string_view list, unsigned vendor, unsigned device) {
    const std::string wantedVendor = fmt::format("{:04x}  ", vendor), wantedDevice = fmt::format("\t{:04x}  ", device);
    bool inVendor = false;
    while (!list.empty()) {
        const auto end = list.find('\n');
        const auto line = list.substr(0, end);
        list.remove_prefix(end == std::string_view::npos ? list.size() : end + 1);
        if (line.empty() || line.front() == '#') continue;
        if (line.front() != '\t') {
            if (inVendor) return std::nullopt;
            inVendor = line.substr(0, 6) == wantedVendor;
        } else if (inVendor && line.substr(0, 7) == wantedDevice) {
            const auto name = line.substr(7);
            const auto open = name.find('['), close = name.rfind(']');
            const bool bracketed =
                open != std::string_view::npos && close != std::string_view::npos && close > open + 1;
            auto text = cleanText(bracketed ? name.substr(open + 1, close - open - 1) : name);
            return text.empty() ? std::nullopt : std::optional(std::move(text));
        }
    }
    return std::nullopt;
}

} // namespace impasto::probe
