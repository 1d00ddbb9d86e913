// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands.h"

#include <impasto/base/file.h>
#include <impasto/capture/import.h>
#include <impasto/rig/rig.h>

namespace impasto::cli {
namespace {

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

Result<run::Variant> variantOf(const machine::Machine& machine, const game::Game& game,
                               const SimulateOptions& options) {
    run::Variant v;
    auto values = valuesOf(game, options);
    if (!values) return tl::unexpected(values.error());
    v.values = std::move(*values);
    v.resolution = machine.panel.native;
    if (!options.resolution.empty()) {
        const auto resolution = display::parseResolution(options.resolution);
        if (!resolution) return fail(ErrorCode::BadValue, "a resolution such as 2560x1440", {{}, {}, {}, "resolution"});
        v.resolution = *resolution;
    }
    if (options.capFps) v.cap = Fps(*options.capFps);
    if (options.idleCapFps) v.idleCap = Fps(*options.idleCapFps);
    v.limiter = *run::limiterPlaceOf(options.limiter); // the parser of the options knows the keys
    v.sync = *run::syncOf(options.sync);
    if (options.refreshHz) v.refresh = Hertz(*options.refreshHz);
    if (!options.upscaler.empty())
        v.upscaling = run::Upscaling{*game::upscalerKindOf(options.upscaler), options.ratio.value_or(1.5)};
    v.sharpening = options.sharpening;
    if (!options.generation.empty()) {
        v.generation = run::Generation{*run::generationKindOf(options.generation), options.multiplier};
        if (options.generationTargetFps) v.generation->target = Fps(*options.generationTargetFps);
        v.generation->onSecondGpu = options.secondGpu;
    }
    v.direct = options.direct;
    return v;
}

} // namespace

int simulate(const SimulateOptions& options) {
    const auto machine = loadMachine(options.machine);
    if (!machine) return failed(machine.error());
    const auto game = loadGame(options.game);
    if (!game) return failed(game.error());
    auto variant = variantOf(*machine, *game, options);
    if (!variant) return failed(variant.error());
    const auto* route = options.route.empty() ? &game->routes.front() : game->route(options.route);
    if (route == nullptr) return failed(unknown(options.route, "route"));
    const auto rig = rig::simulatedRig(*machine, *game);
    if (!rig) return failed(rig.error());
    run::Order order;
    order.variant = std::move(*variant);
    order.route = route->name;
    order.seconds = options.seconds.value_or(route->seconds());
    order.conditions = {*run::fanProfileOf(options.fans), *run::powerPlanOf(options.plan),
                        *run::supplyOf(options.supply), options.warmUpSeconds, options.driverUpdated};
    order.seed = options.seed;
    auto recording = (*rig)->record(order, {options.fresh ? 0.0 : 1.0}, {}, {});
    if (!recording) return failed(recording.error());
    recording->capture.notes["variant"] = run::canonicalText(order.variant);
    recording->capture.notes["seed"] = std::to_string(options.seed);
    if (const auto written = writeFileAtomically(options.out, capture::writeCsv(recording->capture)); !written)
        return failed(written.error());
    fmt::print("{} frames to {}\n", recording->capture.frames(), options.out);
    if (recording->crashed) return failed({ErrorCode::GameCrashed, {}, {}, Kept::FramesUntilHere});
    return 0;
}

} // namespace impasto::cli
