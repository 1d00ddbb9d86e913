// SPDX-License-Identifier: GPL-3.0-or-later
// What limits one run of 20,000 frames with twelve tracks, part by part, against summing its columns in the same run.
#include <benchmark/benchmark.h>
#include <cmath>
#include <impasto/base/random.h>
#include <impasto/limits/what_if.h>
#include <memory>
#include <numeric>
#include <span>

namespace {

using namespace impasto;

constexpr std::size_t frames = 20000;
constexpr std::size_t tracks = 12;

/// Three parts, a hitch in every two hundred frames, four readings a second.
std::shared_ptr<const capture::Capture> recording() {
    RandomStream noise(1, "limits");
    auto c = std::make_shared<capture::Capture>();
    auto& cpu = c->cpuWorkMs.emplace();
    auto& gpu = c->gpuWorkMs.emplace();
    double at = 0;
    for (std::size_t i = 0; i < frames; ++i) {
        const double slow = 2 * std::sin(static_cast<double>(i) / 900);
        gpu.push_back(11 + slow + noise.uniform() + (noise.below(200) == 0 ? 25 : 0));
        cpu.push_back(9 + noise.uniform());
        c->framesMs.push_back(std::max(gpu.back(), cpu.back()) + 0.2);
        at += c->framesMs.back();
    }
    c->marks = {{"town", 0}, {"woods", frames / 3}, {"shore", 2 * frames / 3}};
    for (const auto sensor : std::span(capture::allSensors).first(tracks)) {
        auto& track = c->tracks.emplace_back();
        track.sensor = sensor;
        for (double ms = 0; ms < at; ms += 250) {
            track.timeMs.push_back(ms);
            track.values.push_back(static_cast<float>(60 + 20 * noise.uniform()));
        }
    }
    return c;
}

void sumsReference(benchmark::State& state) {
    const auto run = recording();
    for (auto _ : state)
        benchmark::DoNotOptimize(std::accumulate(run->framesMs.begin(), run->framesMs.end(), 0.0) +
                                 std::accumulate(run->cpuWorkMs->begin(), run->cpuWorkMs->end(), 0.0) +
                                 std::accumulate(run->gpuWorkMs->begin(), run->gpuWorkMs->end(), 0.0));
}
BENCHMARK(sumsReference)->Unit(benchmark::kMillisecond);

void limitsOfOneRun(benchmark::State& state) {
    const std::vector<std::shared_ptr<const capture::Capture>> runs{recording()};
    machine::Machine machine;
    machine.gpuMemory = Mebibytes(8192);
    machine.systemMemory = Mebibytes(16384);
    for (auto _ : state) {
        const auto parts = limits::judge(runs, {}, {}, 0.97, Fps(60), {&machine, {}});
        for (const auto& part : parts) benchmark::DoNotOptimize(limits::whatIfsOf(part, runs));
        if (parts.size() != 3) state.SkipWithError("not three parts");
    }
}
BENCHMARK(limitsOfOneRun)->Unit(benchmark::kMillisecond);

} // namespace
