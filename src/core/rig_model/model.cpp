// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/rig_model/model.h>

#include <impasto/base/portable_math.h>
#include <impasto/game/size.h>

namespace impasto::rig_model {
namespace {

/// 4 bytes a pixel over a bus.
double busMs(display::Resolution output, double gibPerSecond) {
    constexpr double bytesAPixel = 4, bytesAGib = 1024.0 * 1024 * 1024;
    const double pixels = static_cast<double>(output.widthPx) * static_cast<double>(output.heightPx);
    return 1000 * pixels * bytesAPixel / (gibPerSecond * bytesAGib);
}

/// What the variant's levels add, each by its weight in the part.
struct Levels {
    LevelWork sum;
    double scale = 1; // rendered size per axis, of the output
    std::optional<game::UpscalerKind> upscaler;
};

Levels levelsOf(const Model& model, const game::Game& game, const game::Values& values, const PartLoad& load) {
    Levels out;
    for (const auto& [id, name] : values) {
        const auto* setting = game.setting(id);
        const auto level = setting == nullptr ? std::nullopt : setting->levelIndex(name);
        if (!level) continue;
        if (!setting->output) out.scale *= setting->levels[*level].scale.value_or(1);
        if (const auto& kind = setting->levels[*level].upscaler) out.upscaler = kind;
        const auto it = model.levels.find(id);
        if (it == model.levels.end()) continue;
        const auto weight = load.weights.find(id);
        const double share = weight == load.weights.end() ? 1 : weight->second;
        const LevelWork& w = it->second[*level];
        out.sum.cpuMs += share * w.cpuMs;
        out.sum.gpuMs += share * w.gpuMs;
        out.sum.gpuPerMpixMs += share * w.gpuPerMpixMs;
        out.sum.gpuMemoryMib += w.gpuMemoryMib;
        out.sum.systemMemoryMib += w.systemMemoryMib;
    }
    return out;
}

/// Work on the picture once it is rendered, at reference speed.
double afterRenderingMs(const Model& model, const run::Variant& variant, const Levels& levels, double outputMpix) {
    double ms = variant.sharpening > 0 ? model.sharpeningPerMpixMs * outputMpix : 0;
    const auto upscaler = variant.upscaling  ? std::optional(variant.upscaling->kind)
                          : levels.upscaler  ? levels.upscaler
                          : levels.scale < 1 ? std::optional(game::UpscalerKind::Engine)
                                             : std::nullopt;
    const auto it = upscaler ? model.upscalerPerMpix.find(*upscaler) : model.upscalerPerMpix.end();
    if (it != model.upscalerPerMpix.end()) ms += it->second * outputMpix;
    return ms;
}

} // namespace

double CopyRoute::msOf(display::Resolution output) const {
    return fixedMs + busMs(output, gibPerSecond);
}

double SecondGpu::linkMsOf(display::Resolution output) const {
    return linkFixedMs + busMs(output, linkGibPerSecond);
}

double GenerationCost::msOf(run::GenerationKind kind, int multiplier, double outputMpix) const {
    if (multiplier < 2) return 0;
    const double perMpix = kind == run::GenerationKind::BuiltIn ? builtInPerMpixMs : outsidePerMpixMs;
    return (fixedMs + perMpix * outputMpix) * (0.55 + 0.45 * (multiplier - 1));
}

display::Resolution outputOf(const machine::Machine& machine, const game::Game& game, const run::Variant& variant) {
    if (const auto said = game::outputOf(game, variant.values)) return *said;
    return variant.resolution.widthPx > 0 ? variant.resolution : machine.panel.native;
}

Work workOf(const Model& model, const machine::Machine& machine, const game::Game& game, const run::Variant& variant,
            const std::string& part) {
    const auto found = model.parts.find(part);
    const PartLoad load = found == model.parts.end() ? PartLoad{} : found->second;
    auto levels = levelsOf(model, game, variant.values, load);
    const auto& sum = levels.sum;
    if (variant.upscaling) levels.scale /= variant.upscaling->ratio;
    const auto output = outputOf(machine, game, variant);
    const double outputMpix = display::megapixelsOf(output).value();
    const double mpix = outputMpix * levels.scale * levels.scale;
    const double pixelWork = model.pixelExponent == 1 ? mpix : portable::pow(mpix, model.pixelExponent);
    Work work;
    work.gpuMemoryMib =
        model.gpuBaseMib + model.gpuMibPerMpix * mpix + model.gpuMibPerOutputMpix * outputMpix + sum.gpuMemoryMib;
    work.systemMemoryMib = model.systemBaseMib + model.gameMib + sum.systemMemoryMib;
    work.overflowGib = std::max(0.0, work.gpuMemoryMib - machine.gpuMemory.value()) / 1024;
    work.gpuMemoryMib = std::min(work.gpuMemoryMib, machine.gpuMemory.value());
    work.cpuMs = (model.cpuMs + sum.cpuMs) * load.cpu / model.cpuSpeed;
    work.gpuMs = (model.gpuMs + sum.gpuMs + (model.gpuPerMpixMs + sum.gpuPerMpixMs) * pixelWork) * load.gpu;
    work.gpuMs = (work.gpuMs + afterRenderingMs(model, variant, levels, outputMpix)) / model.gpuSpeed;
    work.gpuMs += model.pagingMsPerGib * work.overflowGib * (1 + work.overflowGib / 2);
    if (model.copy && !variant.direct) work.gpuMs += model.copy->blockingShare * model.copy->msOf(output);
    return work;
}

Power under(const Power& power, const run::Conditions& conditions) {
    Power p = power;
    for (Heat* heat : {&p.cpuHeat, &p.gpuHeat}) {
        if (conditions.fans == run::FanProfile::Quiet) heat->mostFan = std::min(heat->mostFan, heat->quietFan);
        if (conditions.fans == run::FanProfile::Full) heat->leastFan = heat->mostFan;
    }
    if (conditions.plan == run::PowerPlan::Performance) p.governor.reset();
    for (Chip* chip : {&p.cpu, &p.gpu}) {
        if (conditions.plan == run::PowerPlan::Saving)
            chip->highestClock = std::max(chip->lowestClock, power.savingClock);
        if (conditions.supply == run::Supply::Mains || !chip->sustainedW) continue;
        *chip->sustainedW *= power.batteryShare;
        chip->burstW *= power.batteryShare;
    }
    if (conditions.supply == run::Supply::Battery && p.shared) {
        p.shared->sustainedW *= power.batteryShare;
        p.shared->burstW *= power.batteryShare;
    }
    return p;
}

} // namespace impasto::rig_model
