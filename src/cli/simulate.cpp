// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.h"
#include "described.h"

#include <impasto/logs/import.h>
#include <impasto/rig_sim/simulated.h>
#include <impasto/run/conditions.h>

namespace impasto::cli {
namespace {

struct SimulateOptions {
    std::string machine, game, out;
    std::string preset, route;    // empty: the first
    std::vector<std::string> set; // setting=level
    std::optional<double> seconds;
    bool fresh = false, force = false;
    std::uint64_t seed = 1;
    std::map<std::string, std::string> conditions; // by their keys; empty: as usual
};

Error unknown(const std::string& what, const std::string& option) {
    return {ErrorCode::UnknownName, what, {{}, {}, {}, option}};
}

Result<game::Values> valuesOf(const game::Game& game, const SimulateOptions& options) {
    const auto* preset = options.preset.empty() ? &game.presets.front() : game.preset(options.preset);
    if (preset == nullptr) return tl::unexpected(unknown(options.preset, "preset"));
    game::Values values = preset->values;
    for (const auto& each : options.set) {
        const auto equals = each.find('=');
        if (equals == std::string::npos) return fail(ErrorCode::BadValue, "setting=level", {{}, {}, {}, each});
        values[each.substr(0, equals)] = each.substr(equals + 1);
    }
    if (const auto known = game::checkValues(game, values); !known) return tl::unexpected(known.error());
    return values;
}

Result<run::Order> orderOf(const Described& described, const SimulateOptions& options) {
    run::Order order;
    auto values = valuesOf(described.game, options);
    if (!values) return tl::unexpected(values.error());
    order.variant.values = std::move(*values);
    order.variant.resolution = described.machine.panel.native;
    for (const auto& condition : run::conditions()) {
        const auto it = options.conditions.find(condition.key);
        if (it == options.conditions.end() || it->second.empty()) continue;
        if (!condition.write(order, it->second))
            return fail(ErrorCode::BadValue, "one that applies here", {{}, {}, {}, condition.option});
    }
    const auto* route = options.route.empty() ? &described.game.routes.front() : described.game.route(options.route);
    if (route == nullptr) return tl::unexpected(unknown(options.route, "route"));
    order.route = route->name;
    order.seconds = options.seconds.value_or(route->seconds());
    if (order.seconds > route->seconds())
        return fail(ErrorCode::OutOfRange, fmt::format("1 to {} s, the length of the route", route->seconds()),
                    {{}, {}, {}, "--seconds"});
    order.seed = options.seed;
    return order;
}

int simulate(const SimulateOptions& options) {
    const auto described = readDescribed(options.machine, options.game);
    if (!described) return failed(described.error());
    const auto order = orderOf(*described, options);
    if (!order) return failed(order.error());
    const auto rig = rig_sim::simulatedRig(described->originals, described->machine, described->game);
    if (!rig) return failed(rig.error());
    auto recording = (*rig)->record(*order, {options.fresh ? 0.0 : 1.0}, {}, {});
    if (!recording) return failed(recording.error());
    recording->capture.notes["variant"] = run::canonicalText(order->variant);
    recording->capture.notes["seed"] = std::to_string(options.seed);
    if (const auto written = writeOutput(options.out, logs::writeCsv(recording->capture), options.force); !written)
        return failed(written.error());
    fmt::print("{} frames to {}\n", recording->capture.frames(), options.out);
    if (recording->crashed) return failed({ErrorCode::GameCrashed, {}, {}, Kept::FramesUntilHere});
    return 0;
}

} // namespace

Command simulateCommand() {
    const auto o = std::make_shared<SimulateOptions>();
    Command command{"simulate",
                    "Records one run on the simulator",
                    {{"--machine", "Machine description, TOML", &o->machine, {}, {}, true},
                     {"--game", "Game description, TOML", &o->game, {}, {}, true},
                     {"--set", "setting=level, may be repeated; all else is the first preset", &o->set},
                     {"--preset", "Preset to start from; the first one otherwise", &o->preset},
                     {"--route", "Route to play; the first one otherwise", &o->route},
                     {"--seconds", "Of the route", &o->seconds, std::pair(1.0, 36000.0)},
                     {"--fresh", "The first run ever: no shader is compiled", &o->fresh},
                     {"--seed", "Seed of the run", &o->seed},
                     {"-o,--output", "Capture file to write", &o->out, {}, {}, true},
                     forceOption(o->force)},
                    [o] { return simulate(*o); }};
    for (const auto& condition : run::conditions())
        command.options.push_back(
            {condition.option, condition.help, &o->conditions, {}, condition.texts, false, condition.key});
    return command;
}

} // namespace impasto::cli
