// SPDX-License-Identifier: GPL-3.0-or-later
// Rows a second of the import of a log of five columns, against two references in the same run: a plain reader of our
// own that knows the table beforehand (the whole file in memory, every cell by from_chars), and reading the bytes and
// counting lines. The memory that the import takes at its peak is told as a share of the columns that come of it.
#include "sample_log.h"

#include <benchmark/benchmark.h>
#include <charconv>
#include <fstream>
#include <impasto/logs/import.h>

namespace {

using bench::rows;

const std::filesystem::path& logFile() {
    static const bench::SampleLog log([](std::int64_t i) { return 8 + 0.001 * static_cast<double>(i % 977); });
    return log.path();
}

void done(benchmark::State& state) {
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations()) * rows());
}

void told(benchmark::State& state, const std::optional<bench::Memory>& memory, const char* of) {
    if (!memory) return state.SkipWithError("the child failed");
    state.counters["peak_MB"] = memory->peakBytes / 1e6;
    state.counters[std::string("peak_per_") + of] = memory->peakBytes / memory->dataBytes;
}

void importMemory(benchmark::State& state) {
    logFile();
    for (auto _ : state)
        told(state, bench::peakOf([] {
                 const auto capture = impasto::logs::readLog(logFile());
                 return capture ? static_cast<double>(impasto::capture::bytesOf(*capture)) : 0.0;
             }),
             "columns");
}
BENCHMARK(importMemory)->Unit(benchmark::kMillisecond)->Iterations(1);

/// The same frames as objects of a JSON document; against the file's size.
void jsonMemory(benchmark::State& state) {
    const auto path = std::filesystem::path(logFile()).replace_extension("json");
    {
        auto out = fmt::output_file(path.string());
        for (std::int64_t i = 0; i < rows(); ++i)
            out.print("{}{{\"frame_ms\":{:.4f},\"gpu_ms\":{:.3f}}}", i == 0 ? "[" : ",\n",
                      8 + 0.001 * static_cast<double>(i % 977), 7 + 0.001 * static_cast<double>(i % 577));
        out.print("]");
    }
    for (auto _ : state)
        told(state, bench::peakOf([&] {
                 const auto capture = impasto::logs::readLog(path);
                 return capture ? static_cast<double>(std::filesystem::file_size(path)) : 0.0;
             }),
             "file");
    std::filesystem::remove(path);
}
BENCHMARK(jsonMemory)->Unit(benchmark::kMillisecond)->Iterations(1);

/// A log of which every eighth row has no time, so that few rows stand together.
void importWithGaps(benchmark::State& state) {
    const auto path = std::filesystem::path(logFile()).replace_extension("gaps.csv");
    {
        auto out = fmt::output_file(path.string());
        out.print("time_s,frame_ms,cpu_ms,gpu_ms,quality\n");
        for (std::int64_t i = 0; i < rows(); ++i)
            if (i % 8 == 0)
                out.print("{:.6f},NA,NA,NA,3\n", 0.008 * static_cast<double>(i));
            else
                out.print("{:.6f},8.0{},4.8,7.2,3\n", 0.008 * static_cast<double>(i), i % 10);
    }
    for (auto _ : state) benchmark::DoNotOptimize(impasto::logs::readLog(path));
    done(state);
    std::filesystem::remove(path);
}
BENCHMARK(importWithGaps)->Unit(benchmark::kMillisecond);

void bytesReference(benchmark::State& state) {
    logFile();
    for (auto _ : state) {
        std::ifstream in(logFile(), std::ios::binary);
        std::string block(std::size_t{1} << 20U, '\0');
        std::int64_t lines = 0;
        while (in.read(block.data(), static_cast<std::streamsize>(block.size())) || in.gcount() > 0)
            lines += std::count(block.begin(), block.begin() + in.gcount(), '\n');
        benchmark::DoNotOptimize(lines);
    }
    done(state);
}
BENCHMARK(bytesReference)->Unit(benchmark::kMillisecond);

void plainReference(benchmark::State& state) {
    logFile();
    for (auto _ : state) {
        std::ifstream in(logFile(), std::ios::binary);
        std::string text(std::filesystem::file_size(logFile()), '\0');
        in.read(text.data(), static_cast<std::streamsize>(text.size()));
        std::vector<double> columns[5];
        const char* at = text.data() + text.find('\n') + 1;
        const char* const end = text.data() + text.size();
        while (at < end)
            for (auto& column : columns) {
                double value = 0;
                at = std::from_chars(at, end, value).ptr + 1;
                column.push_back(value);
            }
        benchmark::DoNotOptimize(columns[4].data());
    }
    done(state);
}
BENCHMARK(plainReference)->Unit(benchmark::kMillisecond);

void import(benchmark::State& state) {
    logFile();
    for (auto _ : state) benchmark::DoNotOptimize(impasto::logs::readLog(logFile()));
    done(state);
}
BENCHMARK(import)->Unit(benchmark::kMillisecond);

} // namespace
