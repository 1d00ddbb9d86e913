// SPDX-License-Identifier: GPL-3.0-or-later
// What only the simulator knows: the [rig] tables of a machine and a game. Only rig and rig_truth link this.
#pragma once

#include <impasto/description/originals.h>
#include <impasto/rig_model/power.h>
#include <impasto/run/run.h>
#include <set>

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
    double stillSeconds = 0;               // at its end, nothing moves
    std::map<std::string, double> weights; // of single settings' costs; absent: 1
};

struct Events {
    double perSecond = 0, medianMs = 0, sigma = 0;
};

/// Work that need not be done in its frame: it grows with time, idle time serves it, and above a limit it is done at
/// once.
struct Deferred {
    double msPerSecond = 0, limitMs = 10;
};

/// Frames invented between rendered ones. Cost of one step: fixed + per megapixel of the output; of m - 1 of them
/// (0.55 + 0.45 (m - 1)) times that.
struct GenerationCost {
    double fixedMs = 0.5, builtInPerMpixMs = 0.4, outsidePerMpixMs = 1.6;
    [[nodiscard]] double msOf(run::GenerationKind kind, int multiplier, double outputMpix) const;
};

/// Finished frames are copied to a second GPU, which invents those in between and shows them.
struct SecondGpu {
    double speed = 0.3;
    double linkFixedMs = 0.4, linkGibPerSecond = 4; // of 4 bytes a pixel
    double idleW = 0, busyW = 0;
    [[nodiscard]] double linkMsOf(display::Resolution output) const;
};

/// What goes wrong, with a chance a run.
struct Fault {
    enum class Kind {
        Crash,  // the game ends a while after the level was newly applied
        GpuIdle // a tool that generates frames makes the GPU wait from some moment on
    };
    Kind kind = Kind::Crash;
    std::string setting, level; // of a crash
    double chance = 1;
    double waitMs = 30; // of an idle GPU, before every frame
};

/// Finished frames go through another graphics chip to the panel. Only a part of that holds the renderer up; the rest
/// is a stage of its own.
struct CopyRoute {
    double fixedMs = 0, gibPerSecond = 4; // of 4 bytes a pixel
    double blockingShare = 0;             // of the copy, added to the GPU's work
    double sd = 0;                        // of a frame's copy
    [[nodiscard]] double msOf(display::Resolution output) const;
};

struct Model {
    // machine
    double cpuSpeed = 1, gpuSpeed = 1;
    double switchLossCpuMs = 0.15, switchLossGpuMs = 0.22; // idle time lost before background work gets going
    double pagingMsPerGib = 2;                             // per frame and GiB that does not fit the GPU's memory
    double pagingBacklogMs = 0;                            // a second and GiB, put off like other background work
    double sharpeningPerMpixMs = 0;                        // of the output, at any strength
    bool cpuReadingWaits = false; // the CPU work that is told holds the wait for the next frame
    GenerationCost generation;    // on the machine's first GPU
    std::optional<SecondGpu> secondGpu;
    std::vector<Fault> faults; // the machine's and the game's
    double gpuIdleW = 15, gpuBusyW = 150;
    double systemBaseMib = 2800;
    std::optional<CopyRoute> copy;
    std::optional<Power> power; // none: full clock always, and power from gpuIdleW and gpuBusyW alone
    // game
    int framesInFlight = 3;
    double cpuMs = 5, gpuMs = 3, gpuPerMpixMs = 1;
    double pixelExponent = 1;                             // of the rendered megapixels
    std::map<game::UpscalerKind, double> upscalerPerMpix; // ms a megapixel of the output
    double gpuMibPerOutputMpix = 0;
    std::set<std::string> waitsForReload; // settings whose new value takes effect only then
    double gpuBaseMib = 1500, gpuMibPerMpix = 150, gameMib = 6000;
    double runSd = 0.004, sectionSd = 0.007, cpuSwing = 0.025, gpuSwing = 0.025, swingSeconds = 0.35, whiteSd = 0.015;
    double turn = 0, turnDwellSeconds = 1.5; // of the camera: a share of the GPU's work, half as much of the CPU's
    double backgroundSd = 0;                 // of spikes, background work and its limits, a run
    Events cpuSpikes, gpuSpikes;
    Deferred cpuDeferred, gpuDeferred;
    Events compiles; // perSecond: number in the route
    std::map<std::string, std::vector<LevelWork>> levels;
    std::map<std::string, PartLoad> parts;
};

/// Whether both whole descriptions are there and carry a [rig] table.
bool hasModel(const machine::Machine& machine, const game::Game& game, const description::Originals& originals);
/// Errors: MissingKey, OutOfRange, UnknownName ... with file, line and key.
Result<Model> readModel(const machine::Machine& machine, const game::Game& game,
                        const description::Originals& originals);

/// What the panel is given: by the game's setting for it, else the variant's resolution, or the panel's own.
display::Resolution outputOf(const machine::Machine& machine, const game::Game& game, const run::Variant& variant);

/// The noise-free work of one frame at reference speed 1 of a variant in a part.
struct Work {
    double cpuMs = 0, gpuMs = 0, gpuMemoryMib = 0, systemMemoryMib = 0;
    double overflowGib = 0; // of GPU memory; gpuMemoryMib is what fits
};
Work workOf(const Model& model, const machine::Machine& machine, const game::Game& game, const run::Variant& variant,
            const std::string& part);

} // namespace impasto::rig_model
