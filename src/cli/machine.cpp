// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.h"

#include <impasto/base/file.h>
#include <impasto/base/shown.h>
#include <impasto/exports/json.h>
#include <impasto/wording/machine.h>
#include <impasto/wording/numbers.h>

namespace impasto::cli {
namespace {

struct MachineOptions {
    std::string root = "/", output;
    bool json = false, force = false, checks = false;
};

void print(const probe::Probed& read) {
    const wording::Words w;
    const auto& m = read.machine;
    const auto said = [](const std::string& text) { return shown(text); };
    fmt::print("{}\n", said(m.name));
    fmt::print("  CPU: {}, {} cores\n", said(m.cpu), m.cores);
    fmt::print("  GPU: {}{}\n", said(m.gpu),
               m.gpuMemory.value() > 0 ? fmt::format(", {} GiB", wording::gib(m.gpuMemory.value())) : std::string());
    if (!m.secondGpu.empty()) fmt::print("  second GPU: {}\n", said(m.secondGpu));
    if (m.systemMemory.value() > 0) fmt::print("  memory: {} GiB\n", wording::gib(m.systemMemory.value()));
    if (m.panel.native.widthPx > 0) {
        std::vector<std::string> rates;
        for (const auto hz : m.panel.modes) rates.push_back(fmt::format("{:.2f}", hz.value()));
        fmt::print("  panel: {}, {} Hz", wording::resolution(m.panel.native), wording::listed(w, rates));
        if (m.panel.variable)
            fmt::print(", follows {:.0f} to {:.0f} Hz", m.panel.variable->lowest.value(),
                       m.panel.variable->highest.value());
        fmt::print("\n");
    }
    if (m.copyRoute) fmt::print("  frames go through another graphics chip to the panel\n");
    for (const auto& name : machine::factNames())
        if (const auto it = m.facts.find(name.key); it != m.facts.end())
            fmt::print("  {}: {}\n", wording::factName(w, name.key), said(wording::factValue(w, name.key, it->second)));
    if (!read.missing.empty()) fmt::print("Not read:\n");
    for (const auto what : read.missing) fmt::print("  {}\n", wording::missing(w, what));
}

Result<std::vector<checklist::Point>> shippedPoints() {
    const std::string path = shipped("checklist.toml");
    const auto text = readFile(path, std::size_t{1} << 22U);
    if (!text) return tl::unexpected(text.error());
    return checklist::parseChecklist(*text, path);
}

void printChecks(std::span<const exports::CheckedPoint> points) {
    const wording::Words w;
    fmt::print("Checklist:\n");
    for (const auto& p : points)
        fmt::print("  {}: {}, {}{}\n", wording::standing(w, p.judged.standing), wording::place(w, p.point.place),
                   p.point.title, p.rests.empty() ? std::string() : fmt::format(" ({})", shown(p.rests)));
}

int machineOf(const MachineOptions& options) {
    const auto read = probe::readMachine({options.root, {}, systemClock()().time_since_epoch().count(), {}});
    if (!read) return failed(read.error());
    std::vector<exports::CheckedPoint> checked;
    if (options.checks) {
        const auto points = shippedPoints();
        if (!points) return failed(points.error());
        const auto known = checklist::factsOf(read->machine);
        for (const auto& point : *points) {
            const auto judged = checklist::judge(point, known, {});
            checked.push_back({point, judged, wording::restsOn(wording::Words(), judged, known)});
        }
    }
    if (options.json) {
        fmt::print("{}\n", exports::machineJson(*read, checked));
    } else {
        print(*read);
        if (options.checks) printChecks(checked);
    }
    if (options.output.empty()) return 0;
    if (const auto done = writeOutput(options.output, machine::toToml(read->machine), options.force); !done)
        return failed(done.error());
    return 0;
}

} // namespace

Command machineCommand() {
    const auto o = std::make_shared<MachineOptions>();
    return {"machine",
            "Reads this machine from /proc and /sys, without root, and whether it is in order",
            {{"--root", "Read below this folder instead of /", &o->root},
             {"--checklist", "How the points of the checklist stand", &o->checks},
             {"-o,--output", "Write it as a machine description, TOML", &o->output},
             forceOption(o->force),
             {"--json", "Machine-readable, docs/formats.md", &o->json}},
            [o] { return machineOf(*o); }};
}

} // namespace impasto::cli
