// SPDX-License-Identifier: GPL-3.0-or-later
// Quantiles by selection, against a full sort in the same run.
#include <algorithm>
#include <benchmark/benchmark.h>
#include <impasto/base/random.h>
#include <impasto/stats/stats.h>

namespace {

const std::vector<double>& frames() {
    static const std::vector<double> values = [] {
        impasto::RandomStream s(1, "frames");
        std::vector<double> out(1000000);
        for (double& v : out) v = s.lognormal(8, 0.3);
        return out;
    }();
    return values;
}

void fullSortReference(benchmark::State& state) {
    for (auto _ : state) {
        auto copy = frames();
        std::sort(copy.begin(), copy.end());
        benchmark::DoNotOptimize(copy[990000]);
    }
}
BENCHMARK(fullSortReference)->Unit(benchmark::kMillisecond);

void selection(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(impasto::stats::quantile(frames(), 0.99));
}
BENCHMARK(selection)->Unit(benchmark::kMillisecond);

void wholeSummary(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(impasto::stats::summarize(frames(), impasto::Fps(120)));
}
BENCHMARK(wholeSummary)->Unit(benchmark::kMillisecond);

} // namespace
