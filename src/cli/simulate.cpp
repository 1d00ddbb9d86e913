// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands.h"

#include <impasto/base/file.h>
#include <impasto/capture/import.h>
#include <impasto/rig/rig.h>

namespace impasto::cli {
namespace {

Result<game::Values> valuesOf(const game::Game& game, const std::vector<std::string>& set) {
    game::Values values = game.presets.front().values;
    for (const auto& each : set) {
        const auto equals = each.find('=');
        if (equals == std::string::npos) return fail(ErrorCode::BadValue, "setting=level", {{}, {}, {}, each});
        values[each.substr(0, equals)] = each.substr(equals + 1);
    }
    if (const auto known = game::checkValues(game, values); !known) return tl::unexpected(known.error());
    return values;
}

} // namespace

int simulate(const SimulateOptions& options) {
    const auto machine = loadMachine(options.machine);
    if (!machine) return failed(machine.error());
    const auto game = loadGame(options.game);
    if (!game) return failed(game.error());
    const auto values = valuesOf(*game, options.set);
    if (!values) return failed(values.error());
    const auto rig = rig::simulatedRig(*machine, *game);
    if (!rig) return failed(rig.error());
    run::Order order;
    order.variant = {*values, machine->panel.native, {}, run::Sync::None};
    if (options.capFps) order.variant.cap = Fps(*options.capFps);
    order.route = game->routes.front().name;
    order.seconds = game->routes.front().seconds();
    order.seed = options.seed;
    auto recording = (*rig)->record(order, {true}, {}, {});
    if (!recording) return failed(recording.error());
    recording->capture.notes["variant"] = run::canonicalText(order.variant);
    recording->capture.notes["seed"] = std::to_string(options.seed);
    if (const auto written = writeFileAtomically(options.out, capture::writeCsv(recording->capture)); !written)
        return failed(written.error());
    fmt::print("{} frames to {}\n", recording->capture.frames(), options.out);
    return 0;
}

} // namespace impasto::cli
