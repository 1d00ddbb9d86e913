// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.h"

#include <impasto/base/file.h>
#include <impasto/base/shown.h>
#include <impasto/exports/json.h>
#include <impasto/limits/pairs.h>
#include <impasto/limits/tested.h>
#include <impasto/wording/limits.h>
#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>

namespace impasto::cli {
namespace {

struct LimitsOptions {
    std::vector<std::string> logs;
    std::string machine;
    std::optional<double> capFps, refreshHz;
    std::vector<std::string> decided; // logs of deciding runs
    std::string test;                 // what they changed
    std::vector<std::string> against; // logs of another state
    bool together = false, json = false;
};

using Captures = std::vector<std::shared_ptr<const capture::Capture>>;

/// Those that can be read, with their names; what cannot is told.
Captures readAll(const std::vector<std::string>& paths, std::vector<std::string>& names, int& code) {
    Captures out;
    for (const auto& path : paths) {
        auto capture = readLogOrInput(path, {});
        if (!capture) {
            code = failed(capture.error());
            continue;
        }
        out.push_back(std::make_shared<const capture::Capture>(std::move(*capture)));
        names.push_back(path);
    }
    return out;
}

/// The panel that is known: the machine's, with the mode that was said.
std::optional<display::Panel> panelOf(const std::optional<machine::Machine>& machine, const LimitsOptions& options) {
    std::optional<display::Panel> panel;
    if (machine && machine->panel.refresh.value() > 0) panel = machine->panel;
    if (options.refreshHz) {
        if (!panel) panel.emplace();
        panel->refresh = Hertz(*options.refreshHz);
    }
    return panel;
}

void print(const exports::LimitedLog& log) {
    const wording::Words w;
    fmt::print("{}\n", shown(log.name));
    for (std::size_t i = 0; i < log.parts.size(); ++i) {
        const auto& v = log.parts[i];
        fmt::print("  {} ({:.1f} to {:.1f} s, {} fps)\n", shown(wording::part(w, v.part)), v.fromMs / 1000,
                   v.toMs / 1000, wording::fps(v.rate.value()));
        fmt::print("    {}\n", wording::bottleneck(w, v));
        if (v.cpu || v.gpu)
            fmt::print("    a frame takes {} ms{}{}\n", wording::ms(v.periodMs),
                       v.cpu ? fmt::format(", CPU {} ms", wording::ms(v.cpu->meanMs)) : std::string(),
                       v.gpu ? fmt::format(", GPU {} ms", wording::ms(v.gpu->meanMs)) : std::string());
        if (!v.facts.empty()) fmt::print("    {}\n", wording::facts(w, v.facts));
        for (const auto& s : v.suspicions) {
            fmt::print("    {} {}\n", wording::causeLine(w, s), wording::facts(w, s.evidence));
            if (!s.against.empty()) fmt::print("      against it: {}\n", wording::facts(w, s.against));
        }
        for (const auto& t : v.tested)
            fmt::print("    {}, fps: {}\n", wording::testName(w, t.test), wording::testedLine(w, t));
        fmt::print("    {}\n", wording::bottleneckTest(w, v));
        for (const auto& s : v.suspicions)
            if (const auto test = limits::testOf(s.cause); test != v.test())
                fmt::print("    {}\n", wording::decidingTest(w, test, v.brake));
        for (const auto& each : log.whatIfs[i])
            fmt::print("    what if, {}: {} fps, {} to {}\n", wording::changeName(w, each),
                       wording::fps(each.rate.value()), wording::fps(each.low.value()),
                       wording::fps(each.high.value()));
    }
}

void print(const std::vector<limits::PairFinding>& found, std::size_t runs) {
    const wording::Words w;
    fmt::print("{}\n", runs == 1 ? w.say("held against one run") : w.say("held against {} runs", runs));
    for (const auto& f : found) fmt::print("  {} {} sure\n", wording::pairFinding(w, f), wording::percent(f.sure));
    if (found.empty()) fmt::print("  {}\n", w.say("Nothing stands out besides the figures: compare tells them."));
}

int limitsOf(const LimitsOptions& options) {
    std::optional<machine::Machine> machine;
    if (!options.machine.empty()) {
        const auto text = readFile(options.machine, std::size_t{1} << 22U);
        if (!text) return failed(text.error());
        auto parsed = machine::parseMachine(*text, options.machine);
        if (!parsed) return failed(parsed.error());
        machine = std::move(*parsed);
    }
    if (options.decided.empty() != options.test.empty())
        return failed({ErrorCode::MissingKey, options.test.empty() ? "--test" : "--decided-by", {}, Kept::AllAsBefore});
    const auto panel = panelOf(machine, options);
    run::Variant variant;
    if (options.capFps) variant.cap = Fps(*options.capFps);
    if (options.refreshHz) variant.sync = run::Sync::Fixed;
    std::vector<std::string> names, otherNames;
    int code = 0;
    const auto captures = readAll(options.logs, names, code), decided = readAll(options.decided, otherNames, code),
               against = readAll(options.against, otherNames, code);
    std::vector<exports::LimitedLog> out;
    const auto judged = [&](std::span<const std::shared_ptr<const capture::Capture>> runs) {
        auto parts = limits::judge(runs, variant, panel, 0.97, {}, {machine ? &*machine : nullptr, {}});
        if (const auto test = limits::decidingTestOf(options.test))
            limits::applyTested(parts, limits::compareTested(*test, runs, decided));
        std::vector<std::vector<limits::WhatIf>> whatIfs;
        for (const auto& part : parts) whatIfs.push_back(limits::whatIfsOf(part, runs));
        return exports::LimitedLog{{}, std::move(parts), std::move(whatIfs)};
    };
    if (options.together && !captures.empty()) out.push_back(judged(captures));
    for (std::size_t i = 0; i < captures.size() && !options.together; ++i) out.push_back(judged({&captures[i], 1}));
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i].name = options.together ? wording::listed(wording::Words(), names) : names[i];
    std::optional<std::vector<limits::PairFinding>> found;
    if (!against.empty() && !captures.empty())
        found = limits::heldAgainst(captures, against, variant, panel, machine ? &*machine : nullptr);
    if (options.json) {
        fmt::print("{}\n", exports::limitsOfLogsJson(out, found));
        return code;
    }
    for (const auto& log : out) print(log);
    if (found) print(*found, against.size());
    return code;
}

std::vector<std::string> testKeys() {
    std::vector<std::string> keys;
    for (const auto test : limits::playedTests) keys.emplace_back(limits::keyOf(test));
    return keys;
}

} // namespace

Command limitsCommand() {
    const auto o = std::make_shared<LimitsOptions>();
    return {"limits",
            "What limits each part of a run, on what evidence, and the run that would decide",
            {{"logs", "Frame logs", &o->logs, {}, {}, true},
             {"--machine", "Machine description, TOML: memory, wiring and panel", &o->machine},
             {"--cap", "The cap that was set, fps", &o->capFps, std::pair(1.0, 2000.0)},
             {"--refresh", "Refresh rate under fixed sync, Hz", &o->refreshHz, std::pair(10.0, 2000.0)},
             {"--together", "The logs are runs of one variant: one answer for all of them", &o->together},
             {"--decided-by", "Frame logs of runs with one change", &o->decided},
             {"--test", "The change of these runs", &o->test, {}, testKeys()},
             {"--vs", "Frame logs of another state, to find what was not applied, first sight, the copy route",
              &o->against},
             {"--json", "Machine-readable, docs/formats.md", &o->json}},
            [o] { return limitsOf(*o); }};
}

} // namespace impasto::cli
