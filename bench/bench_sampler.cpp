// SPDX-License-Identifier: GPL-3.0-or-later
// One reading of all sensors of this machine, against reading /proc/stat as a whole: what five a second take of a core.
#include <benchmark/benchmark.h>
#include <fstream>
#include <impasto/probe/sampler.h>
#include <sstream>

namespace {

using namespace impasto;

void oneFileReference(benchmark::State& state) {
    for (auto _ : state) {
        std::ifstream in("/proc/stat");
        std::ostringstream text;
        text << in.rdbuf();
        benchmark::DoNotOptimize(text.str());
    }
}
BENCHMARK(oneFileReference)->Unit(benchmark::kMicrosecond);

void oneReading(benchmark::State& state) {
    probe::Sampler sampler;
    double atMs = 0;
    for (auto _ : state) sampler.sample(atMs += 200);
    state.counters["sensors"] = static_cast<double>(sampler.latest().size());
    state.counters["share_of_core_at_5_Hz"] = benchmark::Counter(
        static_cast<double>(state.iterations()) / 5, benchmark::Counter::kIsRate | benchmark::Counter::kInvert);
}
BENCHMARK(oneReading)->Unit(benchmark::kMicrosecond);

} // namespace
