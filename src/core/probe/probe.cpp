// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/probe/probe.h>

#include "devices.h"
#include "firmware.h"

#include <algorithm>
#include <cmath>
#include <impasto/base/keys.h>
#include <impasto/base/text.h>
#include <impasto/description/originals.h>
#include <set>

namespace impasto::probe {
namespace {

constexpr Keys<Missing, 7> missingKeys{{{Missing::GpuName, "gpu"},
                                        {Missing::GpuMemory, "gpu-memory"},
                                        {Missing::MemorySpeed, "memory-speed"},
                                        {Missing::Panel, "panel"},
                                        {Missing::RefreshNow, "refresh-now"},
                                        {Missing::Clocks, "clocks"},
                                        {Missing::Fans, "fans"}}};

void putNumber(machine::Facts& facts, const std::string& key, std::optional<double> value) {
    if (value && std::isfinite(*value) && *value >= 0 && *value <= 1e9)
        facts.insert_or_assign(key, std::round(*value * 100) / 100);
}
void putWord(machine::Facts& facts, const std::string& key, const std::optional<std::string>& word) {
    if (word && !word->empty()) facts.insert_or_assign(key, *word);
}
void putYes(machine::Facts& facts, const std::string& key, std::optional<bool> yes) {
    if (yes) facts.insert_or_assign(key, std::string(*yes ? "yes" : "no"));
}

std::string cpuValue(std::string_view line, std::string_view key) {
    if (line.substr(0, key.size()) != key) return {};
    const auto colon = line.find(':');
    const auto before = colon == std::string_view::npos ? std::string_view() : trimmed(line.substr(0, colon));
    return before == key ? cleanText(line.substr(colon + 1)) : std::string();
}

void readCpu(const Tree& tree, machine::Machine& m) {
    const auto info = tree.bytes("proc/cpuinfo", std::size_t{1} << 22U).value_or("");
    std::set<std::string> cores;
    std::string package;
    double threads = 0;
    bool hosted = false;
    for (const auto line : linesOf(info)) {
        if (const auto name = cpuValue(line, "model name"); !name.empty() && m.cpu == "not said") m.cpu = name;
        if (!cpuValue(line, "processor").empty()) ++threads;
        if (const auto id = cpuValue(line, "physical id"); !id.empty()) package = id;
        if (const auto id = cpuValue(line, "core id"); !id.empty()) cores.insert(package + "/" + id);
        if (line.substr(0, 5) == "flags" && line.find(" hypervisor") != std::string_view::npos) hosted = true;
    }
    m.cores = static_cast<int>(std::min(1024.0, cores.empty() ? threads : static_cast<double>(cores.size())));
    if (threads > 0) putNumber(m.facts, "cpu.threads", threads);
    if (threads > 0) putYes(m.facts, "system.virtual", hosted);
    std::optional<double> now, highest;
    for (const auto& at : clockFoldersIn(tree)) {
        if (const auto khz = tree.number(at + "/scaling_cur_freq")) now = std::max(now.value_or(0), *khz / 1000);
        if (const auto khz = tree.number(at + "/cpuinfo_max_freq"))
            highest = std::max(highest.value_or(0), *khz / 1000);
    }
    putNumber(m.facts, "cpu.now_mhz", now);
    putNumber(m.facts, "cpu.highest_mhz", highest);
    putWord(m.facts, "cpu.governor", tree.line("sys/devices/system/cpu/cpu0/cpufreq/scaling_governor"));
    putWord(m.facts, "cpu.preference", tree.line("sys/devices/system/cpu/cpu0/cpufreq/energy_performance_preference"));
}

/// What the firmware keeps for itself is not shown: the next size that modules come to, where that is near; else whole
/// GiB.
double builtInGib(double shownGib) {
    for (const double size :
         {1.0, 2.0, 3.0, 4.0, 6.0, 8.0, 12.0, 16.0, 24.0, 32.0, 48.0, 64.0, 96.0, 128.0, 192.0, 256.0})
        if (shownGib <= size * 1.002) return shownGib > 0.85 * size ? size : std::max(0.5, std::ceil(shownGib * 2) / 2);
    return std::ceil(shownGib);
}

void readMemory(const Tree& tree, machine::Machine& m) {
    const auto info = tree.bytes("proc/meminfo").value_or("");
    if (const auto kib = kibIn(info, "MemTotal"); kib && *kib > 0)
        m.systemMemory = Mebibytes(1024 * builtInGib(*kib / (1024 * 1024)));
    if (const auto kib = kibIn(info, "MemAvailable")) putNumber(m.facts, "memory.free_mib", std::round(*kib / 1024));
    const auto table = tree.bytes("sys/firmware/dmi/tables/DMI", std::size_t{1} << 20U);
    if (const auto modules = table ? modulesIn(*table) : std::nullopt; modules && modules->filled > 0) {
        putNumber(m.facts, "memory.modules", static_cast<double>(modules->filled));
        putNumber(m.facts, "memory.speed_mts", modules->speedMts);
        putNumber(m.facts, "memory.rated_mts", modules->ratedMts);
    }
}

void readGpus(const std::vector<Gpu>& gpus, machine::Machine& m) {
    const auto own = [&](const Gpu& gpu, const std::string& table) {
        const auto key = [&](const char* name) { return table + name; };
        putWord(m.facts, key(".address"), gpu.address);
        putWord(m.facts, key(".driver"), gpu.driver);
        putYes(m.facts, key(".integrated"), gpu.integrated);
        putNumber(m.facts, key(".link_gts"), gpu.linkGts);
        putNumber(m.facts, key(".link_best_gts"), gpu.linkBestGts);
        putNumber(m.facts, key(".link_lanes"), gpu.lanes);
        putNumber(m.facts, key(".link_best_lanes"), gpu.bestLanes);
    };
    if (gpus.empty()) return;
    const auto& first = gpus.front();
    own(first, "gpu");
    if (!first.name.empty()) m.gpu = first.name;
    if (first.memoryMib >= 64) m.gpuMemory = Mebibytes(std::round(first.memoryMib));
    // A handheld has no other place for it.
    if (gpus.size() == 1 && machine::wordIn(m.facts, "system.kind") == "handheld")
        putYes(m.facts, "gpu.integrated", true);
    putNumber(m.facts, "heat.gpu_c", first.heatC);
    putNumber(m.facts, "heat.gpu_limit_c", first.heatLimitC);
    if (machine::wordIn(m.facts, "gpu.integrated") != "yes") putNumber(m.facts, "gpu.window_mib", first.windowMib);
    if (gpus.size() < 2) return;
    own(gpus[1], "second");
    m.secondGpu = gpus[1].name.empty() ? gpus[1].address : gpus[1].name;
    if (gpus[1].memoryMib >= 64) putNumber(m.facts, "second.memory_mib", std::round(gpus[1].memoryMib));
}

void readPanel(const std::vector<ConnectedPanel>& panels, const std::vector<Gpu>& gpus,
               const std::vector<Screen>& screens, machine::Machine& m) {
    if (panels.empty()) return;
    const auto& panel = panels.front();
    m.panel.native = panel.edid.native;
    for (const auto hz : nativeRates(panel.edid))
        if (hz.value() >= 20 && hz.value() <= 1000) m.panel.modes.push_back(hz);
    m.panel.variable = panel.edid.follows;
    putWord(m.facts, "panel.connector", panel.connector);
    if (panels.size() > 1) putNumber(m.facts, "panel.others", static_cast<double>(panels.size() - 1));
    if (!m.panel.modes.empty()) m.panel.refresh = m.panel.modes.back();
    putNumber(m.facts, "panel.highest_hz", m.panel.refresh.value());
    for (std::size_t i = 0; i < std::min<std::size_t>(2, gpus.size()); ++i)
        if (!panel.gpu.empty() && gpus[i].address == panel.gpu)
            putWord(m.facts, "panel.wired_to", std::string(i == 0 ? "gpu" : "second"));
    m.copyRoute = machine::wordIn(m.facts, "panel.wired_to") == "second";
    const auto it = std::find_if(screens.begin(), screens.end(), [&](const Screen& s) {
        return s.connector == panel.connector || (screens.size() == 1 && panels.size() == 1);
    });
    if (it == screens.end() || !(it->refresh.value() >= 20)) return;
    putNumber(m.facts, "panel.now_hz", it->refresh.value());
    if (it->now.widthPx > 0) putWord(m.facts, "panel.now", display::keyText(it->now));
    const auto nearest = std::min_element(m.panel.modes.begin(), m.panel.modes.end(), [&](Hertz a, Hertz b) {
        return std::abs(a.value() - it->refresh.value()) < std::abs(b.value() - it->refresh.value());
    });
    // A panel that follows is described by its fastest mode; else by the one that is set.
    if (nearest != m.panel.modes.end() && !m.panel.variable) m.panel.refresh = *nearest;
}

void readPower(const Tree& tree, machine::Machine& m) {
    bool battery = false, known = false, mains = false;
    double full = 0, fresh = 0, draw = 0;
    for (const auto& name : tree.names("sys/class/power_supply")) {
        const std::string at = "sys/class/power_supply/" + name;
        const auto type = tree.line(at + "/type");
        if (!type || tree.line(at + "/scope") == "Device") continue; // a mouse has one too
        known = true;
        if (*type != "Battery") {
            mains = mains || tree.number(at + "/online") == 1.0;
            continue;
        }
        battery = true;
        const double volt = tree.number(at + "/voltage_min_design").value_or(0) / 1e6;
        const auto energy = [&](const char* watt, const char* ampere) {
            if (const auto value = tree.number(at + watt)) return *value / 1e6;
            return tree.number(at + ampere).value_or(0) / 1e6 * volt;
        };
        full += energy("/energy_full", "/charge_full");
        fresh += energy("/energy_full_design", "/charge_full_design");
        if (tree.line(at + "/status") == "Discharging") draw += energy("/power_now", "/current_now");
    }
    if (!known && !tree.has("sys/class/power_supply")) return;
    putYes(m.facts, "power.battery", battery);
    putYes(m.facts, "power.mains", !battery || mains); // without a battery it runs on mains
    if (full > 0) putNumber(m.facts, "power.battery_wh", full);
    if (fresh > 0) putNumber(m.facts, "power.battery_new_wh", fresh);
    if (draw > 0) putNumber(m.facts, "power.draw_w", draw);
}

bool ofTheCpu(const std::string& label) {
    for (const char* begin : {"package id", "tctl", "tdie", "cpu"})
        if (label.substr(0, std::string_view(begin).size()) == begin) return true;
    return false;
}

void readHeat(const Tree& tree, machine::Machine& m) {
    double turning = 0, fastest = 0;
    bool fans = false;
    for (const auto& name : tree.names("sys/class/hwmon")) {
        const std::string at = "sys/class/hwmon/" + name;
        for (const auto& file : tree.names(at)) {
            if (file.substr(0, 3) != "fan" || file.find("_input") == std::string::npos) continue;
            const auto value = tree.number(at + "/" + file);
            if (!value || *value < 0 || *value > 200000) continue;
            fans = true;
            turning += *value > 0 ? 1 : 0;
            fastest = std::max(fastest, *value);
        }
    }
    for (const auto& path : cpuHeatPaths(tree)) {
        const auto now = tree.number(path);
        if (!now || *now < 0 || *now > 200000) continue;
        putNumber(m.facts, "heat.cpu_c", *now / 1000);
        const auto limit = tree.number(path.substr(0, path.rfind("_input")) + "_crit");
        if (limit && *limit > 0) putNumber(m.facts, "heat.cpu_limit_c", *limit / 1000);
    }
    if (fans) putNumber(m.facts, "fans.turning", turning);
    if (fans) putNumber(m.facts, "fans.fastest_rpm", fastest);
}

/// DMTF SMBIOS, chassis types; what is neither of these is left out.
std::optional<std::string> kindOf(std::optional<double> chassis) {
    const int type = static_cast<int>(chassis.value_or(0));
    for (const int t : {3, 4, 5, 6, 7, 13, 15, 16, 24, 35, 36})
        if (type == t) return "desktop";
    for (const int t : {8, 9, 10, 14, 31, 32})
        if (type == t) return "laptop";
    return type == 11 || type == 30 ? std::optional<std::string>("handheld") : std::nullopt;
}

/// What a maker left in place of a name says nothing.
std::string nameOf(const Tree& tree) {
    const auto name = tree.line("sys/class/dmi/id/product_name");
    const auto plain = lowered(name.value_or(""));
    for (const char* filler : {"to be filled", "system product", "default string", "not applicable", "o.e.m."})
        if (plain.find(filler) != std::string::npos) return "This machine";
    return name ? *name : "This machine";
}

std::vector<Missing> missingOf(const machine::Machine& m) {
    std::vector<Missing> out;
    const auto when = [&](bool missing, Missing what) {
        if (missing) out.push_back(what);
    };
    when(m.gpu == "not said", Missing::GpuName);
    when(m.gpuMemory.value() == 0, Missing::GpuMemory);
    when(!m.facts.contains("memory.speed_mts"), Missing::MemorySpeed);
    when(m.panel.native.widthPx == 0, Missing::Panel);
    when(!m.facts.contains("panel.now_hz"), Missing::RefreshNow);
    when(!m.facts.contains("cpu.now_mhz"), Missing::Clocks);
    when(!m.facts.contains("fans.fastest_rpm"), Missing::Fans);
    return out;
}

} // namespace

std::vector<std::string> clockFoldersIn(const Tree& tree) {
    std::vector<std::string> out;
    for (const auto& cpu : tree.names("sys/devices/system/cpu"))
        if (cpu.substr(0, 3) == "cpu" && cpu.size() > 3 && cpu[3] >= '0' && cpu[3] <= '9')
            out.push_back("sys/devices/system/cpu/" + cpu + "/cpufreq");
    return out;
}

std::vector<std::string> cpuHeatPaths(const Tree& tree) {
    std::vector<std::string> out;
    for (const auto& name : tree.names("sys/class/hwmon"))
        for (const auto& file : tree.names("sys/class/hwmon/" + name)) {
            const auto cut = file.find("_input");
            const std::string at = "sys/class/hwmon/" + name + "/";
            if (cut != std::string::npos && file.substr(0, 4) == "temp" &&
                ofTheCpu(lowered(tree.line(at + file.substr(0, cut) + "_label").value_or(""))))
                out.push_back(at + file);
        }
    if (!out.empty()) return out;
    for (const auto& zone : tree.names("sys/class/thermal")) {
        const std::string at = "sys/class/thermal/" + zone;
        const auto type = lowered(tree.line(at + "/type").value_or(""));
        const auto now = tree.number(at + "/temp");
        if ((type.find("pkg") != std::string::npos || type.find("cpu") != std::string::npos) && now && *now > 0)
            out.push_back(at + "/temp");
    }
    return out;
}

std::string_view keyOf(Missing missing) {
    return keyIn(missingKeys, missing);
}

Result<Probed> readMachine(const Options& options) {
    const Tree tree(options.root, options.context);
    if (!tree.has("proc/cpuinfo") && !tree.has("proc/meminfo") && !tree.has("sys/devices"))
        return fail(ErrorCode::CannotRead, "no /proc and no /sys", {options.root.string(), {}, {}, {}}, Kept::Nothing);
    Probed out;
    auto& m = out.machine;
    m.cpu = m.gpu = "not said";
    m.name = nameOf(tree);
    m.readAt = options.atSeconds;
    putWord(m.facts, "system.kind", kindOf(tree.number("sys/class/dmi/id/chassis_type")));
    putWord(m.facts, "system.profile", tree.line("sys/firmware/acpi/platform_profile"));
    putNumber(m.facts, "system.load", tree.number("proc/loadavg"));
    readCpu(tree, m);
    readMemory(tree, m);
    const auto gpus = gpusIn(tree);
    readGpus(gpus, m);
    readPanel(panelsIn(tree, options.screens), gpus, options.screens, m);
    readPower(tree, m);
    readHeat(tree, m);
    if (tree.cancelled()) return fail(ErrorCode::Cancelled);
    out.missing = missingOf(m);
    // As it is stored, so that a machine that was read is a description like any other.
    const auto text = toToml(m);
    auto parsed = machine::parseMachine(text, {});
    if (!parsed) return tl::unexpected(parsed.error());
    m = std::move(*parsed);
    return out;
}

} // namespace impasto::probe
