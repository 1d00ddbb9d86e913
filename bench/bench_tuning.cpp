// SPDX-License-Identifier: GPL-3.0-or-later
// How near the named set comes to the best there is, after so many runs, over machines and games drawn at random whose
// true costs are asked afterwards. A run shows the true work of every part with noise; frames are not simulated here.
// bench_tuning [first seed] [games]. Prints a table; with --benchmark_min_time (as the other benchmarks) a few games.
#include <chrono>
#include <cmath>
#include <cstdio>
#include <fmt/core.h>
#include <impasto/base/random.h>
#include <impasto/choose/chooser.h>
#include <impasto/rig_draw/draw.h>
#include <impasto/rig_truth/truth.h>

namespace {

using namespace impasto;

constexpr double runSd = 0.0045, partSd = 0.0070; // as drawn games have them, about
constexpr std::size_t mostRuns = 30;

struct Truth {
    description::Originals originals;
    machine::Machine machine;
    game::Game game;
    run::Variant start;
    std::string route;
    double budgetMs = 0;
    double best = 0; // picture
    bool framesOnly = false;

    [[nodiscard]] rig_truth::LaneWork work(const game::Values& values, const std::string& part) const {
        auto variant = start;
        variant.values = values;
        return *rig_truth::partWork(originals, machine, game, variant, part);
    }
    /// Picture of a set that holds; nothing else.
    [[nodiscard]] std::optional<double> held(const game::Values& values) const {
        for (const auto& part : game.routes.front().parts) {
            const auto w = work(values, part.name);
            if (std::getenv("TUNING_WHY") && (w.cpuMs > budgetMs || w.gpuMs > budgetMs ||
                                              w.gpuMemoryMib > choose::usableMemoryShare * machine.gpuMemory.value()))
                std::printf("   cpu %.2f gpu %.2f of %.2f mem %.0f of %.0f\n", w.cpuMs, w.gpuMs, budgetMs,
                            w.gpuMemoryMib, machine.gpuMemory.value());
            if (w.cpuMs > budgetMs || w.gpuMs > budgetMs ||
                w.gpuMemoryMib > choose::usableMemoryShare * machine.gpuMemory.value())
                return std::nullopt;
        }
        return game::pictureValue(game, values);
    }
};

std::optional<Truth> drawn(std::uint64_t seed) {
    const auto texts = rig_draw::draw(seed);
    Truth t;
    t.originals.add(texts.machine);
    t.originals.add(texts.game);
    t.machine = *machine::parseMachine(texts.machine, "machine");
    t.game = *game::parseGame(texts.game, "game");
    t.route = t.game.routes.front().name;
    t.start.values = t.game.presets.front().values;
    t.start.resolution = t.machine.panel.native;
    game::Values lowest;
    for (const auto& s : t.game.settings) lowest[s.id] = s.levels.front().name;
    RandomStream random(seed, "budget");
    double high = 0, low = 0;
    for (const auto& part : t.game.routes.front().parts) {
        const auto h = t.work(t.start.values, part.name), l = t.work(lowest, part.name);
        high = std::max({high, h.cpuMs, h.gpuMs});
        low = std::max({low, l.cpuMs, l.gpuMs});
    }
    t.budgetMs = low + random.uniform(0.25, 0.8) * (high - low);
    // That one run of it is within the budget with 90% in every part.
    const double margin = 1 + 1.2816 * std::hypot(runSd, partSd);
    rig_truth::Room room{{t.game.routes.front().parts.size(), {t.budgetMs / margin, t.budgetMs / margin}},
                         choose::usableMemoryShare * t.machine.gpuMemory.value()};
    const auto best = rig_truth::bestValues(t.originals, t.machine, t.game, t.start, t.route, room);
    if (!best || !*best) return std::nullopt;
    t.best = (*best)->picture;
    return t;
}

/// One run of a set.
cost::SeenRun played(const Truth& t, const cost::Layout& layout, const cost::Set& set, std::uint64_t seed) {
    RandomStream random(seed, "run");
    cost::SeenRun run{set, {}};
    const double cpu = random.normal(), gpu = random.normal();
    const auto values = layout.valuesOf(set);
    for (const auto& part : layout.parts) {
        const auto w = t.work(values, part);
        run.taken[0].push_back(w.cpuMs * (1 + runSd * cpu + partSd * random.normal()));
        run.taken[1].push_back(w.gpuMs * (1 + runSd * gpu + partSd * random.normal()));
    }
    run.taken[2].push_back(t.work(values, layout.parts.front()).gpuMemoryMib);
    if (!t.framesOnly) return run;
    for (std::size_t p = 0; p < layout.parts.size(); ++p)
        run.frameMs.push_back(std::max(*run.taken[0][p], *run.taken[1][p]));
    for (auto& taken : run.taken) taken.clear();
    return run;
}

struct Score {
    std::vector<std::optional<double>>
        named; // loss of the set that is named after so many runs; none: it does not hold
    std::size_t stopped = mostRuns, checks = 0, failed = 0;
    bool breaks = false;
    double msEach = 0, flatAt5 = 0;
};

Score walked(const Truth& t, std::uint64_t seed) {
    std::vector<std::string> parts;
    for (const auto& p : t.game.routes.front().parts) parts.push_back(p.name);
    const auto layout = cost::Layout::of(t.game, t.start.values, parts);
    std::vector<cost::SeenRun> runs{played(t, layout, *layout.setOf(t.start.values), deriveSeed(seed, "0"))};
    std::vector<cost::Set> tried{runs.front().set};
    std::vector<bool> passed{false};
    Score score;
    score.named.resize(mostRuns + 1);
    const auto from = std::chrono::steady_clock::now();
    std::size_t asked = 0;
    while (true) {
        const auto belief = cost::Belief::of(layout, runs);
        choose::Room room;
        for (const auto resource : belief->resources())
            room.push_back(std::vector<double>(belief->partsOf(resource),
                                               resource == cost::Resource::GpuMemory
                                                   ? choose::usableMemoryShare * t.machine.gpuMemory.value()
                                                   : t.budgetMs));
        const choose::Chooser chooser(*belief, t.game, choose::Allowed::of(layout, {}, {}));
        const auto advice = *choose::advise(chooser, room, tried, 0.01, seed + 1000 * runs.size());
        ++asked;
        if (runs.size() == 5) score.flatAt5 = belief->flat();
        const auto held = t.held(layout.valuesOf(advice.best.set));
        score.named[runs.size()] = held ? std::optional(std::max(0.0, (t.best - *held) / t.best)) : std::nullopt;
        const auto known = std::find(tried.begin(), tried.end(), advice.best.set);
        const bool proven = known != tried.end() && passed[static_cast<std::size_t>(known - tried.begin())];
        const bool settled = advice.best.fits && !advice.next;
        if (std::getenv("TUNING_TRACE"))
            std::printf("  n%zu loss %.3f gain %.3f sure %.2f fits %d next %d seen %d passed %d weights %zu flat %.2f "
                        "noise %.4f nodes %lu picture %.3f best %.3f\n",
                        runs.size(), score.named[runs.size()].value_or(-1), advice.gain, advice.standing.sure,
                        int(advice.best.fits), int(advice.next.has_value()), int(known != tried.end()), int(proven),
                        belief->weights().size(), belief->flat(), belief->runSd(cost::Resource::Gpu), advice.best.nodes,
                        advice.best.picture, t.best);
        if ((settled && proven) || runs.size() >= mostRuns) {
            score.stopped = runs.size();
            score.breaks = !held;
            break;
        }
        const bool check = settled || !advice.next;
        const auto& set = check ? advice.best.set : *advice.next;
        auto run = played(t, layout, set, deriveSeed(seed, fmt::format("{}", runs.size())));
        bool within = true;
        for (const auto* values : {&run.taken[0], &run.taken[1], &run.frameMs})
            for (const auto& ms : *values) within = within && *ms <= t.budgetMs;
        if (check) {
            ++score.checks;
            score.failed += within ? 0 : 1;
        }
        runs.push_back(std::move(run));
        tried.push_back(set);
        passed.push_back(within);
    }
    score.msEach = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - from).count() /
                   static_cast<double>(asked);
    for (std::size_t n = score.stopped + 1; n <= mostRuns; ++n) score.named[n] = score.named[score.stopped];
    return score;
}

} // namespace

int main(int argc, char** argv) {
    std::uint64_t first = 70001;
    std::size_t games = 3;
    if (argc > 2) {
        first = std::stoull(argv[1]);
        games = std::stoull(argv[2]);
    }
    std::vector<Score> scores;
    for (std::uint64_t seed = first; scores.size() < games; ++seed) {
        auto truth = drawn(seed);
        if (!truth) continue;
        truth->framesOnly = std::getenv("TUNING_FRAMES_ONLY") != nullptr;
        scores.push_back(walked(*truth, seed));
        if (std::getenv("TUNING_TRACE"))
            std::printf("%lu: stopped %zu checks %zu failed %zu last %.3f, %.0f ms\n", seed, scores.back().stopped,
                        scores.back().checks, scores.back().failed, scores.back().named.back().value_or(-1),
                        scores.back().msEach);
    }
    const auto share = [&](const auto& is) {
        return 100.0 * static_cast<double>(std::count_if(scores.begin(), scores.end(), is)) /
               static_cast<double>(scores.size());
    };
    std::printf("%zu games from seed %lu\nruns  holds  within 5%%  within 2%%\n", scores.size(), first);
    for (const std::size_t n : {1, 2, 3, 4, 5, 6, 8, 10, 12, 15, 20, 30})
        std::printf("%4zu %6.1f %10.1f %10.1f\n", n, share([&](const Score& s) { return s.named[n].has_value(); }),
                    share([&](const Score& s) { return s.named[n] && *s.named[n] <= 0.05; }),
                    share([&](const Score& s) { return s.named[n] && *s.named[n] <= 0.02; }));
    double stopped = 0, checks = 0, failed = 0, ms = 0;
    for (const auto& s : scores) {
        stopped += static_cast<double>(s.stopped);
        checks += static_cast<double>(s.checks);
        failed += static_cast<double>(s.failed);
        ms += s.msEach;
    }
    const auto n = static_cast<double>(scores.size());
    std::printf(
        "stopped after %.1f runs on average; %.2f checks, %.1f%% failed; final sets that break %.1f%%; %.1f ms a "
        "proposal; usual costs doubted after 5 runs in %.0f%%\n",
        stopped / n, checks / n, 100 * failed / std::max(1.0, checks), share([](const Score& s) { return s.breaks; }),
        ms / n, share([](const Score& s) { return s.flatAt5 > 0.3; }));
}
