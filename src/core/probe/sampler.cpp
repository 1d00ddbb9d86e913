// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/probe/sampler.h>

#include "devices.h"

#include <algorithm>
#include <cmath>
#include <impasto/base/text.h>
#include <map>

namespace impasto::probe {
namespace {

using capture::Sensor;

/// The greatest of what the files tell, within what can be.
struct Gauge {
    Sensor sensor;
    std::vector<std::string> paths;
    double factor = 1;
    double most = 1e9; // after the factor
};

/// Files that count microjoules, each up to where it begins anew.
struct Meter {
    std::string path;
    double range = 0;
    std::optional<double> before = {};
};

/// Ticks of one processor, or of all: busy ones and all of them.
struct Ticks {
    double busy = 0, all = 0;
};

std::optional<double> highestIn(const Tree& tree, const std::vector<std::string>& paths) {
    std::optional<double> out;
    for (const auto& path : paths)
        if (const auto value = tree.number(path); value && std::isfinite(*value))
            out = std::max(out.value_or(*value), *value);
    return out;
}

/// Of a table of a clock's levels, "2: 2400Mhz *" a line, the highest in MHz.
std::optional<double> highestLevel(const Tree& tree, const std::string& path) {
    std::optional<double> out;
    const auto text = tree.bytes(path).value_or("");
    for (const auto line : linesOf(text)) {
        const auto colon = line.find(':');
        if (colon == std::string_view::npos) continue;
        auto value = trimmed(line.substr(colon + 1));
        value = value.substr(0, std::min(value.size(), value.find_first_not_of("0123456789.")));
        if (const auto mhz = parseDouble(value)) out = std::max(out.value_or(0), *mhz);
    }
    return out;
}

/// The lines of processors in /proc/stat (proc(5)): all of them first. Waiting for a disk is no work.
std::vector<Ticks> ticksIn(const Tree& tree) {
    std::vector<Ticks> out;
    const auto text = tree.bytes("proc/stat", std::size_t{1} << 20U).value_or("");
    for (const auto line : linesOf(text)) {
        if (line.substr(0, 3) != "cpu" || out.size() > 1024) break;
        Ticks ticks;
        std::size_t field = 0, at = line.find(' ');
        while (at != std::string_view::npos && field < 8) { // guests' time is in the user's
            const auto from = line.find_first_not_of(' ', at);
            if (from == std::string_view::npos) break;
            at = line.find(' ', from);
            const auto value = parseDouble(line.substr(from, at == std::string_view::npos ? at : at - from));
            if (!value || *value < 0) return {};
            ticks.all += *value;
            if (field != 3 && field != 4) ticks.busy += *value;
            ++field;
        }
        if (field < 4) return {};
        out.push_back(ticks);
    }
    return out;
}

/// The machine but for its GPUs, or one of these.
struct Part {
    std::string folder = {}; // of a GPU
    std::string name = {};
    std::vector<Gauge> gauges = {};
    std::map<Sensor, double> highest = {}; // MHz of a clock: as it says, or the fastest that was read
    std::map<Sensor, capture::Track> tracks = {};
    bool slept = true; // at every look

    void keep(Sensor sensor, double atMs, double value) {
        auto& track = tracks[sensor];
        track.sensor = sensor;
        if (!track.timeMs.empty() && track.timeMs.back() == atMs) { // several fans
            track.values.back() = std::max(track.values.back(), capture::narrowed(value));
            return;
        }
        track.timeMs.push_back(atMs);
        track.values.push_back(capture::narrowed(value));
        if (const auto it = highest.find(sensor); it != highest.end()) it->second = std::max(it->second, value);
    }
    void read(const Tree& tree, double atMs) {
        // A look would wake it.
        if (!folder.empty() && tree.line(folder + "/power/runtime_status") == "suspended") return;
        slept = false;
        for (const auto& gauge : gauges) {
            const auto value = highestIn(tree, gauge.paths);
            if (value && *value >= 0 && *value * gauge.factor <= gauge.most)
                keep(gauge.sensor, atMs, *value * gauge.factor);
        }
    }
    [[nodiscard]] std::optional<double> meanLoad() const {
        const auto load = tracks.find(Sensor::GpuLoad);
        if (load == tracks.end()) return std::nullopt;
        double sum = 0;
        for (const float v : load->second.values) sum += double{v};
        return sum / static_cast<double>(load->second.values.size());
    }
    /// Clocks as shares of the highest; `last`: of each sensor the last one alone.
    void show(std::vector<capture::Track>& out, bool last) const {
        for (const auto& [sensor, read] : tracks) {
            auto& track =
                out.emplace_back(last ? capture::Track{sensor, {read.timeMs.back()}, {read.values.back()}} : read);
            if (const auto whole = highest.find(sensor); whole != highest.end() && whole->second > 0)
                for (auto& value : track.values) value = capture::narrowed(100 * double{value} / whole->second);
        }
    }
};

Part gpuIn(const Tree& tree, const Gpu& chip) {
    const std::string at = "sys/bus/pci/devices/" + chip.address;
    Part out{at, chip.name.empty() ? chip.address : chip.name};
    out.gauges.push_back({Sensor::GpuLoad, {at + "/gpu_busy_percent"}, 1, 100});
    out.gauges.push_back({Sensor::GpuMemory, {at + "/mem_info_vram_used"}, 1.0 / (1024 * 1024), 1e7});
    Gauge heat{Sensor::GpuTemperature, {}, 1e-3, 200}, power{Sensor::GpuPower, {}, 1e-6, 3000},
        clock{Sensor::GpuClock, {}, 1e-6, 1e5};
    for (const auto& name : tree.names(at + "/hwmon")) {
        const std::string sensor = at + "/hwmon/" + name;
        heat.paths.push_back(sensor + "/temp1_input");
        power.paths.push_back(sensor + (tree.has(sensor + "/power1_average") ? "/power1_average" : "/power1_input"));
        clock.paths.push_back(sensor + "/freq1_input");
    }
    double highest = highestLevel(tree, at + "/pp_dpm_sclk").value_or(0);
    for (const auto& card : tree.names(at + "/drm")) {
        const std::string now = at + "/drm/" + card + "/gt_act_freq_mhz";
        if (!tree.has(now)) continue;
        clock = {Sensor::GpuClock, {now}, 1, 1e5};
        highest = tree.number(at + "/drm/" + card + "/gt_RP0_freq_mhz").value_or(0);
    }
    out.highest[Sensor::GpuClock] = highest;
    for (auto* gauge : {&heat, &power, &clock}) out.gauges.push_back(std::move(*gauge));
    return out;
}

} // namespace

struct Sampler::State {
    explicit State(const std::filesystem::path& root) : tree(root, {}) {
        findCpu();
        for (const auto& chip : gpusIn(tree)) gpus.push_back(gpuIn(tree, chip));
        findFans();
        for (const auto& name : tree.names("sys/class/power_supply")) {
            const std::string at = "sys/class/power_supply/" + name;
            if (tree.line(at + "/type") == "Battery" && tree.line(at + "/scope") != "Device") batteries.push_back(at);
        }
        for (const auto& zone : tree.names("sys/class/powercap")) {
            const std::string at = "sys/class/powercap/" + zone;
            const auto name = tree.line(at + "/name");
            if (name && name->substr(0, 7) == "package" && tree.number(at + "/energy_uj"))
                meters.push_back({at + "/energy_uj", tree.number(at + "/max_energy_range_uj").value_or(0)});
        }
    }

    void findCpu() {
        Gauge clock{Sensor::CpuClock, {}, 1e-3, 1e5};
        std::vector<std::string> highest;
        for (const auto& at : clockFoldersIn(tree)) {
            clock.paths.push_back(at + "/scaling_cur_freq");
            highest.push_back(at + "/cpuinfo_max_freq");
        }
        machine.highest[Sensor::CpuClock] = highestIn(tree, highest).value_or(0) / 1000;
        machine.gauges.push_back(std::move(clock));
        machine.gauges.push_back({Sensor::CpuTemperature, cpuHeatPaths(tree), 1e-3, 200});
    }

    /// Each fan against its own highest speed; where none says it, how far it is driven.
    void findFans() {
        for (const auto& name : tree.names("sys/class/hwmon"))
            for (const auto& file : tree.names("sys/class/hwmon/" + name)) {
                const std::string at = "sys/class/hwmon/" + name + "/";
                const bool speed = file.substr(0, 3) == "fan" && file.size() > 8 && file.substr(4) == "_input";
                const double highest = speed ? tree.number(at + file.substr(0, 4) + "_max").value_or(0) : 0;
                if (highest > 0) machine.gauges.push_back({Sensor::Fan, {at + file}, 100 / highest, 120});
                if (file.size() == 4 && file.substr(0, 3) == "pwm")
                    machine.gauges.push_back({Sensor::Fan, {at + file}, 100.0 / 255, 100});
            }
    }

    void keep(Sensor sensor, double value) { machine.keep(sensor, nowMs, value); }

    void loads() {
        auto now = ticksIn(tree);
        std::optional<double> busiest;
        for (std::size_t i = 0; before.size() == now.size() && i < now.size(); ++i) {
            const double all = now[i].all - before[i].all;
            if (!(all > 0)) continue;
            const double load = std::clamp(100 * (now[i].busy - before[i].busy) / all, 0.0, 100.0);
            if (i == 0)
                keep(Sensor::CpuLoad, load);
            else
                busiest = std::max(busiest.value_or(0), load);
        }
        if (busiest) keep(Sensor::BusiestCore, *busiest);
        before = std::move(now);
    }

    void memory() {
        const auto text = tree.bytes("proc/meminfo").value_or("");
        const auto all = kibIn(text, "MemTotal"), free = kibIn(text, "MemAvailable");
        if (all && free && *all >= *free) keep(Sensor::SystemMemory, (*all - *free) / 1024);
    }

    void power(double sinceMs) {
        double joules = 0;
        bool told = false;
        for (auto& meter : meters) {
            const auto now = tree.number(meter.path);
            if (now && meter.before && sinceMs > 0) {
                const double used = *now >= *meter.before ? *now - *meter.before : *now - *meter.before + meter.range;
                told = told || used >= 0;
                joules += std::max(0.0, used) * 1e-6;
            }
            meter.before = now;
        }
        if (told) keep(Sensor::CpuPower, 1000 * joules / sinceMs);
        double drawn = 0;
        for (const auto& at : batteries) {
            if (tree.line(at + "/status") != "Discharging") continue;
            const auto watts = tree.number(at + "/power_now");
            const auto ampere = tree.number(at + "/current_now"), volt = tree.number(at + "/voltage_now");
            drawn += watts ? std::abs(*watts) * 1e-6 : ampere && volt ? std::abs(*ampere * *volt) * 1e-12 : 0;
        }
        if (drawn > 0 && drawn < 3000) keep(Sensor::SystemPower, drawn);
    }

    /// The GPU that works: the one that would render first, unless it rests while another is at it.
    [[nodiscard]] const Part* atWork() const {
        constexpr double rests = 15, works = 30; // percent
        if (gpus.empty()) return nullptr;
        const auto& first = gpus.front();
        if (first.slept || first.meanLoad().value_or(100) < rests) // one that does not say is not known to rest
            for (const auto& other : gpus)
                if (other.meanLoad().value_or(0) >= works) return &other;
        return &gpus.front();
    }

    /// The load of the busiest of the other GPUs; nullptr where none tells it.
    [[nodiscard]] const capture::Track* loadBeside(const Part& works) const {
        const Part* busiest = nullptr;
        for (const auto& other : gpus)
            if (&other != &works && other.meanLoad().value_or(-1) > (busiest ? *busiest->meanLoad() : -1))
                busiest = &other;
        return busiest == nullptr ? nullptr : &busiest->tracks.at(Sensor::GpuLoad);
    }

    [[nodiscard]] std::vector<capture::Track> shown(bool last) const {
        std::vector<capture::Track> out;
        machine.show(out, last);
        if (const auto* gpu = atWork()) {
            gpu->show(out, last);
            if (const auto* load = loadBeside(*gpu)) {
                out.push_back(last ? capture::Track{{}, {load->timeMs.back()}, {load->values.back()}} : *load);
                out.back().sensor = Sensor::SecondGpuLoad;
            }
        }
        std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.sensor < b.sensor; });
        return out;
    }

    Tree tree;
    Part machine;
    std::vector<Part> gpus; // the one that would render first
    std::vector<std::string> batteries;
    std::vector<Meter> meters;
    std::vector<Ticks> before;
    double nowMs = 0;
    bool begun = false;
};

Sampler::Sampler(const std::filesystem::path& root) : m_state(std::make_unique<State>(root)) {}
Sampler::~Sampler() = default;

void Sampler::sample(double atMs) {
    auto& s = *m_state;
    const double sinceMs = s.begun ? atMs - s.nowMs : 0;
    if (s.begun && !(sinceMs > 0)) return;
    s.begun = true;
    s.nowMs = atMs;
    s.machine.read(s.tree, atMs);
    for (auto& gpu : s.gpus) gpu.read(s.tree, atMs);
    s.loads();
    s.memory();
    s.power(sinceMs);
}

std::vector<capture::Track> Sampler::readings() const {
    return m_state->shown(false);
}

std::vector<capture::Track> Sampler::latest() const {
    return m_state->shown(true);
}

std::optional<std::string> Sampler::otherGpu() const {
    const auto* gpu = m_state->atWork();
    return gpu == nullptr || gpu == &m_state->gpus.front() ? std::nullopt : std::optional(gpu->name);
}

} // namespace impasto::probe
