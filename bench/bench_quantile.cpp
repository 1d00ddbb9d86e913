// SPDX-License-Identifier: GPL-3.0-or-later
// Quantiles by selection, against a full sort in the same run; the bootstrap of a run against one resample the long
// way.
#include <algorithm>
#include <benchmark/benchmark.h>
#include <impasto/base/random.h>
#include <impasto/frames/doubt.h>
#include <impasto/frames/summary.h>

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
    for (auto _ : state)
        benchmark::DoNotOptimize(impasto::frames::summarize(frames(), impasto::frames::OnTime{impasto::Fps(120)}));
}
BENCHMARK(wholeSummary)->Unit(benchmark::kMillisecond);

constexpr std::size_t runFrames = 100000;

/// One resample the long way: its frames drawn one block after the other, and the slowest percent of them found.
void resampleReference(benchmark::State& state) {
    const std::span all(frames().data(), runFrames);
    impasto::RandomStream s(1, "long way");
    for (auto _ : state) {
        std::vector<double> drawn;
        drawn.reserve(runFrames);
        std::size_t at = 0;
        while (drawn.size() < runFrames) {
            if (drawn.empty() || s.uniform() < 0.02) at = s.below(runFrames);
            drawn.push_back(all[at]);
            at = (at + 1) % runFrames;
        }
        benchmark::DoNotOptimize(impasto::stats::low(drawn, 0.01, impasto::stats::LowRule::WorstMean));
    }
    state.SetItemsProcessed(state.iterations());
}
BENCHMARK(resampleReference)->Unit(benchmark::kMillisecond);

/// 1,000 resamples of 100,000 frames, the average and both lows of all three schools.
void bootstrap(benchmark::State& state) {
    const std::span all(frames().data(), runFrames);
    for (auto _ : state) benchmark::DoNotOptimize(impasto::frames::doubtOf(all, {1000, 50.0, 1}));
    state.SetItemsProcessed(1000 * state.iterations());
}
BENCHMARK(bootstrap)->Unit(benchmark::kMillisecond);

} // namespace
