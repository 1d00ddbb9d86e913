// SPDX-License-Identifier: GPL-3.0-or-later
// Rows a second of the import, against a reference reader in the same run: std::getline and std::stod over a stream.
#include <benchmark/benchmark.h>
#include <fmt/core.h>
#include <impasto/capture/import.h>
#include <sstream>

namespace {

const std::string& log() {
    static const std::string text = [] {
        std::string out = "time_s,frame_ms,cpu_ms,gpu_ms\n";
        double at = 0;
        for (int i = 0; i < 200000; ++i) {
            const double ms = 8 + 0.001 * (i % 977);
            at += ms / 1000;
            out += fmt::format("{:.6f},{:.4f},{:.3f},{:.3f}\n", at, ms, 0.6 * ms, 0.9 * ms);
        }
        return out;
    }();
    return text;
}

void streamReference(benchmark::State& state) {
    for (auto _ : state) {
        std::istringstream in(log());
        std::string line, cell;
        std::getline(in, line);
        std::vector<double> frames;
        while (std::getline(in, line)) {
            std::istringstream row(line);
            std::getline(row, cell, ',');
            std::getline(row, cell, ',');
            frames.push_back(std::stod(cell));
        }
        benchmark::DoNotOptimize(frames);
    }
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations()) * 200000);
}
BENCHMARK(streamReference)->Unit(benchmark::kMillisecond);

void import(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(impasto::capture::readLogText(log()));
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations()) * 200000);
}
BENCHMARK(import)->Unit(benchmark::kMillisecond);

} // namespace
