// SPDX-License-Identifier: GPL-3.0-or-later
// What is believed of a game with upscalers after a few runs at their true costs, for several tests.
#pragma once

#include "support/support.h"

#include <impasto/choose/front.h>
#include <impasto/rig_truth/truth.h>

namespace impasto::choose {

using namespace support;

inline game::Game upscaledGame() {
    return gameNamed("rainmarket.toml");
}

/// Held, since else there are too many sets to try; and what the test holds besides.
inline Allowed heldAnd(const cost::Layout& layout, const game::Game& game, game::Values locked) {
    for (const char* id : {"texture_filter", "textures", "traced_light", "view_distance"})
        locked[id] = game.presets.front().values.at(id);
    return Allowed::of(layout, locked, {}, game.rules);
}

/// A run of a set at its true costs, without noise.
inline cost::SeenRun trueRun(const machine::Machine& machine, const game::Game& game, const cost::Layout& layout,
                             const game::Values& values) {
    run::Variant variant;
    variant.values = values;
    variant.resolution = machine.panel.native;
    cost::SeenRun run{*layout.setOf(values), {}};
    for (const auto& part : layout.parts) {
        const auto work = rig_truth::partWork(originals(), machine, game, variant, part);
        EXPECT_TRUE(work.has_value());
        run.taken[0].push_back(work->cpuMs);
        run.taken[1].push_back(work->gpuMs);
    }
    return run;
}

/// Believed after runs of the highest preset and at two sizes, at their true costs.
inline Ground believed(const machine::Machine& machine, const game::Game& game) {
    const auto values = game.presets.front().values;
    std::vector<std::string> parts;
    for (const auto& part : game.routes.front().parts) parts.push_back(part.name);
    const auto layout = cost::Layout::of(game, values, parts);
    std::vector<cost::SeenRun> runs;
    for (const char* upscaling : {"off", "temporal 2.0", "learned 1.5"}) {
        auto played = values;
        played["upscaling"] = upscaling;
        runs.push_back(trueRun(machine, game, layout, played));
    }
    Ground out;
    out.baseline = values;
    out.rules = game.rules;
    out.chooser = std::make_shared<const Chooser>(*cost::Belief::of(layout, runs), game, heldAnd(layout, game, {}));
    for (const auto resource : out.belief().resources())
        out.shares.push_back(std::vector<double>(out.belief().partsOf(resource), 0.95));
    return out;
}

/// Every set that may be chosen.
inline std::vector<cost::Set> every(const Chooser& chooser) {
    const auto& layout = chooser.belief().layout();
    std::vector<cost::Set> out;
    for (std::size_t g = 0; g < layout.sizes.size(); ++g) {
        std::vector<std::size_t> at(layout.dials.size(), 0);
        for (std::size_t i = 0; i < at.size();) {
            if (chooser.allowed().has({at, g})) out.push_back({at, g});
            for (i = 0; i < at.size() && ++at[i] == layout.dials[i].levels.size(); ++i) at[i] = 0;
        }
    }
    return out;
}

} // namespace impasto::choose
