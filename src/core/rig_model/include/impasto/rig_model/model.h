// SPDX-License-Identifier: GPL-3.0-or-later
// What only the simulator knows: the [rig] tables of a machine and a game. Only rig and rig_truth link this.
#pragma once

#include <impasto/rig_model/power.h>
#include <impasto/run/run.h>

namespace impasto::rig_model {

struct LevelWork {
    double cpuMs = 0;
    double gpuMs = 0;
    double gpuPerMpixMs = 0;
    double gpuMemoryMib = 0;
    double systemMemoryMib = 0;
};

struct PartLoad {
    double cpu = 1, gpu = 1;
};

struct Events {
    double perSecond = 0, medianMs = 0, sigma = 0;
};

/// Work that need not be done in its frame: it grows with time, idle time serves it, and above a limit it is done at
/// once.
struct Deferred {
    double msPerSecond = 0, limitMs = 10;
};

/// Finished frames go through another graphics chip to the panel. Only a part of that holds the renderer up; the rest
/// is a stage of its own.
struct CopyRoute {
    double fixedMs = 0, gibPerSecond = 4; // of 4 bytes a pixel
    double blockingShare = 0;             // of the copy, added to the GPU's work
    [[nodiscard]] double msOf(display::Resolution output) const;
};

struct Model {
    // machine
    double cpuSpeed = 1, gpuSpeed = 1;
    double switchLossCpuMs = 0.15, switchLossGpuMs = 0.22; // idle time lost before background work gets going
    double pagingMsPerGib = 2;                             // per frame and GiB that does not fit the GPU's memory
    double gpuIdleW = 15, gpuBusyW = 150;
    double systemBaseMib = 2800;
    std::optional<CopyRoute> copy;
    std::optional<Power> power; // none: full clock always, and power from gpuIdleW and gpuBusyW alone
    // game
    int framesInFlight = 3;
    double cpuMs = 5, gpuMs = 3, gpuPerMpixMs = 1;
    double gpuBaseMib = 1500, gpuMibPerMpix = 150, gameMib = 6000;
    double runSd = 0.004, sectionSd = 0.007, cpuSwing = 0.025, gpuSwing = 0.025, swingSeconds = 0.35, whiteSd = 0.015;
    Events cpuSpikes, gpuSpikes;
    Deferred cpuDeferred, gpuDeferred;
    Events compiles; // perSecond: number in the route
    std::map<std::string, std::vector<LevelWork>> levels;
    std::map<std::string, PartLoad> parts;
};

/// Whether both descriptions carry a [rig] table.
bool hasModel(const machine::Machine& machine, const game::Game& game);
/// Errors: MissingKey, OutOfRange, UnknownName ... with file, line and key.
Result<Model> readModel(const machine::Machine& machine, const game::Game& game);

/// What the panel is given: the variant's resolution, or the panel's own.
display::Resolution outputOf(const machine::Machine& machine, const run::Variant& variant);

/// The noise-free work of one frame at reference speed 1 of a variant in a part.
struct Work {
    double cpuMs = 0, gpuMs = 0, gpuMemoryMib = 0, systemMemoryMib = 0;
};
Work workOf(const Model& model, const machine::Machine& machine, const game::Game& game, const run::Variant& variant,
            const std::string& part);

} // namespace impasto::rig_model
