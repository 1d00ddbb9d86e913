// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/machine/machine.h>

#include <impasto/base/text.h>
#include <impasto/description/description.h>
#include <impasto/description/originals.h>

namespace impasto::machine {

namespace {

display::Panel readPanel(const description::Section& panel) {
    display::Panel p;
    if (panel.has("native")) {
        const auto native = display::parseResolution(panel.text("native"));
        if (!native) panel.fault("native", ErrorCode::BadValue, "a resolution such as 2560x1440");
        p.native = native.value_or(display::Resolution{});
    }
    p.refresh = Hertz(panel.number("refresh_hz", 20, 1000, 0));
    if (panel.has("variable_lowest_hz") || panel.has("variable_highest_hz")) {
        const double low = panel.number("variable_lowest_hz", 1, 1000),
                     high = panel.number("variable_highest_hz", 1, 1000);
        if (low >= high) panel.fault("variable_lowest_hz", ErrorCode::OutOfRange, "below variable_highest_hz");
        p.variable = display::RefreshRange{Hertz(low), Hertz(high)};
    }
    for (const double mode : panel.numbers("modes_hz", 20, 1000)) p.modes.emplace_back(mode);
    if (!p.modes.empty() && std::find(p.modes.begin(), p.modes.end(), p.refresh) == p.modes.end())
        panel.fault("refresh_hz", ErrorCode::BadValue, "one of modes_hz");
    p.headset = panel.flag("headset", false);
    return p;
}

/// A number that is said.
void writeNumber(std::string& out, const char* key, double value) {
    if (value > 0) out += fmt::format("{} = {}\n", key, shortestText(value));
}

void writePanel(std::string& out, const display::Panel& panel) {
    out += "\n[panel]\n";
    if (panel.native.widthPx > 0) out += fmt::format("native = \"{}\"\n", display::keyText(panel.native));
    writeNumber(out, "refresh_hz", panel.refresh.value());
    if (panel.variable) {
        writeNumber(out, "variable_lowest_hz", panel.variable->lowest.value());
        writeNumber(out, "variable_highest_hz", panel.variable->highest.value());
    }
    if (!panel.modes.empty()) {
        std::string modes;
        for (const auto mode : panel.modes) modes += (modes.empty() ? "" : ", ") + shortestText(mode.value());
        out += fmt::format("modes_hz = [{}]\n", modes);
    }
    if (panel.headset) out += "headset = true\n";
}

Facts readFacts(const description::Section& all) {
    Facts facts;
    for (const auto& name : factNames()) {
        const auto dot = name.key.find('.');
        const auto table = name.key.substr(0, dot), key = name.key.substr(dot + 1);
        if (!all.has(table) || !all.table(table).has(key)) continue;
        const auto section = all.table(table);
        if (name.word)
            facts.emplace(name.key, section.text(key));
        else
            facts.emplace(name.key, section.number(key, 0, 1e9));
    }
    return facts;
}

void writeFacts(std::string& out, const Machine& m) {
    if (m.facts.empty() && m.readAt == 0) return;
    out += "\n[facts]\n";
    if (m.readAt != 0) out += fmt::format("read_at = {}\n", m.readAt);
    std::string_view table;
    for (const auto& name : factNames()) {
        const auto it = m.facts.find(name.key);
        if (it == m.facts.end()) continue;
        const auto dot = name.key.find('.');
        if (name.key.substr(0, dot) != table) {
            table = name.key.substr(0, dot);
            out += fmt::format("[facts.{}]\n", table);
        }
        const auto* number = std::get_if<double>(&it->second);
        out += fmt::format("{} = {}\n", name.key.substr(dot + 1),
                           number != nullptr ? shortestText(*number)
                                             : description::quoted(std::get<std::string>(it->second)));
    }
}

} // namespace

Result<Machine> parseMachine(std::string_view text, std::string fileName) {
    const auto document = description::Document::parse(text, std::move(fileName));
    if (!document) return tl::unexpected(document.error());
    const auto root = document->root();
    root.leave("rig");
    Machine m;
    m.mark = description::markOf(text);
    m.name = root.text("name");
    m.cpu = root.text("cpu", "not said");
    m.gpu = root.text("gpu", "not said");
    m.cores = static_cast<int>(root.number("cores", 0, 1024, 0));
    m.gpuMemory = Mebibytes(1024.0 * root.number("gpu_memory_gib", 0.0625, 4096, 0));
    m.systemMemory = Mebibytes(1024.0 * root.number("system_memory_gib", 0.25, 65536, 0));
    if (root.has("panel")) m.panel = readPanel(root.table("panel"));
    m.secondGpu = root.text("second_gpu", "");
    m.copyRoute = root.flag("copy_route", false);
    m.simulated = root.has("rig");
    if (root.has("facts")) {
        const auto facts = root.table("facts");
        m.readAt = static_cast<std::int64_t>(facts.number("read_at", 0, 1e11, 0));
        m.facts = readFacts(facts);
    }
    if (const auto sound = document->check(); !sound) return tl::unexpected(sound.error());
    return m;
}

std::string toToml(const Machine& m) {
    std::string out = fmt::format("name = {}\ncpu = {}\ngpu = {}\ncores = {}\n", description::quoted(m.name),
                                  description::quoted(m.cpu), description::quoted(m.gpu), m.cores);
    writeNumber(out, "gpu_memory_gib", m.gpuMemory.value() / 1024);
    writeNumber(out, "system_memory_gib", m.systemMemory.value() / 1024);
    if (!m.secondGpu.empty()) out += fmt::format("second_gpu = {}\n", description::quoted(m.secondGpu));
    if (m.copyRoute) out += "copy_route = true\n";
    if (m.panel != display::Panel{}) writePanel(out, m.panel);
    writeFacts(out, m);
    return out;
}

} // namespace impasto::machine
