// SPDX-License-Identifier: GPL-3.0-or-later
// All that is said of one run, with a hitch in every hundred frames, against reading its log in the same run: summary,
// own doubt, checks, proposed trims, distribution, and where the hitches come from.
#include "sample_log.h"

#include <benchmark/benchmark.h>
#include <impasto/base/random.h>
#include <impasto/capture/pyramid.h>
#include <impasto/frames/doubt.h>
#include <impasto/frames/examine.h>
#include <impasto/frames/hitch_origin.h>
#include <impasto/frames/shape.h>
#include <impasto/logs/import.h>
#include <impasto/stats/blocks.h>

namespace {

using namespace impasto;
using bench::rows;

const std::filesystem::path& logFile() {
    static RandomStream noise(1, "frames");
    static const bench::SampleLog log(
        [](std::int64_t) { return 16 + noise.normal() + (noise.uniform() < 0.01 ? 25 : 0); });
    return log.path();
}

void read(benchmark::State& state) {
    logFile();
    for (auto _ : state) benchmark::DoNotOptimize(logs::readLog(logFile()));
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations()) * rows());
}
BENCHMARK(read)->Unit(benchmark::kMillisecond);

void everything(benchmark::State& state) {
    logFile();
    const auto capture = logs::readLog(logFile());
    if (!capture) return state.SkipWithError("the log cannot be read");
    for (auto _ : state) {
        const auto summary = frames::summarize(capture->framesMs, frames::OnTime{Fps(60)});
        benchmark::DoNotOptimize(frames::doubtOf(*capture));
        benchmark::DoNotOptimize(frames::examine(*capture));
        benchmark::DoNotOptimize(frames::pollutionOf(*capture));
        benchmark::DoNotOptimize(frames::secondsOf(capture->framesMs));
        benchmark::DoNotOptimize(frames::originOf({summary->hitches, frames::partStartsOf(*capture)}));
    }
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations()) * rows());
}
BENCHMARK(everything)->Unit(benchmark::kMillisecond);

/// The pieces between two of which a computation can be stopped.
template <class Piece>
void piece(benchmark::State& state, Piece piece) {
    logFile();
    const auto capture = logs::readLog(logFile());
    if (!capture) return state.SkipWithError("the log cannot be read");
    for (auto _ : state) piece(*capture);
}
BENCHMARK_CAPTURE(piece, summary, [](const capture::Capture& c) {
    benchmark::DoNotOptimize(frames::summarize(c.framesMs, frames::OnTime{Fps(60)}));
})->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(piece, blockLength, [](const capture::Capture& c) {
    benchmark::DoNotOptimize(stats::blockLength(c.framesMs));
})->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(piece, doubtOfTwoResamples, [](const capture::Capture& c) {
    benchmark::DoNotOptimize(frames::doubtOf(c, {2, 10.0, 1, 0.95}));
})->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(piece, checks, [](const capture::Capture& c) {
    benchmark::DoNotOptimize(frames::examine(c));
})->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(piece, proposedTrims, [](const capture::Capture& c) {
    benchmark::DoNotOptimize(frames::pollutionOf(c));
})->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(piece, seconds, [](const capture::Capture& c) {
    benchmark::DoNotOptimize(frames::secondsOf(c.framesMs));
})->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(piece, distribution, [](const capture::Capture& c) {
    benchmark::DoNotOptimize(frames::Distribution(c.framesMs));
})->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(piece, pyramid, [](const capture::Capture& c) {
    benchmark::DoNotOptimize(capture::Pyramid(c.framesMs));
})->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(piece, origin, [](const capture::Capture& c) {
    static const auto summary = frames::summarize(c.framesMs, frames::OnTime{Fps(60)});
    benchmark::DoNotOptimize(frames::originOf({summary->hitches, frames::partStartsOf(c)}));
})->Unit(benchmark::kMillisecond);

} // namespace
