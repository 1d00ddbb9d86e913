// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/machine.h>

#include <impasto/base/text.h>

namespace impasto::wording {
namespace {

struct Named {
    std::string_view key;
    const char *name, *unit;
};
constexpr Named names[] = {{"system.kind", "kind of machine", ""},
                           {"system.profile", "power profile", ""},
                           {"system.virtual", "virtual machine", ""},
                           {"system.load", "load over a minute", ""},
                           {"cpu.threads", "threads", ""},
                           {"cpu.now_mhz", "CPU clock now", "MHz"},
                           {"cpu.highest_mhz", "highest CPU clock", "MHz"},
                           {"cpu.governor", "clock governor", ""},
                           {"cpu.preference", "clock preference", ""},
                           {"memory.free_mib", "memory free", "MiB"},
                           {"memory.modules", "memory modules", ""},
                           {"memory.speed_mts", "memory speed", "MT/s"},
                           {"memory.rated_mts", "rated memory speed", "MT/s"},
                           {"gpu.address", "GPU at", ""},
                           {"gpu.driver", "GPU driver", ""},
                           {"gpu.integrated", "GPU is part of the CPU", ""},
                           {"gpu.window_mib", "GPU memory that the CPU sees", "MiB"},
                           {"gpu.link_gts", "link speed now", "GT/s"},
                           {"gpu.link_best_gts", "fastest link speed", "GT/s"},
                           {"gpu.link_lanes", "link lanes", ""},
                           {"gpu.link_best_lanes", "lanes at best", ""},
                           {"second.address", "second GPU at", ""},
                           {"second.driver", "second GPU's driver", ""},
                           {"second.integrated", "second GPU is part of the CPU", ""},
                           {"second.memory_mib", "second GPU's memory", "MiB"},
                           {"second.link_gts", "second GPU's link speed now", "GT/s"},
                           {"second.link_best_gts", "second GPU's fastest link speed", "GT/s"},
                           {"second.link_lanes", "second GPU's link lanes", ""},
                           {"second.link_best_lanes", "second GPU's lanes at best", ""},
                           {"panel.connector", "connector", ""},
                           {"panel.wired_to", "panel hangs on", ""},
                           {"panel.now", "resolution now", ""},
                           {"panel.now_hz", "refresh now", "Hz"},
                           {"panel.highest_hz", "highest refresh", "Hz"},
                           {"panel.others", "other panels", ""},
                           {"power.mains", "on mains", ""},
                           {"power.battery", "battery", ""},
                           {"power.battery_wh", "battery holds", "Wh"},
                           {"power.battery_new_wh", "battery held when new", "Wh"},
                           {"power.draw_w", "power from the battery", "W"},
                           {"heat.cpu_c", "CPU temperature", "°C"},
                           {"heat.cpu_limit_c", "CPU temperature limit", "°C"},
                           {"heat.gpu_c", "GPU temperature", "°C"},
                           {"heat.gpu_limit_c", "GPU temperature limit", "°C"},
                           {"fans.turning", "fans turning", ""},
                           {"fans.fastest_rpm", "fastest fan", "rpm"},
                           {"machine.simulated", "simulated", ""},
                           {"machine.copy_route", "copy route", ""},
                           {"machine.second_gpu", "second GPU", ""},
                           {"machine.gpu_mib", "GPU memory", "MiB"},
                           {"machine.memory_mib", "system memory", "MiB"},
                           {"panel.native", "native resolution", ""},
                           {"panel.follows", "variable refresh", ""},
                           {"panel.headset", "headset", ""},
                           {"panel.fixed_hz", "fixed refresh", "Hz"},
                           {"panel.best_hz", "best rate", "Hz"},
                           {"panel.gbit_8", "at 8 bits", "Gbit/s"},
                           {"panel.gbit_10", "at 10 bits", "Gbit/s"},
                           {"gpu.window_share", "seen by the CPU", "%"},
                           {"goal.style", "style", ""},
                           {"state.supply", "played on", ""},
                           {"state.plan", "power plan", ""},
                           {"state.fans", "fans", ""},
                           {"state.window", "window mode", ""},
                           {"state.sync", "sync", ""},
                           {"state.direct", "copy route off", ""}};

const Named* entryOf(std::string_view key) {
    const auto it = std::find_if(std::begin(names), std::end(names), [&](const Named& n) { return n.key == key; });
    return it == std::end(names) ? nullptr : &*it;
}

} // namespace

std::string factName(const Words& w, std::string_view key) {
    const auto* n = entryOf(key);
    return n == nullptr ? std::string(key) : w.say(n->name);
}

std::string factValue(const Words& w, std::string_view key, const machine::Fact& fact) {
    if (const auto* word = std::get_if<std::string>(&fact)) {
        if (*word == "yes") return w.say("yes");
        if (*word == "no") return w.say("no");
        if (key == "panel.wired_to") return *word == "gpu" ? w.say("the GPU that renders") : w.say("the other GPU");
        return *word;
    }
    const double number = std::get<double>(fact);
    const auto* n = entryOf(key);
    const std::string_view unit = n == nullptr ? "" : n->unit;
    if (unit == "%") return fmt::format("{:.0f}%", 100 * number);
    if (unit == "MHz") return fmt::format("{:.1f} GHz", number / 1000);
    if (unit == "MiB")
        return number < 1024 ? fmt::format("{:.0f} MiB", number) : fmt::format("{:.1f} GiB", number / 1024);
    return unit.empty() ? shortestText(number) : fmt::format("{} {}", shortestText(number), unit);
}

namespace {

/// "memory speed 3200 MT/s", "copy route: yes"; empty for what is not known.
std::string named(const Words& w, const std::string& key, const machine::Facts& facts) {
    const auto it = facts.find(key);
    if (it == facts.end()) return {};
    const auto* word = std::get_if<std::string>(&it->second);
    const bool either = word != nullptr && (*word == "yes" || *word == "no");
    const std::string name = factName(w, key), value = factValue(w, key, it->second);
    return either ? w.say("{}: {}", name, value) : w.say("{} {}", name, value);
}

/// "3200 of 3600 MT/s": two values of one unit; one alone where they are equal and say what they are.
std::string held(const Words& w, const checklist::Judged::Rest& rest, const machine::Facts& facts) {
    const auto one = facts.find(rest.fact), other = facts.find(rest.against);
    if (one == facts.end() || other == facts.end()) return named(w, rest.fact, facts);
    const std::string value = factValue(w, one->first, one->second), rated = factValue(w, other->first, other->second);
    if (value == rated) {
        const bool bare = std::holds_alternative<double>(one->second) && value.find(' ') == std::string::npos;
        return bare ? named(w, rest.fact, facts) : value;
    }
    const auto unit = rated.find(' ');
    const bool same = unit != std::string::npos && value.ends_with(rated.substr(unit));
    return w.say("{} of {}", same ? value.substr(0, value.size() - (rated.size() - unit)) : value, rated);
}

} // namespace

std::string restsOn(const Words& w, const checklist::Judged& judged, const machine::Facts& facts) {
    std::vector<std::string> things;
    for (const auto& rest : judged.rests)
        for (const auto& key : {rest.fact, rest.against})
            if (auto thing = named(w, key, facts); !thing.empty()) things.push_back(std::move(thing));
    return listed(w, things);
}

std::string restsShort(const Words& w, const checklist::Judged& judged, const machine::Facts& facts) {
    std::vector<std::string> things;
    for (const auto& rest : judged.rests) things.push_back(held(w, rest, facts));
    return listed(w, things);
}

std::string standing(const Words& w, checklist::Standing standing) {
    switch (standing) {
    case checklist::Standing::Fine:
        return w.say("fine");
    case checklist::Standing::ToDo:
        return w.say("to do");
    case checklist::Standing::CannotTell:
        return w.say("cannot tell");
    case checklist::Standing::DoesNotApply:
        return w.say("does not apply");
    }
    return {};
}

std::string place(const Words& w, checklist::Place place) {
    switch (place) {
    case checklist::Place::Memory:
        return w.say("Memory");
    case checklist::Place::Cpu:
        return w.say("CPU");
    case checklist::Place::Link:
        return w.say("Link");
    case checklist::Place::Gpu:
        return w.say("GPU");
    case checklist::Place::Panel:
        return w.say("Panel");
    }
    return {};
}

std::string missing(const Words& w, probe::Missing missing) {
    switch (missing) {
    case probe::Missing::GpuName:
        return w.say("The GPU's name: the system's list of device names does not have it. It stands on the box.");
    case probe::Missing::GpuMemory:
        return w.say("The GPU's memory: its driver does not tell. Most games show it in their graphics menu.");
    case probe::Missing::MemorySpeed:
        return w.say("The memory's speed: only root may read it. The firmware menu shows it.");
    case probe::Missing::Panel:
        return w.say("The panel: none is connected that says what it is. The display settings show it.");
    case probe::Missing::RefreshNow:
        return w.say("The rate that is set: no file tells it. The display settings show it.");
    case probe::Missing::Clocks:
        return w.say("Clocks: this system does not show them, as in a virtual machine.");
    case probe::Missing::Fans:
        return w.say("Fans: no sensor tells. Listen, and look in the maker's control panel.");
    }
    return {};
}

} // namespace impasto::wording
