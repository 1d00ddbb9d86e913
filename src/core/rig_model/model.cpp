// SPDX-License-Identifier: GPL-3.0-or-later
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
    h.mostFan = s.number("most_fan", 0.05, 1, h.mostFan);
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
    return p;
}

void readMachine(const Section& rig, Model& m) {
    m.cpuSpeed = rig.number("cpu_speed", 0.01, 100);
    m.gpuSpeed = rig.number("gpu_speed", 0.01, 100);
    m.switchLossCpuMs = rig.number("switch_loss_cpu_ms", 0, 10, m.switchLossCpuMs);
    m.switchLossGpuMs = rig.number("switch_loss_gpu_ms", 0, 10, m.switchLossGpuMs);
    m.pagingMsPerGib = rig.number("paging_ms_per_gib", 0, 100, m.pagingMsPerGib);
    m.gpuIdleW = rig.number("gpu_idle_w", 0, 1000, m.gpuIdleW);
    m.gpuBusyW = rig.number("gpu_busy_w", 0, 2000, m.gpuBusyW);
    m.systemBaseMib = rig.number("system_base_mib", 0, 1e6, m.systemBaseMib);
    m.power = readPower(rig);
    if (rig.has("copy")) {
        const Section copy = rig.table("copy");
        m.copy = CopyRoute{copy.number("fixed_ms", 0, 50), copy.number("gib_per_second", 0.1, 1000),
                           copy.number("blocking_share", 0, 1)};
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
            const auto values = s.numbers(key, -1e5, 1e5);
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

void readGame(const Section& rig, const game::Game& game, Model& m) {
    m.framesInFlight = static_cast<int>(rig.number("frames_in_flight", 1, 8, 3));
    m.cpuMs = rig.number("cpu_ms", 0.01, 1000);
    m.gpuMs = rig.number("gpu_ms", 0.01, 1000);
    m.gpuPerMpixMs = rig.number("gpu_per_mpix_ms", 0, 100);
    m.gpuBaseMib = rig.number("gpu_base_mib", 0, 1e6, m.gpuBaseMib);
    m.gpuMibPerMpix = rig.number("gpu_mib_per_mpix", 0, 1e5, m.gpuMibPerMpix);
    m.gameMib = rig.number("game_mib", 0, 1e6, m.gameMib);
    const Section noise = rig.table("noise");
    m.runSd = noise.number("run_sd", 0, 0.5, m.runSd);
    m.sectionSd = noise.number("section_sd", 0, 0.5, m.sectionSd);
    m.cpuSwing = noise.number("cpu_swing", 0, 0.5, m.cpuSwing);
    m.gpuSwing = noise.number("gpu_swing", 0, 0.5, m.gpuSwing);
    m.swingSeconds = noise.number("swing_seconds", 0.02, 60, m.swingSeconds);
    m.whiteSd = noise.number("white_sd", 0, 0.5, m.whiteSd);
    m.cpuSpikes = readEvents(rig.table("cpu_spikes"));
    m.gpuSpikes = readEvents(rig.table("gpu_spikes"));
    m.cpuDeferred = readDeferred(rig.table("cpu_deferred"));
    m.gpuDeferred = readDeferred(rig.table("gpu_deferred"));
    const Section compiles = rig.table("compiles");
    m.compiles = {compiles.number("count", 0, 1000, 0), compiles.number("median_ms", 0, 1000, 20),
                  compiles.number("sigma", 0, 2, 0.6)};
    readCosts(rig.table("cost"), game, m);
    for (const auto& part : rig.tables("part")) {
        const std::string name = part.text("name");
        m.parts[name] = {part.number("cpu", 0.01, 100, 1), part.number("gpu", 0.01, 100, 1)};
    }
}

} // namespace

bool hasModel(const machine::Machine& machine, const game::Game& game) {
    const auto has = [](const std::string& text) {
        const auto document = Document::parse(text, {});
        return document && document->root().has("rig");
    };
    return has(machine.text) && has(game.text);
}

Result<Model> readModel(const machine::Machine& machine, const game::Game& game) {
    Model model;
    const auto m = Document::parse(machine.text, machine.name);
    if (!m) return tl::unexpected(m.error());
    leaveAllBut(m->root(), "rig");
    readMachine(m->root().table("rig"), model);
    if (const auto sound = m->check(); !sound) return tl::unexpected(sound.error());
    const auto g = Document::parse(game.text, game.name);
    if (!g) return tl::unexpected(g.error());
    leaveAllBut(g->root(), "rig");
    readGame(g->root().table("rig"), game, model);
    if (const auto sound = g->check(); !sound) return tl::unexpected(sound.error());
    return model;
}

double CopyRoute::msOf(display::Resolution output) const {
    constexpr double bytesAPixel = 4, bytesAGib = 1024.0 * 1024 * 1024;
    const double pixels = static_cast<double>(output.widthPx) * static_cast<double>(output.heightPx);
    return fixedMs + 1000 * pixels * bytesAPixel / (gibPerSecond * bytesAGib);
}

display::Resolution outputOf(const machine::Machine& machine, const run::Variant& variant) {
    return variant.resolution.widthPx > 0 ? variant.resolution : machine.panel.native;
}

Work workOf(const Model& model, const machine::Machine& machine, const game::Game& game, const run::Variant& variant,
            const std::string& part) {
    double scale = 1.0;
    LevelWork sum;
    for (const auto& [id, name] : variant.values) {
        const auto* setting = game.setting(id);
        const auto level = setting == nullptr ? std::nullopt : setting->levelIndex(name);
        if (!level) continue;
        if (setting->levels[*level].scale) scale = *setting->levels[*level].scale;
        const auto it = model.levels.find(id);
        if (it == model.levels.end()) continue;
        const LevelWork& w = it->second[*level];
        sum.cpuMs += w.cpuMs;
        sum.gpuMs += w.gpuMs;
        sum.gpuPerMpixMs += w.gpuPerMpixMs;
        sum.gpuMemoryMib += w.gpuMemoryMib;
        sum.systemMemoryMib += w.systemMemoryMib;
    }
    const double mpix = display::megapixelsOf(outputOf(machine, variant)).value() * scale * scale;
    const auto found = model.parts.find(part);
    const PartLoad load = found == model.parts.end() ? PartLoad{} : found->second;
    Work work;
    work.gpuMemoryMib = model.gpuBaseMib + model.gpuMibPerMpix * mpix + sum.gpuMemoryMib;
    work.systemMemoryMib = model.systemBaseMib + model.gameMib + sum.systemMemoryMib;
    const double overflowGib = std::max(0.0, work.gpuMemoryMib - machine.gpuMemory.value()) / 1024;
    work.cpuMs = (model.cpuMs + sum.cpuMs) * load.cpu / model.cpuSpeed;
    work.gpuMs =
        (model.gpuMs + sum.gpuMs + (model.gpuPerMpixMs + sum.gpuPerMpixMs) * mpix) * load.gpu / model.gpuSpeed +
        model.pagingMsPerGib * overflowGib * (1 + overflowGib / 2);
    if (model.copy) work.gpuMs += model.copy->blockingShare * model.copy->msOf(outputOf(machine, variant));
    work.gpuMemoryMib = std::min(work.gpuMemoryMib, machine.gpuMemory.value());
    return work;
}

} // namespace impasto::rig_model
