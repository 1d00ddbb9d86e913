// SPDX-License-Identifier: GPL-3.0-or-later
// The exact choice for 20 settings of 5 levels under GPU, CPU and memory, with the doubt margin, against the greedy
// choice (which is not exact) in the same run. Dragging needs under 16 ms. "Game": a setting pays on one lane, a few on
// two, and each level more buys less picture; "hard": every setting pays everywhere, at random. 200 more games of each,
// once: the middle one, the one in a hundred and the worst. Then, from eight runs of as many settings, every best set
// and why not of every level, against one choice in the same run.
#include <algorithm>
#include <benchmark/benchmark.h>
#include <chrono>
#include <cmath>
#include <fmt/core.h>
#include <impasto/base/random.h>
#include <impasto/choose/front.h>
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
    for (auto _ : state) benchmark::DoNotOptimize(solve(p, {}, {.nodes = 1}));
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

/// One choice each of many games, each timed once; the greedy choices of the same games are the reference.
void manyGames(benchmark::State& state) {
    constexpr std::uint64_t games = 200;
    const bool hard = state.range(0) != 0;
    std::vector<Problem> problems;
    for (std::uint64_t seed = 1; seed <= games; ++seed) problems.push_back(problem(1000 + seed, hard));
    const auto timed = [&](const Effort& effort) {
        std::vector<double> ms;
        for (const auto& p : problems) {
            const auto begun = std::chrono::steady_clock::now();
            benchmark::DoNotOptimize(solve(p, {}, effort));
            ms.push_back(std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begun).count());
        }
        std::sort(ms.begin(), ms.end());
        return ms;
    };
    for (auto _ : state) {
        const auto exact = timed({}), greedy = timed({.nodes = 1});
        state.counters["median_ms"] = exact[games / 2];
        state.counters["p99_ms"] = exact[games - 3];
        state.counters["worst_ms"] = exact.back();
        state.counters["to_greedy"] = exact[games / 2] / greedy[games / 2];
    }
}
BENCHMARK(manyGames)->ArgNames({"hard"})->ArgsProduct({{0, 1}})->Unit(benchmark::kMillisecond)->Iterations(1);

/// What eight runs say of 20 settings of 5 levels, at three rendered sizes.
choose::Ground ground() {
    RandomStream s(7, "front");
    game::Game game;
    game::Setting size{"size", "Render scale", 2, false, true, false, {}, {}};
    for (const double scale : {0.5, 0.75, 1.0}) size.levels.push_back({fmt::format("{}", scale), scale, scale, {}});
    game.settings.push_back(std::move(size));
    for (int g = 0; g < 20; ++g) {
        game::Setting setting{
            fmt::format("s{}", g), fmt::format("Setting {}", g), 1.0 + g % 2, g % 3 == 0, g % 3 != 0, false, {}, {}};
        for (int l = 0; l < 5; ++l)
            setting.levels.push_back({fmt::format("{}", l), 1 - std::pow(1 - l / 4.0, 1.5 + s.uniform()), {}, {}});
        game.settings.push_back(std::move(setting));
    }
    game::Values highest;
    for (const auto& setting : game.settings) highest[setting.id] = setting.levels.back().name;
    std::map<std::string, double> costs; // ms a level
    for (const auto& setting : game.settings) costs[setting.id] = 0.05 + 0.6 * s.uniform() * s.uniform();
    auto layout = cost::Layout::of(game, highest, {"a", "b", "c"});
    std::vector<cost::SeenRun> runs;
    for (int r = 0; r < 8; ++r) {
        auto values = highest;
        double cpu = 4, gpu = 5;
        for (const auto& setting : game.settings) {
            const auto level =
                r == 0 ? setting.levels.size() - 1 : static_cast<std::size_t>(s.below(setting.levels.size()));
            values[setting.id] = setting.levels[level].name;
            (setting.paysCpu ? cpu : gpu) += costs.at(setting.id) * static_cast<double>(level);
        }
        cost::SeenRun run{*layout.setOf(values), {}};
        for (const double part : {1.0, 0.9, 0.8}) {
            run.taken[cost::indexOf(cost::Resource::Cpu)].emplace_back(part * cpu * (1 + 0.01 * s.normal()));
            run.taken[cost::indexOf(cost::Resource::Gpu)].emplace_back(part * gpu * (1 + 0.01 * s.normal()));
        }
        runs.push_back(std::move(run));
    }
    auto belief = cost::Belief::of(layout, runs);
    Ground out;
    out.baseline = highest;
    out.shares.assign(2, {0.95, 0.95, 0.95});
    out.chooser = std::make_shared<const Chooser>(std::move(*belief), game, Allowed::of(layout, {}, {}));
    return out;
}

void oneChoiceReference(benchmark::State& state) {
    const auto g = ground();
    for (auto _ : state) benchmark::DoNotOptimize(propose(g, Fps(60)));
}
BENCHMARK(oneChoiceReference)->Unit(benchmark::kMillisecond);

void everyBestSet(benchmark::State& state) {
    const auto g = ground();
    std::size_t sets = 0;
    for (auto _ : state) sets = frontOf(g)->size();
    state.counters["sets"] = static_cast<double>(sets);
}
BENCHMARK(everyBestSet)->Unit(benchmark::kMillisecond);

void whyNotEveryLevel(benchmark::State& state) {
    const auto g = ground();
    const auto choice = propose(g, Fps(60))->values;
    for (auto _ : state)
        for (const auto& dial : g.belief().layout().dials)
            for (const auto& level : dial.levels)
                benchmark::DoNotOptimize(whyNot(g, choice, Fps(60), {dial.setting, level}));
}
BENCHMARK(whyNotEveryLevel)->Unit(benchmark::kMillisecond);

} // namespace
