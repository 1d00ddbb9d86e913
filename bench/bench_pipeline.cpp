// SPDX-License-Identifier: GPL-3.0-or-later
// Frames a second of the pipeline recurrence against the bare maximum of three numbers a frame; and a whole run of the
// simulated rig, sensors among it, against drawing two normal numbers a frame.
#include <benchmark/benchmark.h>
#include <impasto/base/file.h>
#include <impasto/base/random.h>
#include <impasto/pace/cap.h>
#include <impasto/rig_sim/simulated.h>

namespace {

constexpr std::size_t frames = 200000;

std::vector<double> work(const char* name) {
    impasto::RandomStream s(1, name);
    std::vector<double> out(frames);
    for (double& v : out) v = s.uniform(6, 16);
    return out;
}

void maximumReference(benchmark::State& state) {
    const auto c = work("c"), g = work("g");
    for (auto _ : state) {
        double at = 0;
        for (std::size_t i = 0; i < frames; ++i) at += std::max({c[i], g[i], 8.0});
        benchmark::DoNotOptimize(at);
    }
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations() * frames));
}
BENCHMARK(maximumReference)->Unit(benchmark::kMillisecond);

void pipeline(benchmark::State& state) {
    const auto c = work("c"), g = work("g");
    impasto::pace::Pipeline p;
    p.limiterMs = 12;
    for (auto _ : state) benchmark::DoNotOptimize(impasto::pace::simulate(p, c, g));
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations() * frames));
}
BENCHMARK(pipeline)->Unit(benchmark::kMillisecond);

constexpr std::size_t runFrames = 240 * 60;

void normalsReference(benchmark::State& state) {
    impasto::RandomStream s(1, "normals");
    for (auto _ : state) {
        double sum = 0;
        for (std::size_t i = 0; i < 2 * runFrames; ++i) sum += s.normal();
        benchmark::DoNotOptimize(sum);
    }
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations() * runFrames));
}
BENCHMARK(normalsReference)->Unit(benchmark::kMillisecond);

/// 60 s at about 240 fps, and a hundred caps: predicted with bands, against the bare pipeline as often.
void hundredCaps(benchmark::State& state) {
    impasto::capture::Capture capture;
    capture.cpuWorkMs.emplace();
    capture.gpuWorkMs.emplace();
    impasto::RandomStream s(5, "caps");
    for (std::size_t i = 0; i < runFrames; ++i) {
        const double gpu = s.uniform(3.8, 4.5) + (i % 400 == 7 ? 9 : 0);
        capture.framesMs.push_back(gpu);
        capture.cpuWorkMs->push_back(2.5);
        capture.gpuWorkMs->push_back(gpu);
    }
    const std::array<impasto::pace::UncappedRun, 1> runs{{{&capture, {}}}};
    impasto::run::Brief brief;
    brief.target = impasto::Fps(120);
    const auto replay = *impasto::pace::replayOf(runs, {}, brief, impasto::pace::Clocks::Held);
    for (auto _ : state)
        benchmark::DoNotOptimize(impasto::pace::curve(replay, impasto::Fps(80), impasto::Fps(260), 100, {}, {}));
}
BENCHMARK(hundredCaps)->Unit(benchmark::kMillisecond);

void hundredPipelinesReference(benchmark::State& state) {
    std::vector<double> c(runFrames, 2.5), g(runFrames, 4.2);
    for (auto _ : state)
        for (int cap = 0; cap < 100; ++cap) {
            impasto::pace::Pipeline p;
            p.limiterMs = 1000.0 / (80 + 1.8 * cap);
            benchmark::DoNotOptimize(impasto::pace::simulate(p, c, g));
        }
}
BENCHMARK(hundredPipelinesReference)->Unit(benchmark::kMillisecond);

/// 60 s at about 240 fps with power, heat, clocks and twelve sensors.
void wholeRun(benchmark::State& state) {
    const std::filesystem::path data = IMPASTO_DATA_DIR;
    const auto machineText = impasto::readFile(data / "machines/marram-desktop.toml"),
               gameText = impasto::readFile(data / "games/lantern-orchard.toml");
    if (!machineText || !gameText) return state.SkipWithError("no data");
    impasto::description::Originals texts;
    texts.add(*machineText);
    texts.add(*gameText);
    const auto machine = impasto::machine::parseMachine(*machineText, "machine");
    const auto game = impasto::game::parseGame(*gameText, "game");
    const auto rig = machine && game ? impasto::rig_sim::simulatedRig(texts, *machine, *game)
                                     : impasto::Result<std::unique_ptr<impasto::rig::Rig>>(nullptr);
    if (!rig || *rig == nullptr) return state.SkipWithError("no rig");
    impasto::run::Order order;
    order.variant.values = game->preset("low")->values;
    order.variant.resolution = {1280, 720};
    order.variant.cap = impasto::Fps(240);
    order.route = game->routes.front().name;
    std::size_t made = 0;
    for (auto _ : state) {
        const auto run = (*rig)->record(order, {1}, {}, {});
        made += run->capture.frames();
        benchmark::DoNotOptimize(run);
    }
    state.SetItemsProcessed(static_cast<std::int64_t>(made));
}
BENCHMARK(wholeRun)->Unit(benchmark::kMillisecond);

} // namespace
