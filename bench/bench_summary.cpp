// SPDX-License-Identifier: GPL-3.0-or-later
// All that is said of one run, with a hitch in every hundred frames, against reading its log in the same run: summary,
// own doubt, checks, proposed trims, distribution, and where the hitches come from. IMPASTO_BENCH_ROWS says how many
// frames; a million otherwise.
#include <benchmark/benchmark.h>
#include <cstdlib>
#include <filesystem>
#include <fmt/os.h>
#include <impasto/base/random.h>
#include <impasto/frames/doubt.h>
#include <impasto/frames/examine.h>
#include <impasto/frames/hitch_origin.h>
#include <impasto/frames/shape.h>
#include <impasto/logs/import.h>
#include <unistd.h>

namespace {

using namespace impasto;

std::int64_t rows() {
    const char* said = std::getenv("IMPASTO_BENCH_ROWS");
    return said == nullptr ? 1000000 : std::atoll(said);
}

/// Written once, gone at the end.
const std::filesystem::path& logFile() {
    static const struct File {
        File() : path(std::filesystem::temp_directory_path() / fmt::format("impasto-summary-{}.csv", ::getpid())) {
            auto out = fmt::output_file(path.string());
            RandomStream noise(1, "frames");
            out.print("time_s,frame_ms,cpu_ms,gpu_ms,quality\n");
            double at = 0;
            for (std::int64_t i = 0; i < rows(); ++i) {
                const double ms = 16 + noise.normal() + (noise.uniform() < 0.01 ? 25 : 0);
                at += ms / 1000;
                out.print("{:.6f},{:.4f},{:.3f},{:.3f},{}\n", at, ms, 0.6 * ms, 0.9 * ms, i % 7);
            }
        }
        ~File() { std::filesystem::remove(path); }
        std::filesystem::path path;
    } file;
    return file.path;
}

void read(benchmark::State& state) {
    for (auto _ : state) benchmark::DoNotOptimize(logs::readLog(logFile()));
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations()) * rows());
}
BENCHMARK(read)->Unit(benchmark::kMillisecond);

void everything(benchmark::State& state) {
    const auto capture = logs::readLog(logFile());
    if (!capture) return state.SkipWithError("the log cannot be read");
    for (auto _ : state) {
        const auto summary = frames::summarize(capture->framesMs, Fps(60));
        benchmark::DoNotOptimize(frames::doubtOf(*capture));
        benchmark::DoNotOptimize(frames::examine(*capture));
        benchmark::DoNotOptimize(frames::pollutionOf(*capture));
        benchmark::DoNotOptimize(frames::secondsOf(capture->framesMs));
        benchmark::DoNotOptimize(frames::originOf({summary->hitches, frames::partStartsOf(*capture)}));
    }
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations()) * rows());
}
BENCHMARK(everything)->Unit(benchmark::kMillisecond);

} // namespace
