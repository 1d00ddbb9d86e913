// SPDX-License-Identifier: GPL-3.0-or-later
// The exact choice for 20 settings of 5 levels under GPU, CPU and memory, with the doubt margin, against the greedy
// choice (which is not exact) in the same run. Dragging needs under 16 ms. "Game": a setting pays on one lane, a few on
// two, and each level more buys less picture; "hard": every setting pays everywhere, at random.
#include <benchmark/benchmark.h>
#include <impasto/base/random.h>
#include <impasto/choose/knapsack.h>

namespace {

using namespace impasto;
using namespace impasto::choose;

Problem problem(std::uint64_t seed, bool hard) {
    RandomStream s(seed, "choice");
    Problem p;
    std::array<std::int64_t, 3> top{};
    std::size_t columns = 0;
    DoubtMargin gpu{0, 1.638 * 150, {}, {}}, cpu{1, 1.638 * 100, {}, {}};
    for (int g = 0; g < 20; ++g) {
        p.groups.emplace_back();
        std::vector<int> row;
        std::int64_t value = 0;
        std::array<std::int64_t, 3> use{};
        for (int l = 0; l < 5; ++l) {
            p.groups.back().push_back({value, {use[0], use[1], use[2]}});
            row.push_back(l == 4 ? 0 : static_cast<int>(++columns));
            const bool onGpu = hard || g < 13, onCpu = hard || (g >= 11 && g < 17), memory = hard || g >= 16 || g < 3;
            value += static_cast<std::int64_t>(s.below(2500)) / (hard ? 1 : l + 1);
            use[0] += onGpu ? static_cast<std::int64_t>(s.below(400)) : 0;
            use[1] += onCpu ? static_cast<std::int64_t>(s.below(hard ? 150 : 400)) : 0;
            use[2] += memory ? static_cast<std::int64_t>(s.below(60000)) : 0;
        }
        for (std::size_t r = 0; r < 3; ++r) top[r] += p.groups.back().back().use[r];
        for (auto* m : {&gpu, &cpu}) m->columnOf.push_back(row);
    }
    for (std::size_t r = 0; r < 3; ++r) p.capacity.push_back(top[r] * 7 / 10);
    for (auto* m : {&gpu, &cpu})
        for (std::size_t i = 0; i <= columns; ++i)
            for (std::size_t j = 0; j <= columns; ++j) m->covariance.push_back((i == j && i > 0 ? 1.0 : 0.0) + 0.25);
    p.margins = {gpu, cpu};
    return p;
}

void greedyReference(benchmark::State& state) {
    const auto p = problem(static_cast<std::uint64_t>(state.range(1)), state.range(0) != 0);
    for (auto _ : state) benchmark::DoNotOptimize(solve(p, {}, 1));
}
BENCHMARK(greedyReference)
    ->ArgNames({"hard", "seed"})
    ->ArgsProduct({{0, 1}, {1, 2, 3, 4}})
    ->Unit(benchmark::kMillisecond);

void exactChoice(benchmark::State& state) {
    const auto p = problem(static_cast<std::uint64_t>(state.range(1)), state.range(0) != 0);
    std::uint64_t nodes = 0;
    bool proven = true;
    for (auto _ : state) {
        const auto choice = solve(p);
        nodes = choice->nodes;
        proven = proven && choice->proven;
    }
    state.counters["nodes"] = static_cast<double>(nodes);
    state.counters["proven"] = proven ? 1 : 0;
}
BENCHMARK(exactChoice)->ArgNames({"hard", "seed"})->ArgsProduct({{0, 1}, {1, 2, 3, 4}})->Unit(benchmark::kMillisecond);

} // namespace
