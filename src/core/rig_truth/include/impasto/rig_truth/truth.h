// SPDX-License-Identifier: GPL-3.0-or-later
// The simulator's hidden truth, for tests and practice alone: nothing that analyses a run may link this.
#pragma once

#include <impasto/base/error.h>
#include <impasto/description/originals.h>
#include <impasto/run/run.h>

namespace impasto::rig_truth {

struct LaneWork {
    double cpuMs = 0, gpuMs = 0, gpuMemoryMib = 0, systemMemoryMib = 0;
};
/// Noise-free work of a variant on a route at full clocks, without hitches: the parts' work weighted by their seconds.
Result<LaneWork> routeWork(const description::Originals& originals, const machine::Machine& machine,
                           const game::Game& game, const run::Variant& variant, const std::string& route);
/// The same in one part.
Result<LaneWork> partWork(const description::Originals& originals, const machine::Machine& machine,
                          const game::Game& game, const run::Variant& variant, const std::string& part);

/// What sets the period of a part: max(c, g, r, L, (c + g) / Q), see pace/pipeline.h.
enum class Brake { Cpu, Gpu, Queue, Copy, Cap };
std::string_view keyOf(Brake brake);
struct PartTruth {
    LaneWork work;
    Brake brake = Brake::Gpu;
    double periodMs = 0;
};
Result<PartTruth> partTruth(const description::Originals& originals, const machine::Machine& machine,
                            const game::Game& game, const run::Variant& variant, const std::string& part);

/// What a lane may take of a frame in every part of a route, and how much memory there is.
struct Room {
    struct Lanes {
        double cpuMs = 0, gpuMs = 0;
    };
    std::vector<Lanes> parts; // in route order
    double gpuMemoryMib = 1e9;
};
struct Best {
    game::Values values;
    double picture = 0; // game::pictureValue
};
/// The values with the highest picture whose true work fits the room, found by going through all of them; nothing when
/// none does. Settings that `fixed` names keep their level there.
Result<std::optional<Best>> bestValues(const description::Originals& originals, const machine::Machine& machine,
                                       const game::Game& game, const run::Variant& variant, const std::string& route,
                                       const Room& room, const game::Values& fixed = {});

} // namespace impasto::rig_truth
