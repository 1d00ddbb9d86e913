// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.h"
#include "described.h"

#include <filesystem>
#include <impasto/choose/propose.h>
#include <impasto/pace/plan.h>
#include <impasto/rig_draw/draw.h>
#include <impasto/rig_truth/hold.h>

namespace impasto::cli {
namespace {

struct DrawOptions {
    std::uint64_t seed = 1;
    std::string folder = ".";
    bool force = false;
};

struct DescribeOptions {
    std::string machine, game;
    std::optional<double> targetFps;
    std::string style = "cinematic";
};

int printBest(const Described& d, const run::Variant& start, const run::Brief& brief) {
    const auto& [machine, game, originals] = d;
    const auto& route = game.routes.front();
    auto room = rig_truth::roomFor(originals, machine, game, start, route.name, brief);
    if (!room) return failed(room.error());
    room->gpuMemoryMib = choose::usableMemoryShare * machine.gpuMemory.value();
    const auto best = rig_truth::bestValues(originals, machine, game, start, route.name, *room);
    if (!best) return failed(best.error());
    fmt::print("\nBest values for {} fps at true costs, {:.0f}% of the frames of CPU and GPU within the budget\n",
               brief.target.value(), 100 * brief.wishedOnTime());
    for (std::size_t i = 0; i < route.parts.size(); ++i)
        fmt::print("  {:<24} safe limit CPU {:.2f} ms, GPU {:.2f} ms\n", route.parts[i].name, room->parts[i].cpuMs,
                   room->parts[i].gpuMs);
    if (!*best) {
        fmt::print("  nothing fits\n");
        return 0;
    }
    for (const auto& setting : game.settings)
        fmt::print("  {:<22} {}\n", setting.label, (*best)->values.at(setting.id));
    fmt::print("  {:.2f}% of the picture\n", 100 * (*best)->picture);
    auto variant = start;
    variant.values = (*best)->values;
    const auto held = rig_truth::heldTruth(originals, machine, game, variant, route.name, brief);
    if (!held) return failed(held.error());
    for (const auto& part : held->parts)
        fmt::print("  {:<24} average {:.1f} fps, {:.1f}% on time, slowest second {:.1f} fps\n", part.part,
                   part.average.value(), 100 * part.onTimeShare, part.slowestSecond.value());
    fmt::print("  without a cap {} fps are {}\n", brief.target.value(), held->held ? "held" : "not held");
    return 0;
}

int drawRig(const DrawOptions& options) {
    const auto drawn = rig_draw::draw(options.seed);
    std::error_code failure;
    std::filesystem::create_directories(options.folder, failure);
    const std::filesystem::path folder(options.folder);
    for (const auto& [file, text] :
         {std::pair(folder / fmt::format("practice-machine-{}.toml", options.seed), drawn.machine),
          {folder / fmt::format("practice-game-{}.toml", options.seed), drawn.game}}) {
        if (const auto written = writeOutput(file, text, options.force); !written) return failed(written.error());
        fmt::print("{}\n", file.string());
    }
    return 0;
}

/// The hidden truth of a machine and a game, to check what was measured against it.
int describeRig(const DescribeOptions& options) {
    const auto described = readDescribed(options.machine, options.game);
    if (!described) return failed(described.error());
    const auto* machine = &described->machine;
    const auto* game = &described->game;
    const auto& originals = described->originals;
    run::Variant start{game->presets.front().values, machine->panel.native, {}, run::Sync::None};
    if (options.targetFps) start.refresh = pace::headsetMode(machine->panel, Fps(*options.targetFps));
    const auto& route = game->routes.front();
    fmt::print("{} on {}, preset {}: what the simulator hides, at full clocks\n\n", game->name, machine->name,
               game->presets.front().name);
    fmt::print("Work of a frame, ms\n");
    for (const auto& part : route.parts) {
        const auto truth = rig_truth::partTruth(originals, *machine, *game, start, part.name);
        if (!truth) return failed(truth.error());
        fmt::print("  {:<24} CPU {:>7.3f}  GPU {:>7.3f}  limited by {} at {:.3f}\n", part.name, truth->work.cpuMs,
                   truth->work.gpuMs, rig_truth::keyOf(truth->brake), truth->periodMs);
    }
    const auto base = rig_truth::routeWork(originals, *machine, *game, start, route.name);
    if (!base) return failed(base.error());
    fmt::print("\nWhat a level changes, ms of the route mean; GPU memory {:.0f} MiB at the start\n",
               base->gpuMemoryMib);
    for (const auto& setting : game->settings)
        for (const auto& level : setting.levels) {
            if (start.values.at(setting.id) == level.name) continue;
            run::Variant other = start;
            other.values[setting.id] = level.name;
            const auto work = rig_truth::routeWork(originals, *machine, *game, other, route.name);
            if (!work) return failed(work.error());
            fmt::print("  {:<22} {:<10} CPU {:>+7.3f}  GPU {:>+7.3f}  memory {:>+6.0f} MiB\n", setting.label,
                       level.name, work->cpuMs - base->cpuMs, work->gpuMs - base->gpuMs,
                       work->gpuMemoryMib - base->gpuMemoryMib);
        }
    if (!options.targetFps) return 0;
    run::Brief brief;
    brief.target = Fps(*options.targetFps);
    brief.style = *run::styleOf(options.style);
    return printBest(*described, start, brief);
}

} // namespace

Command rigCommand() {
    const auto drawing = std::make_shared<DrawOptions>();
    const auto describing = std::make_shared<DescribeOptions>();
    return {"rig",
            "The simulator: practice machines and games, and what it hides",
            {},
            {},
            {{"draw",
              "Draws a machine and a game at random and writes their descriptions",
              {{"--seed", "Seed of the draw", &drawing->seed},
               {"-o,--output", "Folder to write to", &drawing->folder},
               forceOption(drawing->force)},
              [drawing] { return drawRig(*drawing); }},
             {"describe",
              "True costs of every level, to check what was measured",
              {{"--machine", "Machine description, TOML", &describing->machine, {}, {}, true},
               {"--game", "Game description, TOML", &describing->game, {}, {}, true},
               {"--target", "Rate to hold: the best values for it, at true costs", &describing->targetFps,
                std::pair(10.0, 1000.0)},
               {"--style",
                "What matters most: how many frames are to be on time",
                &describing->style,
                {},
                {"competitive", "cinematic", "battery", "weak-machine", "headset", "quiet"}}},
              [describing] { return describeRig(*describing); }}}};
}

} // namespace impasto::cli
