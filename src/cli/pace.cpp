// SPDX-License-Identifier: GPL-3.0-or-later
// Caps, frame generation and headsets, from logs of one set of settings without a cap.
#include "command.h"

#include <cmath>
#include <impasto/base/file.h>
#include <impasto/base/text.h>
#include <impasto/exports/pace_json.h>
#include <impasto/wording/bounds.h>
#include <impasto/wording/generation.h>
#include <impasto/wording/headset.h>
#include <impasto/wording/numbers.h>
#include <impasto/wording/pace.h>
#include <impasto/wording/power.h>

namespace impasto::cli {
namespace {

struct PaceOptions {
    std::vector<std::string> logs;
    std::string machine, panel, range, steering, style = "cinematic", lows = "worst-mean";
    std::optional<double> target, shown, floor, refreshHz;
    run::BoundFigures bounds;
    bool builtIn = false, small = false, json = false;
};

struct Read {
    pace::Replay replay;
    pace::CapRules rules;
    std::optional<machine::Machine> machine;
    std::optional<pace::Power> power; // as far as the logs tell
};

Result<std::optional<display::Panel>> panelOf(const PaceOptions& o, const std::optional<machine::Machine>& machine) {
    std::optional<display::Panel> panel;
    if (machine && machine->panel.refresh.value() > 0) panel = machine->panel;
    if (o.refreshHz) {
        if (!panel) panel.emplace();
        panel->refresh = Hertz(*o.refreshHz);
    }
    if (!o.panel.empty()) {
        const auto size = display::parseResolution(o.panel);
        if (!size) return fail(ErrorCode::BadValue, "width x height, such as 2560x1440", {{}, {}, {}, "--panel"});
        if (!panel) return fail(ErrorCode::MissingKey, "--refresh");
        panel->native = *size;
    }
    if (!o.range.empty()) {
        const auto dash = o.range.find('-');
        const auto low = parseDouble(o.range.substr(0, dash));
        const auto high = dash == std::string::npos ? std::nullopt : parseDouble(o.range.substr(dash + 1));
        if (!low || !high || !(*low > 0) || !(*high > *low))
            return fail(ErrorCode::BadValue, "low-high in Hz, such as 48-144", {{}, {}, {}, "--range"});
        if (!panel) panel.emplace();
        if (!(panel->refresh.value() > 0)) panel->refresh = Hertz(*high);
        panel->variable = display::RefreshRange{Hertz(*low), Hertz(*high)};
    }
    return panel;
}

Result<Read> read(const PaceOptions& o) {
    Read out;
    const std::string rulesPath = shipped("cap_rules.toml");
    if (const auto text = readFile(rulesPath)) {
        auto rules = pace::parseCapRules(*text, rulesPath);
        if (!rules) return tl::unexpected(rules.error());
        out.rules = *rules;
    }
    if (!o.machine.empty()) {
        const auto text = readFile(o.machine, std::size_t{1} << 22U);
        if (!text) return tl::unexpected(text.error());
        auto machine = machine::parseMachine(*text, o.machine);
        if (!machine) return tl::unexpected(machine.error());
        out.machine = std::move(*machine);
    }
    const auto panel = panelOf(o, out.machine);
    if (!panel) return tl::unexpected(panel.error());
    run::Brief brief;
    brief.style = *run::styleOf(o.style);
    brief.steering = run::steeringOf(o.steering);
    brief.lowRule = *stats::lowRuleOf(o.lows);
    if (o.floor) brief.lowestLow = Fps(*o.floor);
    brief.bounds = o.bounds;
    if (o.shown) brief.shown = Fps(*o.shown);
    std::vector<capture::Capture> captures;
    for (const auto& path : o.logs) {
        auto capture = readLogOrInput(path, {});
        if (!capture) return tl::unexpected(capture.error());
        captures.push_back(std::move(*capture));
    }
    std::vector<pace::UncappedRun> runs;
    for (const auto& capture : captures) runs.push_back({&capture, {}});
    const double average =
        1000 * static_cast<double>(captures.front().frames()) / capture::durationMs(captures.front());
    brief.target =
        Fps(o.target.value_or(*panel && (*panel)->headset ? (*panel)->refresh.value() : std::floor(0.9 * average)));
    const auto clocks = o.small ? pace::Clocks::Small : pace::clocksOf(captures.front(), {}, brief.style);
    auto replay = pace::replayOf(runs, *panel, brief, clocks);
    if (!replay) return fail(ErrorCode::NoFrames, o.logs.front());
    const auto output = *panel && (*panel)->native.widthPx > 0 ? (*panel)->native : display::Resolution{1920, 1080};
    replay->generation = pace::usualCosts(output, out.machine ? &*out.machine : nullptr);
    std::vector<pace::Drawn> drawn;
    for (const auto& capture : captures)
        if (const auto each = pace::drawnIn(capture)) drawn.push_back(*each);
    if (const auto mean = pace::meanOf(drawn)) {
        out.power = pace::Power{{{std::nullopt, *mean}}, clocks};
        out.power->batteryWh = pace::batteryOf(out.machine ? &*out.machine : nullptr);
    }
    out.replay = std::move(*replay);
    return out;
}

int caps(const PaceOptions& o) {
    const auto in = read(o);
    if (!in) return failed(in.error());
    const auto offers = pace::offers(in->replay, in->rules, {}, in->power);
    if (o.json) {
        fmt::print("{}\n", exports::capsJson(in->replay, offers, in->power, in->rules.power));
        return 0;
    }
    const wording::Words w;
    const auto& brief = in->replay.brief;
    fmt::print("target {} fps; average without a cap {} fps; {}\n", wording::wishFps(brief.target),
               wording::fps(in->replay.average().value()),
               in->replay.lanes ? fmt::format("{} frames in flight", in->replay.framesInFlight)
                                : w.say("frame times only: wider bands, no latency"));
    for (const auto& offer : offers.all) {
        fmt::print("{}\n", wording::capRule(w, offer.school));
        if (!offer.applies) {
            fmt::print("  {}\n", w.say("not applicable here"));
            continue;
        }
        fmt::print("  {}{}\n", wording::capPlan(w, offer.plan, in->replay.panel),
                   offer.conflict ? ": " + wording::capConflict(w, *offer.conflict) : std::string());
        const auto& p = offer.prediction;
        for (const auto& [name, figure] : {std::pair("average", pace::Figure::Average),
                                           {"1% low", pace::Figure::OnePercentLow},
                                           {"0.1% low", pace::Figure::TenthPercentLow},
                                           {"slowest second", pace::Figure::SlowestSecond},
                                           {"on time, worst part", pace::Figure::OnTime}})
            fmt::print("  {:20} {}\n", name, wording::capBand(w, figure, p.of(figure)));
        if (p.latencyMs) fmt::print("  {:20} {} ms\n", "latency", wording::ms(*p.latencyMs));
        for (const auto& held : offer.places)
            fmt::print("  {:20} {}\n", w.say("applied in {}", wording::limiterPlace(w, held.place)),
                       wording::limiterFigures(w, held));
        for (const auto bound : run::allBounds)
            if (const auto &asked = brief.bounds[bound], &is = offer.bounds[bound]; asked)
                fmt::print("  {:20} {}{}\n", "asked", wording::boundAsked(w, bound, *asked),
                           !is                                   ? ""
                           : run::missOf(bound, *asked, *is) > 0 ? ": missed"
                                                                 : ": kept");
        if (in->power) {
            const auto draws = pace::drawsAt(*in->power, p.average(), in->rules.power);
            fmt::print("  {:20} {}, {}\n", "power", wording::watts(w, draws.watts),
                       wording::powerOf(w, in->power->uncapped().of));
            if (draws.celsius) fmt::print("  {:20} {}\n", "GPU, settled", wording::celsius(w, *draws.celsius));
            if (draws.fan) fmt::print("  {:20} {}\n", "fan", wording::fan(w, *draws.fan));
            if (draws.hours) fmt::print("  {:20} {}\n", "battery lasts", wording::hours(w, *draws.hours));
        }
        const auto loses = wording::capLoses(w, brief, offer, offers.all.front());
        if (!loses.empty()) fmt::print("  {}\n", loses);
    }
    return 0;
}

int generate(const PaceOptions& o) {
    const auto in = read(o);
    if (!in) return failed(in.error());
    const auto plan =
        pace::planGeneration(in->replay, in->rules, o.builtIn, in->machine && !in->machine->secondGpu.empty());
    if (o.json) {
        fmt::print("{}\n", exports::generationJson(in->replay, plan));
        return 0;
    }
    const wording::Words w;
    if (plan.offers.empty()) {
        fmt::print("{}\n", w.say("Without CPU and GPU work, or on a headset, no plan can be made."));
        return 0;
    }
    for (const auto& offer : plan.offers) {
        fmt::print("{}, {}\n  {}", wording::generationLine(w, offer), wording::generationPlace(w, offer.generation()),
                   wording::generationKeepsUp(w, offer));
        if (offer.latencyMs) fmt::print("; latency {} ms", wording::ms(*offer.latencyMs));
        const auto misses = wording::generationMisses(w, in->replay.brief, offer);
        fmt::print("{}\n", misses.empty() ? std::string() : "; " + misses);
    }
    fmt::print("{}\n", plan.costs.measured ? w.say("Costs measured.") : wording::whyGeneration(w, plan).sure);
    return 0;
}

int headset(const PaceOptions& o) {
    const auto in = read(o);
    if (!in) return failed(in.error());
    const auto& panel = in->replay.panel;
    if (!panel || !panel->headset) return failed({ErrorCode::MissingKey, "headset", {o.machine, {}, {}, "panel"}});
    const auto mode = pace::headsetMode(panel, in->replay.brief.target).value_or(panel->refresh);
    const auto rates = pace::wornRates(in->replay);
    const auto foveation = pace::foveationOf(in->replay, mode);
    if (o.json) {
        fmt::print("{}\n", exports::headsetJson(rates, foveation, mode));
        return 0;
    }
    const wording::Words w;
    for (const auto& rate : rates)
        fmt::print("{:4.0f} Hz  on time {} in the worst part; full {}, half {}, third {} of the time\n",
                   rate.mode.value(), wording::percent(rate.onTime), wording::percent(rate.full),
                   wording::percent(rate.half), wording::percent(rate.third));
    if (foveation)
        fmt::print("foveation: {}\n  {}\n", wording::foveationVerdict(w, foveation->advice),
                   wording::foveationReason(w, *foveation, mode));
    for (const auto& caution : wording::headsetCautions(w)) fmt::print("{}\n", caution);
    return 0;
}

std::vector<Option> optionsOf(PaceOptions& o) {
    std::vector<std::string> styles;
    for (const auto style : run::allStyles) styles.emplace_back(run::keyOf(style));
    std::vector<Option> out{
        {"logs", "Frame logs of one set of settings, without a cap", &o.logs, {}, {}, true},
        {"--machine", "Machine description, TOML: panel, second GPU", &o.machine},
        {"--panel", "Native resolution, such as 2560x1440", &o.panel},
        {"--refresh", "Refresh rate, Hz", &o.refreshHz, std::pair(10.0, 2000.0)},
        {"--range", "Variable range, Hz, such as 48-144", &o.range},
        {"--target", "Target, rendered fps; 0.9 of the average otherwise", &o.target, std::pair(10.0, 1000.0)},
        {"--floor", "Lowest acceptable 1% low, fps", &o.floor, std::pair(1.0, 1000.0)},
        {"--style", "What matters most", &o.style, {}, styles},
        steeringOption(o.steering),
        lowsOption(o.lows),
        {"--small", "A handheld, or a machine on battery: its clocks fall under a cap", &o.small},
        {"--json", "Machine-readable, docs/formats.md", &o.json}};
    for (auto& bound : boundOptions(o.bounds)) out.push_back(std::move(bound));
    return out;
}

} // namespace

std::vector<Command> paceCommands() {
    const auto o = std::make_shared<PaceOptions>(), g = std::make_shared<PaceOptions>(),
               h = std::make_shared<PaceOptions>();
    auto planned = optionsOf(*g);
    planned.push_back({"--shown", "Rate to be shown, invented frames among them", &g->shown, std::pair(10.0, 2000.0)});
    planned.push_back({"--built-in", "The game has frame generation", &g->builtIn});
    return {{"pace", "What caps do to these frames, every rule side by side", optionsOf(*o), [o] { return caps(*o); }},
            {"generate", "Plans with invented frames: kinds, multipliers, base caps", planned,
             [g] { return generate(*g); }},
            {"headset", "Which refresh a headset holds, and whether foveation pays", optionsOf(*h),
             [h] { return headset(*h); }}};
}

} // namespace impasto::cli
