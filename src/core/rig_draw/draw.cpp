// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/rig_draw/draw.h>

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/base/text.h>
#include <impasto/description/description.h>
#include <impasto/game/game.h>
#include <impasto/machine/machine.h>

namespace impasto::rig_draw {
namespace {

double rounded(double value, double step) {
    return std::round(value / step) * step;
}

/// A setting of the population: what it costs at its highest level, at reference speed, before the draw.
struct Kind {
    const char *id, *label;
    double weight;
    std::vector<const char*> levels;
    double cpuMs, gpuMs, gpuPerMpixMs, gpuMib;
};

const std::vector<Kind>& kinds() {
    static const std::vector<Kind> all{{"shadows", "Shadows", 2, {"low", "medium", "high", "ultra"}, 0.2, 2.4, 0, 500},
                                       {"reflections", "Reflections", 2, {"off", "low", "high"}, 0, 0, 0.45, 100},
                                       {"fog", "Fog", 1, {"off", "medium", "high"}, 0, 0, 0.35, 60},
                                       {"occlusion", "Ambient occlusion", 1, {"off", "on"}, 0, 0, 0.25, 20},
                                       {"filter", "Texture filter", 1, {"4x", "16x"}, 0, 0, 0.06, 0},
                                       {"textures", "Textures", 2, {"low", "medium", "high"}, 0, 0.05, 0, 3200},
                                       {"crowd", "Crowd", 2, {"few", "some", "many"}, 2.8, 0.3, 0, 150},
                                       {"view", "View distance", 2, {"near", "middle", "far"}, 1.4, 0.5, 0, 300},
                                       {"physics", "Physics", 1, {"half", "full"}, 1.0, 0, 0, 0},
                                       {"foliage", "Foliage", 1, {"low", "medium", "high"}, 0.3, 1.0, 0, 220},
                                       {"particles", "Particles", 1, {"low", "high"}, 0.3, 0.2, 0.15, 40}};
    return all;
}

std::string list(const std::vector<double>& values) {
    std::string out;
    for (const double v : values) out += (out.empty() ? "" : ", ") + shortestText(v);
    return "[" + out + "]";
}

/// Costs of the levels: none at the lowest, rising to the highest with a bend.
std::vector<double> ramp(double top, std::size_t levels, double bend, double step) {
    std::vector<double> out;
    for (std::size_t i = 0; i < levels; ++i) {
        const double share = static_cast<double>(i) / static_cast<double>(levels - 1);
        out.push_back(rounded(top * (bend * share + (1 - bend) * share * share), step));
    }
    return out;
}

std::string drawMachine(std::uint64_t seed) {
    RandomStream s(seed, "drawn machine");
    machine::Machine m;
    m.name = fmt::format("Practice machine {}", seed);
    m.cpu = "drawn";
    m.gpu = "drawn";
    m.cores = static_cast<int>(4 + 2 * s.below(5));
    m.gpuMemory = Mebibytes(1024.0 * static_cast<double>(6 + 2 * s.below(4)));
    m.systemMemory = Mebibytes(1024.0 * static_cast<double>(12 + 4 * s.below(3)));
    const display::Panel panels[] = {{{1280, 800}, Hertz(60), {}},
                                     {{1920, 1080}, Hertz(144), display::RefreshRange{Hertz(48), Hertz(144)}},
                                     {{2560, 1440}, Hertz(144), display::RefreshRange{Hertz(48), Hertz(144)}},
                                     {{2560, 1440}, Hertz(120), {}}};
    m.panel = panels[s.below(4)];
    const double speed = std::clamp(s.lognormal(1, 0.25), 0.5, 2.0);
    RandomStream more(seed, "drawn machine, more");
    m.copyRoute = more.uniform() < 0.2;
    if (more.uniform() < 0.25) m.secondGpu = "drawn";
    // A panel of more pixels comes with a faster GPU, more or less.
    const double mpix = display::megapixelsOf(m.panel.native).value();
    const double gpuSpeed = std::clamp(s.lognormal(0.45 + 0.16 * mpix, 0.2), 0.25, 2.5);
    std::string out = machine::toToml(m);
    out += fmt::format("\n[rig]\ncpu_speed = {}\ngpu_speed = {}\n", shortestText(rounded(speed, 0.01)),
                       shortestText(rounded(gpuSpeed, 0.01)));
    out += fmt::format("switch_loss_cpu_ms = {}\nswitch_loss_gpu_ms = {}\n",
                       shortestText(rounded(s.uniform(0.1, 0.25), 0.01)),
                       shortestText(rounded(s.uniform(0.15, 0.35), 0.01)));
    out += fmt::format("paging_ms_per_gib = {}\n", shortestText(rounded(s.uniform(1.5, 4), 0.1)));
    out += fmt::format("paging_backlog_ms_per_second = {}\nsharpening_per_mpix_ms = {}\n",
                       shortestText(rounded(more.uniform(30, 60), 1)),
                       shortestText(rounded(more.uniform(0.01, 0.08), 0.01)));
    out += fmt::format("\n[rig.generation]\nfixed_ms = 0.5\nbuilt_in_per_mpix_ms = {}\noutside_per_mpix_ms = {}\n",
                       shortestText(rounded(more.uniform(0.3, 0.6), 0.01)),
                       shortestText(rounded(more.uniform(1.2, 2), 0.01)));
    if (m.copyRoute)
        out += fmt::format("\n[rig.copy]\nfixed_ms = 0.8\ngib_per_second = {}\nblocking_share = 0.22\nsd = 0.08\n",
                           shortestText(rounded(more.uniform(3, 8), 0.1)));
    if (!m.secondGpu.empty())
        out += fmt::format("\n[rig.second_gpu]\nspeed = {}\nlink_fixed_ms = 0.4\nlink_gib_per_second = {}\nidle_w = "
                           "8\nbusy_w = 60\n",
                           shortestText(rounded(more.uniform(0.2, 0.7), 0.01)),
                           shortestText(rounded(more.uniform(3, 8), 0.1)));
    return out;
}

game::Game drawGame(RandomStream& s, RandomStream& more, std::uint64_t seed, std::vector<const Kind*>& chosen) {
    game::Game g;
    for (const auto kind : {game::UpscalerKind::Spatial, game::UpscalerKind::Temporal, game::UpscalerKind::Learned})
        if (more.uniform() < 0.5) g.upscalers.push_back(kind);
    g.generatesFrames = more.uniform() < 0.3;
    g.name = fmt::format("Practice game {}", seed);
    g.version = "1";
    game::Setting scale{"render_scale", "Render scale", 2, false, true, false, {}};
    for (const auto& [name, factor, picture] :
         {std::tuple("50%", 0.5, 0.5), {"67%", 0.667, 0.78}, {"77%", 0.77, 0.9}, {"100%", 1.0, 1.0}})
        scale.levels.push_back({name, picture, factor});
    g.settings.push_back(scale);
    for (const auto& kind : kinds()) {
        if (s.uniform() > 0.75) continue;
        chosen.push_back(&kind);
        game::Setting setting{kind.id,
                              kind.label,
                              kind.weight,
                              kind.cpuMs > 0.25,
                              kind.gpuMs + kind.gpuPerMpixMs > 0.05,
                              kind.gpuMib >= 1000,
                              {}};
        const double least = s.uniform(0.3, 0.6);
        for (std::size_t i = 0; i < kind.levels.size(); ++i) {
            const double share = static_cast<double>(i) / static_cast<double>(kind.levels.size() - 1);
            setting.levels.push_back({kind.levels[i], rounded(least + (1 - least) * std::sqrt(share), 0.01), {}});
        }
        g.settings.push_back(setting);
    }
    for (const char* name : {"high", "low"}) {
        game::Preset preset{name, {}};
        for (const auto& setting : g.settings)
            preset.values[setting.id] = (preset.name == "high" ? setting.levels.back() : setting.levels.front()).name;
        g.presets.push_back(preset);
    }
    game::Route route{"the practice lap", {}};
    const std::uint64_t parts = 2 + s.below(3);
    for (std::uint64_t i = 0; i < parts; ++i)
        route.parts.push_back({fmt::format("part {}", i + 1), std::round(s.uniform(14, 26))});
    g.routes.push_back(route);
    return g;
}

std::string drawGameText(std::uint64_t seed) {
    RandomStream s(seed, "drawn game"), more(seed, "drawn game, more");
    std::vector<const Kind*> chosen;
    const game::Game g = drawGame(s, more, seed, chosen);
    std::string out = game::toToml(g);
    out +=
        fmt::format("\n[rig]\nframes_in_flight = {}\ncpu_ms = {}\ngpu_ms = {}\ngpu_per_mpix_ms = {}\n", 2 + s.below(2),
                    shortestText(rounded(s.uniform(2.5, 6.5), 0.01)), shortestText(rounded(s.uniform(1.5, 5), 0.01)),
                    shortestText(rounded(s.uniform(0.5, 1.3), 0.01)));
    out += fmt::format("gpu_base_mib = {}\ngpu_mib_per_mpix = 160\ngame_mib = {}\n", 1000 + 100 * s.below(12),
                       3000 + 500 * s.below(8));
    const double swing = rounded(s.uniform(0.015, 0.04), 0.001);
    out += fmt::format("noise = {{ run_sd = {}, section_sd = {}, cpu_swing = {}, gpu_swing = {}, swing_seconds = 0.35, "
                       "white_sd = 0.015, turn = {}, background_sd = {} }}\n",
                       shortestText(rounded(s.uniform(0.002, 0.006), 0.0001)),
                       shortestText(rounded(s.uniform(0.003, 0.01), 0.0001)), shortestText(swing), shortestText(swing),
                       shortestText(rounded(more.uniform(0, 0.03), 0.001)),
                       shortestText(rounded(more.uniform(0.05, 0.2), 0.01)));
    out += fmt::format("pixel_exponent = {}\ngpu_mib_per_output_mpix = {}\n",
                       shortestText(rounded(more.uniform(0.86, 1), 0.01)), 10 * more.below(15));
    out += fmt::format("upscaler_per_mpix_ms = {{ spatial = {0}, temporal = {1}, learned = {1}, engine = 0.05 }}\n",
                       shortestText(rounded(more.uniform(0.06, 0.14), 0.01)),
                       shortestText(rounded(more.uniform(0.15, 0.35), 0.01)));
    for (const char* lane : {"cpu", "gpu"}) {
        out +=
            fmt::format("{}_spikes = {{ per_second = {}, median_ms = {}, sigma = 0.4 }}\n", lane,
                        shortestText(rounded(s.uniform(0.03, 0.3), 0.01)), shortestText(rounded(s.uniform(3, 9), 0.1)));
        out += fmt::format("{}_deferred = {{ ms_per_second = {}, limit_ms = {} }}\n", lane,
                           shortestText(rounded(s.uniform(0, 9), 0.1)), shortestText(rounded(s.uniform(8, 18), 0.1)));
    }
    out += fmt::format("compiles = {{ count = {}, median_ms = 24, sigma = 0.6 }}\n", 30 + s.below(60));
    for (const auto& part : g.routes.front().parts) {
        out += fmt::format("[[rig.part]]\nname = {}\ncpu = {}\ngpu = {}\n", description::quoted(part.name),
                           shortestText(rounded(s.uniform(0.7, 1.1), 0.01)),
                           shortestText(rounded(s.uniform(0.6, 1.1), 0.01)));
        std::string weights;
        for (const auto* kind : chosen)
            weights += fmt::format("{}{} = {}", weights.empty() ? "" : ", ", kind->id,
                                   shortestText(rounded(std::clamp(more.lognormal(1, 0.25), 0.3, 2.0), 0.01)));
        if (!weights.empty()) out += fmt::format("weights = {{ {} }}\n", weights);
    }
    for (const auto* kind : chosen) {
        const double size = s.lognormal(1, 0.35), bend = s.uniform(0.4, 1);
        out += fmt::format("[rig.cost.{}]\n", kind->id);
        const auto put = [&](const char* key, double top, double step) {
            if (top > 0) out += fmt::format("{} = {}\n", key, list(ramp(top * size, kind->levels.size(), bend, step)));
        };
        put("cpu_ms", kind->cpuMs, 0.001);
        put("gpu_ms", kind->gpuMs, 0.001);
        put("gpu_per_mpix_ms", kind->gpuPerMpixMs, 0.001);
        put("gpu_memory_mib", kind->gpuMib, 1);
    }
    return out;
}

} // namespace

Drawn draw(std::uint64_t seed) {
    return {drawMachine(seed), drawGameText(seed)};
}

} // namespace impasto::rig_draw
