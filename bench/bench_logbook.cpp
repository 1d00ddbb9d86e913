// SPDX-License-Identifier: GPL-3.0-or-later
// Storing and loading a long run of eight columns, against packing the same bytes with nothing around it, and the
// memory that each takes at its peak as a share of the columns.
#include "sample_log.h"

#include <benchmark/benchmark.h>
#include <impasto/base/random.h>
#include <impasto/logbook/logbook.h>
#include <zstd.h>

namespace {

using namespace impasto;

/// One for this process and its children, gone at the end.
const std::filesystem::path& folder() {
    static const struct Folder {
        ~Folder() { std::filesystem::remove_all(path); }
        std::filesystem::path path =
            std::filesystem::temp_directory_path() / fmt::format("impasto-logbook-{}", ::getpid());
    } folder;
    return folder.path;
}

std::shared_ptr<const capture::Capture> longRun() {
    RandomStream noise(1, "frames");
    auto c = std::make_shared<capture::Capture>();
    const auto n = static_cast<std::size_t>(bench::rows());
    const auto fill = [&](auto& column) {
        column.resize(n);
        for (auto& v : column) v = static_cast<std::decay_t<decltype(v)>>(8 + 0.01 * std::round(100 * noise.uniform()));
    };
    fill(c->framesMs);
    fill(c->cpuWorkMs.emplace());
    fill(c->gpuWorkMs.emplace());
    fill(c->latencyMs.emplace());
    for (const char* name : {"a", "b", "c", "d"}) fill(c->others.emplace_back(capture::OtherColumn{name, {}}).values);
    return c;
}

struct Stored {
    document::Session session;
    std::unique_ptr<logbook::Logbook> book;
};

/// A session in a logbook of its own, without the run.
Stored emptyLogbook() {
    std::filesystem::remove_all(folder());
    std::filesystem::create_directories(folder());
    auto book = logbook::Logbook::open(folder() / "bench.impasto");
    document::Session session;
    session.id = {seededIdSource(1)()};
    session.facts = std::make_shared<const document::Facts>();
    return {std::move(session), book ? std::move(*book) : nullptr};
}

bool store(Stored& to, const std::shared_ptr<const capture::Capture>& capture) {
    document::SessionStore store(to.session);
    bool stored = false;
    store.onChange([&](const document::Change& change) {
        stored = to.book->store(change, logbook::Logbook::wordsOf(change, store, {}), 0).has_value();
    });
    run::Run run;
    run.id = {seededIdSource(2)()};
    run.capture = capture;
    store.addRuns({run});
    to.session = store.session();
    return stored;
}

void told(benchmark::State& state, const std::optional<bench::Memory>& memory) {
    if (!memory) return state.SkipWithError("the child failed");
    state.counters["columns_MB"] = memory->dataBytes / 1e6;
    state.counters["peak_per_columns"] = memory->peakBytes / memory->dataBytes;
}

void storeMemory(benchmark::State& state) {
    folder();
    for (auto _ : state)
        told(state, bench::peakOf([] {
                 auto to = emptyLogbook();
                 const auto capture = longRun();
                 return to.book && store(to, capture) ? static_cast<double>(capture::bytesOf(*capture)) : 0.0;
             }));
}
BENCHMARK(storeMemory)->Unit(benchmark::kMillisecond)->Iterations(1);

void loadMemory(benchmark::State& state) {
    for (auto _ : state)
        told(state, bench::peakOf([] {
                 auto book = logbook::Logbook::open(folder() / "bench.impasto");
                 if (!book) return 0.0;
                 const auto heads = (*book)->sessions();
                 const auto loaded = heads && !heads->empty() ? (*book)->load(heads->front().id)
                                                              : Result<logbook::Stored>(fail(ErrorCode::NoFrames));
                 return loaded ? static_cast<double>(capture::bytesOf(*loaded->session.facts->runs.front().capture))
                               : 0.0;
             }));
}
BENCHMARK(loadMemory)->Unit(benchmark::kMillisecond)->Iterations(1);

void packReference(benchmark::State& state) {
    const auto capture = longRun();
    std::string out(ZSTD_compressBound(capture->framesMs.size() * sizeof(double)), '\0');
    for (auto _ : state)
        for (int column = 0; column < 8; ++column)
            benchmark::DoNotOptimize(ZSTD_compress(out.data(), out.size(), capture->framesMs.data(),
                                                   capture->framesMs.size() * sizeof(double), 1));
}
BENCHMARK(packReference)->Unit(benchmark::kMillisecond);

void storeRun(benchmark::State& state) {
    const auto capture = longRun();
    for (auto _ : state) {
        auto to = emptyLogbook();
        if (!to.book || !store(to, capture)) return state.SkipWithError("it was not stored");
    }
}
BENCHMARK(storeRun)->Unit(benchmark::kMillisecond);

void loadRun(benchmark::State& state) {
    auto book = logbook::Logbook::open(folder() / "bench.impasto");
    if (!book) return state.SkipWithError("no logbook");
    const auto heads = (*book)->sessions();
    if (!heads || heads->empty()) return state.SkipWithError("no session");
    for (auto _ : state) benchmark::DoNotOptimize((*book)->load(heads->front().id));
}
BENCHMARK(loadRun)->Unit(benchmark::kMillisecond);

} // namespace
