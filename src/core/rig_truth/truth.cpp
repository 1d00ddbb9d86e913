// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/rig_truth/truth.h>

#include <impasto/rig_model/model.h>

namespace impasto::rig_truth {

Result<LaneWork> partWork(const machine::Machine& machine, const game::Game& game, const run::Variant& variant,
                          const std::string& part) {
    const auto model = rig_model::readModel(machine, game);
    if (!model) return tl::unexpected(model.error());
    const auto w = rig_model::workOf(*model, machine, game, variant, part);
    return LaneWork{w.cpuMs, w.gpuMs, w.gpuMemoryMib, w.systemMemoryMib};
}

Result<LaneWork> routeWork(const machine::Machine& machine, const game::Game& game, const run::Variant& variant,
                           const std::string& routeName) {
    const auto* route = game.route(routeName);
    if (route == nullptr) return fail(ErrorCode::UnknownName, routeName, {{}, {}, {}, "route"});
    LaneWork sum;
    for (const auto& part : route->parts) {
        const auto w = partWork(machine, game, variant, part.name);
        if (!w) return w;
        const double share = part.seconds / route->seconds();
        sum.cpuMs += share * w->cpuMs;
        sum.gpuMs += share * w->gpuMs;
        sum.gpuMemoryMib += share * w->gpuMemoryMib;
        sum.systemMemoryMib += share * w->systemMemoryMib;
    }
    return sum;
}

} // namespace impasto::rig_truth
