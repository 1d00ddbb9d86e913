// SPDX-License-Identifier: GPL-3.0-or-later
// Rows a second of the import of a log of five columns, against two references in the same run: a plain reader of our
// own that knows the table beforehand (the whole file in memory, every cell by from_chars), and reading the bytes and
// counting lines. IMPASTO_BENCH_ROWS says how many rows; a million otherwise. The memory that the import takes at its
// peak is told as a share of the columns that come of it.
#include <benchmark/benchmark.h>
#include <charconv>
#include <cstdlib>
#include <filesystem>
#include <fmt/os.h>
#include <fstream>
#include <impasto/logs/import.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

namespace {

std::int64_t rows() {
    const char* said = std::getenv("IMPASTO_BENCH_ROWS");
    return said == nullptr ? 1000000 : std::atoll(said);
}

/// Written once, gone at the end.
const std::filesystem::path& logFile() {
    static const struct File {
        File() : path(std::filesystem::temp_directory_path() / fmt::format("impasto-bench-{}.csv", ::getpid())) {
            auto out = fmt::output_file(path.string());
            out.print("time_s,frame_ms,cpu_ms,gpu_ms,quality\n");
            double at = 0;
            for (std::int64_t i = 0; i < rows(); ++i) {
                const double ms = 8 + 0.001 * static_cast<double>(i % 977);
                at += ms / 1000;
                out.print("{:.6f},{:.4f},{:.3f},{:.3f},{}\n", at, ms, 0.6 * ms, 0.9 * ms, i % 7);
            }
        }
        ~File() { std::filesystem::remove(path); }
        std::filesystem::path path;
    } file;
    return file.path;
}

void done(benchmark::State& state) {
    state.SetItemsProcessed(static_cast<std::int64_t>(state.iterations()) * rows());
}

/// In a process of its own; the figure is its peak over what the columns take.
void importMemory(benchmark::State& state) {
    logFile();
    double columns = 1, peak = 0;
    for (auto _ : state) {
        int ends[2];
        if (::pipe(ends) != 0) return state.SkipWithError("no pipe");
        const pid_t child = ::fork();
        if (child == 0) {
            rusage before{};
            ::getrusage(RUSAGE_SELF, &before);
            const auto capture = impasto::logs::readLog(logFile());
            double bytes[2] = {0, static_cast<double>(before.ru_maxrss) * 1024};
            if (capture) {
                bytes[0] = 8.0 * static_cast<double>(capture->frames()) * 3;
                for (const auto& other : capture->others) bytes[0] += 4.0 * static_cast<double>(other.values.size());
            }
            ::_exit(::write(ends[1], bytes, sizeof(bytes)) == sizeof(bytes) ? 0 : 1);
        }
        double bytes[2] = {1, 0};
        if (::read(ends[0], bytes, sizeof(bytes)) != sizeof(bytes)) state.SkipWithError("the child failed");
        int status = 0;
        rusage used{};
        ::wait4(child, &status, 0, &used);
        ::close(ends[0]);
        ::close(ends[1]);
        columns = bytes[0];
        peak = static_cast<double>(used.ru_maxrss) * 1024 - bytes[1];
    }
    state.counters["columns_MB"] = columns / 1e6;
    state.counters["peak_MB"] = peak / 1e6;
    state.counters["peak_per_columns"] = peak / columns;
}
// First of all: memory that another one gave back would hide what it takes.
BENCHMARK(importMemory)->Unit(benchmark::kMillisecond)->Iterations(1);

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
