// SPDX-License-Identifier: GPL-3.0-or-later
// A session of many runs in a logbook: opening it, the first results of all runs, those of the one that is looked at,
// those of a later start, and saving one more, against reading the same frames from one plain file and summing them.
// Peak memory is of a process that opens and computes. IMPASTO_BENCH_RUNS: the most runs, 100 where it is not set.
#include "open/open_session.h"
#include "sample_log.h"

#include <benchmark/benchmark.h>
#include <fstream>
#include <impasto/base/random.h>
#include <impasto/logbook/logbook.h>
#include <impasto/results/results.h>
#include <numeric>

namespace {

using namespace impasto;

constexpr std::size_t framesOfRun = 15000;

const std::filesystem::path& folder() {
    static const struct Folder {
        ~Folder() { std::filesystem::remove_all(path); }
        std::filesystem::path path =
            std::filesystem::temp_directory_path() / fmt::format("impasto-growth-{}", ::getpid());
    } folder;
    return folder.path;
}

void sizes(benchmark::internal::Benchmark* each) {
    const char* said = std::getenv("IMPASTO_BENCH_RUNS");
    const std::int64_t most = said == nullptr ? 100 : std::atoll(said);
    for (std::int64_t runs = 10; runs <= most; runs *= 10) each->Arg(runs);
    each->Unit(benchmark::kMillisecond)->Iterations(1);
}

run::Run runOf(std::uint64_t number) {
    RandomStream noise(number, "growth");
    auto c = std::make_shared<capture::Capture>();
    c->framesMs.resize(framesOfRun);
    auto& cpu = c->cpuWorkMs.emplace(framesOfRun);
    auto& gpu = c->gpuWorkMs.emplace(framesOfRun);
    for (std::size_t i = 0; i < framesOfRun; ++i) {
        const double slow = 2 * std::sin(static_cast<double>(i) / 900);
        gpu[i] = static_cast<float>(12 + slow + noise.uniform());
        cpu[i] = static_cast<float>(7 + noise.uniform());
        c->framesMs[i] = 12.5 + slow + noise.uniform() + (noise.below(2000) == 0 ? 30 : 0);
    }
    run::Run run;
    run.id = {seededIdSource(1000 + number)()};
    run.capture = std::move(c);
    return run;
}

void write(const std::filesystem::path& file, std::int64_t runs) {
    auto book = logbook::Logbook::open(file);
    document::Session session;
    session.id = {seededIdSource(1)()};
    session.facts = std::make_shared<const document::Facts>();
    document::SessionStore store(session);
    store.onChange([&](const document::Change& change) {
        static_cast<void>((*book)->store(change, logbook::Logbook::wordsOf(change, store, {}), 0));
    });
    std::ofstream plain(file.string() + ".plain", std::ios::binary);
    for (std::int64_t i = 0; i < runs; ++i) {
        auto run = runOf(static_cast<std::uint64_t>(i));
        const auto& frames = run.capture->framesMs;
        plain.write(reinterpret_cast<const char*>(frames.data()), static_cast<std::streamsize>(8 * frames.size()));
        store.addRuns({std::move(run)});
    }
    (*book)->settle();
}

/// Written by a process of its own: what it takes would hide what is measured.
std::filesystem::path bookOf(std::int64_t runs) {
    auto file = folder() / fmt::format("{}.impasto", runs);
    if (std::filesystem::exists(file)) return file;
    std::filesystem::create_directories(folder());
    const pid_t child = ::fork();
    if (child == 0) {
        write(file, runs);
        ::_exit(0);
    }
    ::waitpid(child, nullptr, 0);
    return file;
}

Result<logbook::Stored> loaded(const std::filesystem::path& file) {
    auto book = logbook::Logbook::open(file);
    if (!book) return tl::unexpected(book.error());
    const auto heads = (*book)->sessions();
    if (!heads || heads->empty()) return fail(ErrorCode::NoFrames);
    return (*book)->load(heads->front().id);
}

void plainReference(benchmark::State& state) {
    const auto file = bookOf(state.range(0)).string() + ".plain";
    for (auto _ : state) {
        std::vector<double> frames(framesOfRun);
        std::ifstream in(file, std::ios::binary);
        double sum = 0;
        while (in.read(reinterpret_cast<char*>(frames.data()), static_cast<std::streamsize>(8 * frames.size())))
            sum = std::accumulate(frames.begin(), frames.end(), sum);
        benchmark::DoNotOptimize(sum);
    }
}
BENCHMARK(plainReference)->Apply(sizes);

void openSession(benchmark::State& state) {
    const auto file = bookOf(state.range(0));
    for (auto _ : state) benchmark::DoNotOptimize(loaded(file));
}
BENCHMARK(openSession)->Apply(sizes);

void firstResults(benchmark::State& state) {
    const auto stored = loaded(bookOf(state.range(0)));
    if (!stored) return state.SkipWithError("not loaded");
    for (auto _ : state) {
        results::ResultsCache cache;
        benchmark::DoNotOptimize(results::compute(stored->session, cache, {}));
    }
}
BENCHMARK(firstResults)->Apply(sizes);

/// How long the run that is looked at waits for its figures, of all that takes.
void shownRun(benchmark::State& state) {
    const auto stored = loaded(bookOf(state.range(0)));
    if (!stored) return state.SkipWithError("not loaded");
    for (auto _ : state) {
        results::ResultsCache cache;
        results::Watch watch;
        watch.first = stored->session.facts->runs.back().id;
        std::stop_source stop;
        watch.ready = [&](const results::Results&) { stop.request_stop(); };
        benchmark::DoNotOptimize(results::compute(stored->session, cache, {}, {stop.get_token(), {}}, {}, watch));
    }
}
BENCHMARK(shownRun)->Apply(sizes);

/// At a later start: what was computed of single runs was kept.
void laterResults(benchmark::State& state) {
    const auto stored = loaded(bookOf(state.range(0)));
    if (!stored) return state.SkipWithError("not loaded");
    const auto file = folder() / fmt::format("{}.kept", state.range(0));
    {
        results::ResultsCache cache;
        cache.keepIn(app::keepingIn(std::make_shared<logbook::KeptResults>(file), 1));
        benchmark::DoNotOptimize(results::compute(stored->session, cache, {}));
    }
    for (auto _ : state) {
        results::ResultsCache cache;
        cache.keepIn(app::keepingIn(std::make_shared<logbook::KeptResults>(file), 2));
        benchmark::DoNotOptimize(results::compute(stored->session, cache, {}));
    }
    state.counters["kept_MB"] = static_cast<double>(std::filesystem::file_size(file)) / 1e6;
}
BENCHMARK(laterResults)->Apply(sizes);

void saveOneMore(benchmark::State& state) {
    const auto file = bookOf(state.range(0));
    auto stored = loaded(file);
    auto book = logbook::Logbook::open(file);
    if (!stored || !book) return state.SkipWithError("not loaded");
    document::SessionStore store(stored->session, stored->first, stored->steps, stored->depth);
    store.onChange([&](const document::Change& change) {
        static_cast<void>((*book)->store(change, logbook::Logbook::wordsOf(change, store, {}), 0));
    });
    std::uint64_t number = 100000;
    for (auto _ : state) store.addRuns({runOf(number++)});
}
BENCHMARK(saveOneMore)->Apply(sizes);

void memory(benchmark::State& state) {
    const auto file = bookOf(state.range(0));
    for (auto _ : state) {
        const auto peak = bench::peakOf([&file] {
            const auto stored = loaded(file);
            if (!stored) return 0.0;
            results::ResultsCache cache;
            benchmark::DoNotOptimize(results::compute(stored->session, cache, {}));
            double bytes = 0;
            for (const auto& run : stored->session.facts->runs)
                bytes += static_cast<double>(capture::bytesOf(*run.capture));
            return bytes;
        });
        if (!peak) return state.SkipWithError("the child failed");
        state.counters["columns_MB"] = peak->dataBytes / 1e6;
        state.counters["peak_MB"] = peak->peakBytes / 1e6;
    }
}
BENCHMARK(memory)->Apply(sizes);

} // namespace
