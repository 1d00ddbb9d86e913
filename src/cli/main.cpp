// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands.h"

#include <CLI/CLI.hpp>
#include <impasto/base/file.h>

namespace impasto::cli {

int failed(const Error& error) {
    fmt::print(stderr, "{}\n", report::Wording().error(error).all());
    return 1;
}

Result<machine::Machine> loadMachine(const std::string& path) {
    const auto text = readFile(path, 1U << 22U);
    if (!text) return tl::unexpected(text.error());
    return machine::parseMachine(*text, path);
}

Result<game::Game> loadGame(const std::string& path) {
    const auto text = readFile(path, 1U << 22U);
    if (!text) return tl::unexpected(text.error());
    return game::parseGame(*text, path);
}

} // namespace impasto::cli

int main(int argc, char** argv) {
    using namespace impasto::cli;
    CLI::App app{
        "Tunes one game on one machine: measures frame times, finds what limits them, chooses settings and a cap."};
    app.set_version_flag("--version", IMPASTO_VERSION);
    app.require_subcommand(1);
    int code = 0;

    SummarizeOptions summary;
    auto* s = app.add_subcommand("summarize", "Average, lows and hitches of frame logs (CSV or TSV of any tool)");
    s->add_option("logs", summary.logs, "Frame logs")->required();
    s->add_option("--target", summary.targetFps, "Rate to hold, fps")->check(CLI::Range(1.0, 2000.0));
    s->add_option("--school", summary.school, "School of the lows")
        ->check(CLI::IsMember({"percentile", "worst-mean", "time-share"}));
    s->add_option("--dialect", summary.dialect, "How to read the logs, as printed and corrected");
    s->add_option("--hitch-ratio", summary.hitch.ratio, "A hitch is over so many times its neighbours' median")
        ->check(CLI::Range(1.0, 10.0));
    s->add_option("--hitch-excess", summary.hitch.excessMs, "and so many ms above it")->check(CLI::Range(0.0, 1000.0));
    s->add_flag("--json", summary.json, "Machine-readable, docs/formats.md");
    s->callback([&] { code = summarize(summary); });

    CompareOptions comparison;
    auto* c = app.add_subcommand("compare", "Two variants side by side: logs before, --vs logs after");
    c->add_option("before", comparison.before, "Frame logs of the first variant, one a run")->required();
    c->add_option("--vs", comparison.after, "Frame logs of the second variant, one a run")->required();
    c->add_option("--target", comparison.targetFps, "Rate to hold, fps")->check(CLI::Range(1.0, 2000.0));
    c->add_option("--school", comparison.school, "School of the lows")
        ->check(CLI::IsMember({"percentile", "worst-mean", "time-share"}));
    c->add_option("--margin", comparison.marginPercent, "Difference of the average that does not matter, percent")
        ->check(CLI::Range(0.01, 50.0));
    c->add_option("--precision", comparison.precisionPercent,
                  "Says how many runs a side bring the averages to +- so many percent")
        ->check(CLI::Range(0.01, 50.0));
    c->add_flag("--json", comparison.json, "Machine-readable, docs/formats.md");
    c->callback([&] { code = compare(comparison); });

    SimulateOptions simulation;
    auto* m = app.add_subcommand("simulate", "Records one run on the simulated rig");
    m->add_option("--machine", simulation.machine, "Machine description, TOML")->required();
    m->add_option("--game", simulation.game, "Game description, TOML")->required();
    m->add_option("--set", simulation.set, "setting=level, may be repeated; all else is the first preset");
    m->add_option("--preset", simulation.preset, "Preset to start from; the first one otherwise");
    m->add_option("--route", simulation.route, "Route to play; the first one otherwise");
    m->add_option("--seconds", simulation.seconds, "Of the route")->check(CLI::Range(1.0, 36000.0));
    m->add_option("--resolution", simulation.resolution, "Of the output, such as 2560x1440");
    m->add_option("--cap", simulation.capFps, "Cap, fps")->check(CLI::Range(1.0, 2000.0));
    m->add_option("--idle-cap", simulation.idleCapFps, "Cap while nothing moves, fps")->check(CLI::Range(1.0, 2000.0));
    m->add_option("--limiter", simulation.limiter, "Where the cap is held")
        ->check(CLI::IsMember({"engine", "present", "driver", "compositor"}));
    m->add_option("--sync", simulation.sync, "When a frame is shown")
        ->check(CLI::IsMember({"none", "fixed", "latest", "variable", "variable-tearing"}));
    m->add_option("--refresh", simulation.refreshHz, "Mode of the panel, Hz");
    m->add_option("--upscaler", simulation.upscaler, "Kind")
        ->check(CLI::IsMember({"spatial", "temporal", "learned", "engine"}));
    m->add_option("--ratio", simulation.ratio, "Of the upscaler, per axis; 1.5 otherwise");
    m->add_option("--sharpening", simulation.sharpening, "Strength, 0 to 1");
    m->add_option("--generation", simulation.generation, "Frame generation, kind")
        ->check(CLI::IsMember({"built-in", "driver", "external"}));
    m->add_option("--multiplier", simulation.multiplier, "Shown frames a rendered one");
    m->add_option("--generation-target", simulation.generationTargetFps, "Shown rate to come near, fps");
    m->add_flag("--second-gpu", simulation.secondGpu, "Generate on the second GPU");
    m->add_flag("--direct", simulation.direct, "Past the copy route");
    m->add_option("--fans", simulation.fans, "Fan profile")->check(CLI::IsMember({"automatic", "quiet", "full"}));
    m->add_option("--plan", simulation.plan, "Power plan")->check(CLI::IsMember({"balanced", "performance", "saving"}));
    m->add_option("--supply", simulation.supply, "Power")->check(CLI::IsMember({"mains", "battery"}));
    m->add_option("--warm-up", simulation.warmUpSeconds, "Seconds played before the recording")
        ->check(CLI::Range(0.0, 3600.0));
    m->add_flag("--driver-updated", simulation.driverUpdated, "The first run after an update");
    m->add_flag("--fresh", simulation.fresh, "The first run ever: no shader is compiled");
    m->add_option("--seed", simulation.seed, "Seed of the run");
    m->add_option("-o,--output", simulation.out, "Capture file to write")->required();
    m->callback([&] { code = simulate(simulation); });

    auto* r = app.add_subcommand("rig", "The simulated rig: practice machines and games, and what it hides");
    r->require_subcommand(1);
    RigDrawOptions drawing;
    auto* draw = r->add_subcommand("draw", "Draws a machine and a game at random and writes their descriptions");
    draw->add_option("--seed", drawing.seed, "Seed of the draw");
    draw->add_option("-o,--output", drawing.folder, "Folder to write to");
    draw->callback([&] { code = rigDraw(drawing); });
    RigDescribeOptions describing;
    auto* describe = r->add_subcommand("describe", "True costs of every level, to check what was measured");
    describe->add_option("--machine", describing.machine, "Machine description, TOML")->required();
    describe->add_option("--game", describing.game, "Game description, TOML")->required();
    describe->add_option("--target", describing.targetFps, "Rate to hold: the best values for it, at true costs")
        ->check(CLI::Range(10.0, 1000.0));
    describe->callback([&] { code = rigDescribe(describing); });

    TuneOptions tuning;
    auto* t = app.add_subcommand("tune", "The whole path on the simulated rig: brake, costs, choice, cap, proof");
    t->add_option("--machine", tuning.machine, "Machine description, TOML")->required();
    t->add_option("--game", tuning.game, "Game description, TOML")->required();
    t->add_option("--target", tuning.targetFps, "Rate to hold, fps")->required()->check(CLI::Range(10.0, 1000.0));
    t->add_option("--floor", tuning.floorFps, "Lowest bearable 1% low, fps")->check(CLI::Range(1.0, 1000.0));
    t->add_option("--style", tuning.style, "What matters most")
        ->check(CLI::IsMember({"competitive", "cinematic", "battery", "weak-machine", "headset", "quiet"}));
    t->add_option("--seed", tuning.seed, "Seed of the session");
    t->add_flag("--json", tuning.json, "Machine-readable, docs/formats.md");
    t->callback([&] { code = tune(tuning); });

    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? 0 : 2;
    }
    return code;
}
