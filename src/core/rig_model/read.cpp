// SPDX-License-Identifier: GPL-3.0-or-later
// The [rig] tables of machine and game; docs/formats.md has their keys.
#include <impasto/rig_model/model.h>

#include <impasto/description/description.h>

namespace impasto::rig_model {
namespace {

using description::Document;
using description::Section;

void leaveAllBut(const Section& root, std::string_view wanted) {
    for (const auto& key : root.keys())
        if (key != wanted) root.leave(key);
}

Events readEvents(const Section& s) {
    return {s.number("per_second", 0, 1000, 0), s.number("median_ms", 0, 1000, 5), s.number("sigma", 0, 2, 0.4)};
}

Deferred readDeferred(const Section& s) {
    return {s.number("ms_per_second", 0, 500, 0), s.number("limit_ms", 0.5, 200, 12)};
}

Chip readChip(const Section& s) {
    Chip c;
    c.idleW = s.number("idle_w", 0, 500);
    c.staticW = s.number("static_w", 0, 500);
    c.dynamicW = s.number("dynamic_w", 0.1, 1000);
    c.clockBound = s.number("clock_bound", 0, 1, c.clockBound);
    c.lowestClock = s.number("lowest_clock", 0.1, 1, c.lowestClock);
    if (s.has("sustained_w")) {
        c.sustainedW = s.number("sustained_w", 0.5, 1500);
        c.burstW = s.number("burst_w", 0.5, 1500);
    }
    return c;
}

Heat readHeat(const Section& s) {
    Heat h;
    h.wattPerKelvin = s.number("watt_per_kelvin", 0.01, 100);
    h.fanWattPerKelvin = s.number("fan_watt_per_kelvin", 0, 100);
    h.joulePerKelvin = s.number("joule_per_kelvin", 1, 1e5);
    h.limitC = s.number("limit_c", 40, 120, h.limitC);
    h.bandC = s.number("band_c", 1, 40, h.bandC);
    h.fanFromC = s.number("fan_from_c", 20, 110, h.fanFromC);
    h.fanToC = s.number("fan_to_c", 25, 120, h.fanToC);
    if (h.fanToC <= h.fanFromC) s.fault("fan_to_c", ErrorCode::OutOfRange, "above fan_from_c");
    h.quietFan = s.number("quiet_fan", 0.05, 1, h.quietFan);
    return h;
}

std::optional<Power> readPower(const Section& rig) {
    if (!rig.has("power")) return std::nullopt;
    const Section s = rig.table("power");
    Power p;
    p.cpu = readChip(s.table("cpu"));
    p.gpu = readChip(s.table("gpu"));
    p.heatIsShared = s.has("shared_heat");
    if (p.heatIsShared) {
        p.gpuHeat = readHeat(s.table("shared_heat"));
    } else {
        p.cpuHeat = readHeat(s.table("cpu_heat"));
        p.gpuHeat = readHeat(s.table("gpu_heat"));
    }
    if (s.has("shared_limit")) {
        const Section limit = s.table("shared_limit");
        p.shared = SharedPower{limit.number("sustained_w", 1, 1500), limit.number("burst_w", 1, 1500)};
    }
    if (s.has("governor")) {
        const Section g = s.table("governor");
        p.governor = Governor{g.number("period_ms", 25, 5000), g.number("smoothing", 0.001, 1),
                              g.number("cpu_target", 0.05, 0.99), g.number("gpu_target", 0.05, 0.99),
                              g.number("most_step_up", 1.001, 10)};
    }
    p.boostSeconds = s.number("boost_seconds", 0.1, 600, p.boostSeconds);
    p.restW = s.number("rest_w", 0, 500, p.restW);
    p.ambientC = s.number("ambient_c", -10, 60, p.ambientC);
    p.savingClock = s.number("saving_clock", 0.1, 1, p.savingClock);
    p.batteryShare = s.number("battery_share", 0.1, 1, p.batteryShare);
    return p;
}

double readChance(const Section& s) {
    return s.number("chance", 0, 1, 1);
}

void readMachine(const Section& rig, const machine::Machine& machine, Model& m) {
    m.cpuSpeed = rig.number("cpu_speed", 0.01, 100);
    m.gpuSpeed = rig.number("gpu_speed", 0.01, 100);
    m.switchLossCpuMs = rig.number("switch_loss_cpu_ms", 0, 10, m.switchLossCpuMs);
    m.switchLossGpuMs = rig.number("switch_loss_gpu_ms", 0, 10, m.switchLossGpuMs);
    m.pagingMsPerGib = rig.number("paging_ms_per_gib", 0, 100, m.pagingMsPerGib);
    m.gpuIdleW = rig.number("gpu_idle_w", 0, 1000, m.gpuIdleW);
    m.gpuBusyW = rig.number("gpu_busy_w", 0, 2000, m.gpuBusyW);
    m.systemBaseMib = rig.number("system_base_mib", 0, 1e6, m.systemBaseMib);
    m.power = readPower(rig);
    m.pagingBacklogMs = rig.number("paging_backlog_ms_per_second", 0, 1000, 0);
    m.sharpeningPerMpixMs = rig.number("sharpening_per_mpix_ms", 0, 10, 0);
    m.cpuReadingWaits = rig.flag("cpu_reading_waits", false);
    if (machine.copyRoute) {
        const Section copy = rig.table("copy");
        m.copy = CopyRoute{copy.number("fixed_ms", 0, 50), copy.number("gib_per_second", 0.1, 1000),
                           copy.number("blocking_share", 0, 1), copy.number("sd", 0, 0.5, 0)};
    }
    if (rig.has("generation")) {
        const Section g = rig.table("generation");
        m.generation = GenerationCost{g.number("fixed_ms", 0, 50), g.number("built_in_per_mpix_ms", 0, 50),
                                      g.number("outside_per_mpix_ms", 0, 50)};
    }
    if (!machine.secondGpu.empty()) {
        const Section g = rig.table("second_gpu");
        m.secondGpu = SecondGpu{g.number("speed", 0.01, 100), g.number("link_fixed_ms", 0, 50),
                                g.number("link_gib_per_second", 0.1, 1000), g.number("idle_w", 0, 500),
                                g.number("busy_w", 0, 1000)};
    }
    for (const auto& fault : rig.tables("idle_fault")) {
        Fault f{Fault::Kind::GpuIdle, {}, {}, readChance(fault)};
        f.waitMs = fault.number("wait_ms", 1, 1000, f.waitMs);
        m.faults.push_back(std::move(f));
    }
}

void readCosts(const Section& cost, const game::Game& game, Model& m) {
    for (const auto& id : cost.keys()) {
        const auto* setting = game.setting(id);
        const Section s = cost.table(id);
        if (setting == nullptr) {
            cost.fault(id, ErrorCode::UnknownName, id);
            return;
        }
        std::vector<LevelWork> works(setting->levels.size());
        const auto fill = [&](std::string_view key, double LevelWork::*field) {
            const auto values = s.numbers(key, 0, 1e5);
            if (!values.empty() && values.size() != works.size())
                s.fault(key, ErrorCode::BadValue, "one number a level");
            for (std::size_t i = 0; i < values.size() && i < works.size(); ++i) works[i].*field = values[i];
        };
        fill("cpu_ms", &LevelWork::cpuMs);
        fill("gpu_ms", &LevelWork::gpuMs);
        fill("gpu_per_mpix_ms", &LevelWork::gpuPerMpixMs);
        fill("gpu_memory_mib", &LevelWork::gpuMemoryMib);
        fill("system_memory_mib", &LevelWork::systemMemoryMib);
        m.levels[id] = std::move(works);
    }
}

void readParts(const Section& rig, const game::Game& game, Model& m) {
    for (const auto& part : rig.tables("part")) {
        const std::string name = part.text("name");
        PartLoad load{part.number("cpu", 0.01, 100, 1),
                      part.number("gpu", 0.01, 100, 1),
                      part.number("still_seconds", 0, 3600, 0),
                      {}};
        const Section weights = part.table("weights");
        for (const auto& id : weights.keys()) {
            if (game.setting(id) == nullptr) weights.fault(id, ErrorCode::UnknownName, id);
            load.weights[id] = weights.number(id, 0, 100);
        }
        m.parts[name] = std::move(load);
    }
}

void readGame(const Section& rig, const game::Game& game, Model& m) {
    m.framesInFlight = static_cast<int>(rig.number("frames_in_flight", 1, 8, 3));
    m.cpuMs = rig.number("cpu_ms", 0.01, 1000);
    m.gpuMs = rig.number("gpu_ms", 0.01, 1000);
    m.gpuPerMpixMs = rig.number("gpu_per_mpix_ms", 0, 100);
    m.gpuBaseMib = rig.number("gpu_base_mib", 0, 1e6, m.gpuBaseMib);
    m.gpuMibPerMpix = rig.number("gpu_mib_per_mpix", 0, 1e5, m.gpuMibPerMpix);
    m.gpuMibPerOutputMpix = rig.number("gpu_mib_per_output_mpix", 0, 1e5, 0);
    m.gameMib = rig.number("game_mib", 0, 1e6, m.gameMib);
    m.pixelExponent = rig.number("pixel_exponent", 0.5, 1, m.pixelExponent);
    const Section upscaler = rig.table("upscaler_per_mpix_ms");
    for (const auto& key : upscaler.keys()) {
        const auto kind = game::upscalerKindOf(key);
        if (!kind) upscaler.fault(key, ErrorCode::UnknownName, key);
        m.upscalerPerMpix[kind.value_or(game::UpscalerKind::Spatial)] = upscaler.number(key, 0, 50);
    }
    const Section noise = rig.table("noise");
    m.runSd = noise.number("run_sd", 0, 0.5, m.runSd);
    m.sectionSd = noise.number("section_sd", 0, 0.5, m.sectionSd);
    m.cpuSwing = noise.number("cpu_swing", 0, 0.5, m.cpuSwing);
    m.gpuSwing = noise.number("gpu_swing", 0, 0.5, m.gpuSwing);
    m.swingSeconds = noise.number("swing_seconds", 0.02, 60, m.swingSeconds);
    m.whiteSd = noise.number("white_sd", 0, 0.5, m.whiteSd);
    m.turn = noise.number("turn", 0, 0.5, m.turn);
    m.turnDwellSeconds = noise.number("turn_dwell_seconds", 0.1, 60, m.turnDwellSeconds);
    m.backgroundSd = noise.number("background_sd", 0, 1, m.backgroundSd);
    m.cpuSpikes = readEvents(rig.table("cpu_spikes"));
    m.gpuSpikes = readEvents(rig.table("gpu_spikes"));
    m.cpuDeferred = readDeferred(rig.table("cpu_deferred"));
    m.gpuDeferred = readDeferred(rig.table("gpu_deferred"));
    const Section compiles = rig.table("compiles");
    m.compiles = {compiles.number("count", 0, 1000, 0), compiles.number("median_ms", 0, 1000, 20),
                  compiles.number("sigma", 0, 2, 0.6)};
    readCosts(rig.table("cost"), game, m);
    readParts(rig, game, m);
    for (const auto& id : rig.texts("waits_for_reload")) {
        if (game.setting(id) == nullptr) rig.fault("waits_for_reload", ErrorCode::UnknownName, id);
        m.waitsForReload.insert(id);
    }
    for (const auto& fault : rig.tables("crash")) {
        Fault f{Fault::Kind::Crash, fault.text("setting"), fault.text("level"), readChance(fault)};
        const auto* setting = game.setting(f.setting);
        if (setting == nullptr)
            fault.fault("setting", ErrorCode::UnknownName, f.setting);
        else if (!setting->levelIndex(f.level))
            fault.fault("level", ErrorCode::UnknownName, f.level);
        m.faults.push_back(std::move(f));
    }
}

} // namespace

namespace {

/// What a simulator must know of a machine and its owner did not say.
const char* lackOf(const machine::Machine& machine) {
    return !(machine.gpuMemory.value() > 0)       ? "gpu_memory_gib"
           : !(machine.systemMemory.value() > 0)  ? "system_memory_gib"
           : machine.panel.native.widthPx == 0    ? "panel.native"
           : !(machine.panel.refresh.value() > 0) ? "panel.refresh_hz"
                                                  : nullptr;
}

} // namespace

bool hasModel(const machine::Machine& machine, const game::Game& game, const description::Originals& originals) {
    const auto has = [&originals](std::uint64_t mark) {
        const auto* text = originals.find(mark);
        if (text == nullptr) return false;
        const auto document = Document::parse(*text, {});
        return document && document->root().has("rig");
    };
    return !lackOf(machine) && has(machine.mark) && has(game.mark);
}

Result<Model> readModel(const machine::Machine& machine, const game::Game& game,
                        const description::Originals& originals) {
    if (const auto* lacks = lackOf(machine)) return fail(ErrorCode::MissingKey, lacks, {machine.name, {}, {}, lacks});
    Model model;
    // Without its text a description has no [rig] table, which is what is told.
    const auto textOf = [&originals](std::uint64_t mark) {
        const auto* text = originals.find(mark);
        return text == nullptr ? std::string() : *text;
    };
    const auto m = Document::parse(textOf(machine.mark), machine.name);
    if (!m) return tl::unexpected(m.error());
    leaveAllBut(m->root(), "rig");
    readMachine(m->root().table("rig"), machine, model);
    if (const auto sound = m->check(); !sound) return tl::unexpected(sound.error());
    const auto g = Document::parse(textOf(game.mark), game.name);
    if (!g) return tl::unexpected(g.error());
    leaveAllBut(g->root(), "rig");
    readGame(g->root().table("rig"), game, model);
    if (const auto sound = g->check(); !sound) return tl::unexpected(sound.error());
    return model;
}

} // namespace impasto::rig_model
