// SPDX-License-Identifier: GPL-3.0-or-later
// Frames a second of the pipeline recurrence and of the simulated rig, against the bare maximum of three numbers a
// frame.
#include <benchmark/benchmark.h>
#include <impasto/base/random.h>
#include <impasto/pace/pipeline.h>

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

} // namespace
