// SPDX-License-Identifier: GPL-3.0-or-later
// How near the named set comes to the best there is, after so many runs, over machines and games drawn at random whose
// true costs are asked afterwards, beside a walk by hand: down from the highest by what settings usually cost, several
// steps at once, then up again step by step. A run shows the true work of every part with noise; frames are not
// simulated here. bench_tuning WAY FIRST-SEED GAMES, WAY one of full, frames (frame times alone), shuffled (usual costs
// of other settings), hand, upscaled (full, with upscalers of every kind and ratio), and the ways to walk by their keys
// ("top-down"); without them a few games of each.
#include <chrono>
#include <cmath>
#include <cstdio>
#include <fmt/core.h>
#include <impasto/base/random.h>
#include <impasto/choose/walk.h>
#include <impasto/rig_draw/draw.h>
#include <impasto/rig_truth/truth.h>
#include <impasto/stats/stats.h>
#include <map>

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
    /// Picture of a set that holds; nothing else. Memory that overflows is in the times; frame times alone tell no
    /// more.
    [[nodiscard]] std::optional<double> held(const game::Values& values) const {
        for (const auto& part : game.routes.front().parts) {
            const auto w = work(values, part.name);
            const bool full = w.gpuMemoryMib > choose::usableMemoryShare * machine.gpuMemory.value();
            if (w.cpuMs > budgetMs || w.gpuMs > budgetMs || (full && !framesOnly)) return std::nullopt;
        }
        return game::pictureValue(game, values);
    }
};

/// An upscaler of every kind at the ratios in common use.
game::Setting upscaling() {
    game::Setting out{"upscaling", "Upscaling", 2, false, true, false, {}};
    for (const auto kind : {game::UpscalerKind::Spatial, game::UpscalerKind::Temporal, game::UpscalerKind::Learned})
        for (const double ratio : {2.0, 1.7, 1.5, 1.3}) out.levels.push_back(game::upscaledLevel(kind, ratio));
    std::stable_sort(out.levels.begin(), out.levels.end(),
                     [](const auto& a, const auto& b) { return a.picture < b.picture; });
    out.levels.push_back({"off", 1, 1.0});
    return out;
}

std::optional<Truth> drawn(std::uint64_t seed, bool upscaled) {
    const auto texts = rig_draw::draw(seed);
    Truth t;
    t.originals.add(texts.machine);
    t.originals.add(texts.game);
    t.machine = *machine::parseMachine(texts.machine, "machine");
    t.game = *game::parseGame(texts.game, "game");
    if (upscaled) {
        t.game.settings.push_back(upscaling());
        for (auto& preset : t.game.presets) preset.values["upscaling"] = "off";
    }
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
    const double memory = t.work(values, layout.parts.front()).gpuMemoryMib;
    run.taken[2].push_back(memory);
    run.memoryFull = memory >= cost::fullMemoryShare * t.machine.gpuMemory.value();
    if (!t.framesOnly) return run;
    for (std::size_t p = 0; p < layout.parts.size(); ++p)
        run.frameMs.push_back(std::max(*run.taken[0][p], *run.taken[1][p]));
    for (auto& taken : run.taken) taken.clear();
    return run;
}

bool within(const Truth& t, const cost::SeenRun& run) {
    const auto all = [&](const std::vector<std::optional<double>>& values, double most) {
        return std::all_of(values.begin(), values.end(), [most](const auto& v) { return *v <= most; });
    };
    return all(run.taken[0], t.budgetMs) && all(run.taken[1], t.budgetMs) && all(run.frameMs, t.budgetMs) &&
           all(run.taken[2], choose::usableMemoryShare * t.machine.gpuMemory.value());
}

struct Score {
    std::vector<std::optional<double>>
        named; // loss of the set that is named after so many runs; none: it does not hold
    std::size_t stopped = mostRuns, checks = 0, failed = 0;
    bool breaks = false;
    double msEach = 0, flatAt5 = 0;
    std::vector<std::pair<double, std::size_t>> asked; // gain, and test runs made before, where one more was asked for
    std::size_t tests = 0;
    std::size_t sure = 0, sureHeld = 0; // named sets of which a chance of 85 to 95% was said, and one run of which held
};

choose::Room roomOf(const Truth& t, const cost::Belief& belief) {
    choose::Room room;
    for (const auto resource : belief.resources())
        room.push_back(
            std::vector<double>(belief.partsOf(resource), resource == cost::Resource::GpuMemory
                                                              ? choose::usableMemoryShare * t.machine.gpuMemory.value()
                                                              : t.budgetMs));
    return room;
}

Score measured(const Truth& t, std::uint64_t seed, bool shuffled) {
    std::vector<std::string> parts;
    for (const auto& p : t.game.routes.front().parts) parts.push_back(p.name);
    auto layout = cost::Layout::of(t.game, t.start.values, parts);
    if (shuffled) {
        RandomStream random(seed, "shuffled");
        for (std::size_t s = layout.dials.size(); s > 1; --s) {
            auto &a = layout.dials[s - 1], &b = layout.dials[random.below(s)];
            std::swap(a.share, b.share);
            std::swap(a.pixelShare, b.pixelShare);
        }
    }
    std::vector<cost::SeenRun> runs{played(t, layout, *layout.setOf(t.start.values), deriveSeed(seed, "0"))};
    std::vector<cost::Set> tried{runs.front().set};
    std::vector<bool> passed{false};
    Score score;
    score.named.resize(mostRuns + 1);
    const auto from = std::chrono::steady_clock::now();
    std::size_t asked = 0;
    while (true) {
        const auto belief = cost::Belief::of(layout, runs);
        const auto room = roomOf(t, *belief);
        const choose::Chooser chooser(*belief, t.game, choose::Allowed::of(layout, {}, {}));
        const auto advice = *choose::advise(chooser, room, tried, 0.01, seed + 1000 * runs.size());
        ++asked;
        if (runs.size() == 5) score.flatAt5 = belief->flat();
        const auto held = t.held(layout.valuesOf(advice.best.set));
        if (advice.standing.chance >= 0.85 && advice.standing.chance <= 0.95) {
            ++score.sure;
            score.sureHeld += within(t, played(t, layout, advice.best.set, deriveSeed(seed, "asked"))) ? 1 : 0;
        }
        score.named[runs.size()] = held ? std::optional(std::max(0.0, (t.best - *held) / t.best)) : std::nullopt;
        const auto known = std::find(tried.begin(), tried.end(), advice.best.set);
        const bool proven = known != tried.end() && passed[static_cast<std::size_t>(known - tried.begin())];
        const bool settled = advice.best.fits && !advice.next;
        if ((settled && proven) || runs.size() >= mostRuns) {
            score.stopped = runs.size();
            score.breaks = !held;
            break;
        }
        const bool check = settled || !advice.next;
        const auto& set = check ? advice.best.set : *advice.next;
        auto run = played(t, layout, set, deriveSeed(seed, fmt::format("{}", runs.size())));
        const bool held1 = within(t, run);
        if (!check) score.asked.emplace_back(advice.gain, score.tests++);
        if (check) {
            ++score.checks;
            score.failed += held1 ? 0 : 1;
        }
        runs.push_back(std::move(run));
        tried.push_back(set);
        passed.push_back(held1);
    }
    score.msEach = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - from).count() /
                   static_cast<double>(asked);
    for (std::size_t n = score.stopped + 1; n <= mostRuns; ++n) score.named[n] = score.named[score.stopped];
    return score;
}

/// The highest share of what is usable that a run took.
double loadOf(const Truth& t, const cost::SeenRun& run) {
    double most = 0;
    for (std::size_t k = 0; k < run.taken.size(); ++k)
        for (const auto& taken : run.taken[k])
            most = std::max(most, *taken / (k == cost::indexOf(cost::Resource::GpuMemory)
                                                ? choose::usableMemoryShare * t.machine.gpuMemory.value()
                                                : t.budgetMs));
    return most;
}

/// Step by step, each step from what the runs before it taught; at its end the set that stands is run once more, as a
/// check is.
Score walked(const Truth& t, std::uint64_t seed, choose::WalkSchool school) {
    std::vector<std::string> parts;
    for (const auto& p : t.game.routes.front().parts) parts.push_back(p.name);
    const auto layout = cost::Layout::of(t.game, t.start.values, parts);
    choose::WalkGround ground{*layout.setOf(t.start.values), {}};
    for (const auto& preset : t.game.presets)
        if (const auto set = layout.setOf(preset.values)) ground.presets.push_back(*set);
    std::vector<cost::SeenRun> runs;
    std::map<cost::Set, std::vector<double>> loads;
    const auto play = [&](const cost::Set& set) {
        runs.push_back(played(t, layout, set, deriveSeed(seed, fmt::format("{}", runs.size()))));
        loads[set].push_back(loadOf(t, runs.back()));
    };
    play(ground.start);
    Score score;
    score.named.resize(mostRuns + 1);
    const auto from = std::chrono::steady_clock::now();
    std::optional<cost::Set> stands;
    while (true) {
        const auto belief = cost::Belief::of(layout, runs);
        const choose::Chooser chooser(*belief, t.game, choose::Allowed::of(layout, {}, {}));
        std::vector<choose::Walked> seen;
        for (const auto& [set, each] : loads) seen.push_back({set, *stats::mean(each)});
        const auto stride = choose::strideOf(school, chooser, roomOf(t, *belief), seen, ground);
        stands = stride.stands;
        const auto held = stands ? t.held(layout.valuesOf(*stands)) : std::nullopt;
        score.named[runs.size()] = held ? std::optional(std::max(0.0, (t.best - *held) / t.best)) : std::nullopt;
        const bool checked = stands && loads.at(*stands).size() > 1;
        if (runs.size() >= mostRuns || (!stride.next && (!stands || checked))) break;
        if (!stride.next) ++score.checks;
        play(stride.next ? *stride.next : *stands);
        if (!stride.next && loads.at(*stands).back() > 1) ++score.failed;
    }
    score.stopped = runs.size();
    score.breaks = !score.named[runs.size()];
    score.msEach = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - from).count() /
                   static_cast<double>(runs.size());
    for (std::size_t n = runs.size() + 1; n <= mostRuns; ++n) score.named[n] = score.named[runs.size()];
    return score;
}

/// Down from the highest by what settings usually cost, several steps at once, until a run holds; then up again by the
/// step that usually costs least, until four have failed.
Score byHand(const Truth& t, std::uint64_t seed) {
    constexpr double margin = 1.01; // that a careful hand keeps
    constexpr int patience = 4;
    std::vector<std::string> parts;
    for (const auto& p : t.game.routes.front().parts) parts.push_back(p.name);
    const auto layout = cost::Layout::of(t.game, t.start.values, parts);
    cost::SeenRun usual{*layout.setOf(t.start.values), {}};
    for (std::size_t k = 0; k < 2; ++k) usual.taken[k].assign(parts.size(), 1.0);
    const auto guide = *cost::Belief::of(layout, {usual});
    const choose::Chooser values(guide, t.game, choose::Allowed::of(layout, {}, {}));
    const auto usually = [&](const cost::Set& set, std::size_t k) {
        return guide.tell(k == 0 ? cost::Resource::Cpu : cost::Resource::Gpu, 0, set).mean;
    };
    const auto neighbours = [&](const cost::Set& set, bool down) {
        std::vector<cost::Set> out;
        for (std::size_t s = 0; s <= set.levels.size(); ++s) {
            cost::Set next = set;
            auto& place = s < set.levels.size() ? next.levels[s] : next.size;
            const std::size_t most = s < set.levels.size() ? layout.dials[s].levels.size() : layout.sizes.size();
            if (down ? place == 0 : place + 1 == most) continue;
            place = down ? place - 1 : place + 1;
            out.push_back(std::move(next));
        }
        return out;
    };
    Score score;
    score.named.resize(mostRuns + 1);
    std::size_t runs = 0;
    const auto play = [&](const cost::Set& set) {
        return played(t, layout, set, deriveSeed(seed, fmt::format("{}", runs++)));
    };
    const auto name = [&](const cost::Set& set) {
        const auto held = t.held(layout.valuesOf(set));
        score.named[runs] = held ? std::optional(std::max(0.0, (t.best - *held) / t.best)) : std::nullopt;
    };
    const auto over = [&](const cost::SeenRun& run, std::size_t k) {
        double most = 0;
        for (const auto& ms : run.taken[k]) most = std::max(most, margin * *ms / t.budgetMs);
        return most;
    };
    cost::Set set = usual.set;
    for (bool holds = false; !holds && runs < mostRuns;) {
        const auto run = play(set);
        name(set);
        const std::array<double, 2> load{over(run, 0), over(run, 1)};
        holds = load[0] <= 1 && load[1] <= 1 && within(t, run);
        if (holds) break;
        const std::array<double, 2> from{usually(set, 0), usually(set, 1)};
        for (bool more = true; more;) {
            const cost::Set* best = nullptr;
            double most = 0;
            const auto next = neighbours(set, true);
            for (const auto& n : next) {
                double relief = 0;
                for (std::size_t k = 0; k < 2; ++k)
                    relief += std::max(0.0, load[k] - 1) * (usually(set, k) - usually(n, k));
                relief = (relief + 1e-6) / (values.picture(set) - values.picture(n) + 0.0005);
                if (relief <= most) continue;
                most = relief;
                best = &n;
            }
            if (best == nullptr) break;
            set = *best;
            more = false;
            for (std::size_t k = 0; k < 2; ++k) more = more || load[k] * usually(set, k) / from[k] > 1;
        }
    }
    std::vector<cost::Set> failed;
    while (runs < mostRuns && failed.size() < patience) {
        std::optional<cost::Set> best;
        double least = 1e9;
        for (const auto& n : neighbours(set, false)) {
            if (std::find(failed.begin(), failed.end(), n) != failed.end()) continue;
            const double cost = (usually(n, 0) - usually(set, 0) + usually(n, 1) - usually(set, 1) + 1e-4) /
                                (values.picture(n) - values.picture(set) + 1e-6);
            if (cost >= least) continue;
            least = cost;
            best = n;
        }
        if (!best) break;
        const auto run = play(*best);
        if (over(run, 0) <= 1 && over(run, 1) <= 1 && within(t, run))
            set = *best;
        else
            failed.push_back(*best);
        name(set);
    }
    score.stopped = runs;
    score.breaks = !score.named[runs];
    for (std::size_t n = runs + 1; n <= mostRuns; ++n) score.named[n] = score.named[runs];
    return score;
}

/// How many test runs were still made where one more was asked for, by what the choice was expected to miss.
void printRemaining(const std::vector<Score>& scores) {
    constexpr std::array<double, 6> bounds{0.01, 0.02, 0.05, 0.1, 0.2, 10};
    for (std::size_t b = 0; b + 1 < bounds.size(); ++b) {
        std::vector<double> remaining;
        for (const auto& score : scores)
            for (const auto& [gain, before] : score.asked)
                if (gain > bounds[b] && gain <= bounds[b + 1])
                    remaining.push_back(static_cast<double>(score.tests - before));
        if (remaining.empty()) continue;
        std::printf("expected to miss %2.0f to %2.0f%%: in %zu cases %.0f, %.0f, %.0f more test runs (10, 50, 90%%)\n",
                    100 * bounds[b], std::min(100.0, 100 * bounds[b + 1]), remaining.size(),
                    *stats::quantile(remaining, 0.1, 1), *stats::quantile(remaining, 0.5, 1),
                    *stats::quantile(remaining, 0.9, 1));
    }
}

void print(const std::string& way, std::uint64_t first, const std::vector<Score>& scores) {
    const auto share = [&](const auto& is) {
        return 100.0 * static_cast<double>(std::count_if(scores.begin(), scores.end(), is)) /
               static_cast<double>(scores.size());
    };
    std::printf("%s: %zu games from seed %llu\nruns  holds  within 5%%  within 2%%\n", way.c_str(), scores.size(),
                static_cast<unsigned long long>(first));
    for (const std::size_t n : {1, 2, 3, 4, 5, 6, 8, 10, 12, 15, 20, 30})
        std::printf("%4zu %6.1f %10.1f %10.1f\n", n, share([&](const Score& s) { return s.named[n].has_value(); }),
                    share([&](const Score& s) { return s.named[n] && *s.named[n] <= 0.05; }),
                    share([&](const Score& s) { return s.named[n] && *s.named[n] <= 0.02; }));
    Score sum;
    std::size_t stopped = 0;
    for (const auto& s : scores) {
        stopped += s.stopped;
        sum.checks += s.checks;
        sum.failed += s.failed;
        sum.msEach += s.msEach;
        sum.sure += s.sure;
        sum.sureHeld += s.sureHeld;
    }
    const auto n = static_cast<double>(scores.size());
    std::printf(
        "stopped after %.1f runs on average; %zu of %zu check runs failed; final sets that break %.1f%%; %.1f ms a "
        "proposal; usual costs doubted after 5 runs in %.0f%%; of %zu sets said to hold with 85 to 95%% one run of "
        "%zu did\n",
        static_cast<double>(stopped) / n, sum.failed, sum.checks, share([](const Score& s) { return s.breaks; }),
        sum.msEach / n, share([](const Score& s) { return s.flatAt5 > 0.3; }), sum.sure, sum.sureHeld);
    printRemaining(scores);
    std::printf("\n");
}

} // namespace

int main(int argc, char** argv) {
    const bool asked = argc > 3;
    const std::uint64_t first = asked ? std::stoull(argv[2]) : 70001;
    const std::size_t games = asked ? std::stoull(argv[3]) : 2;
    std::vector<std::string> ways{"full", "frames", "shuffled", "hand", "upscaled"};
    for (const auto school : choose::allWalkSchools)
        if (school != choose::WalkSchool::Measured) ways.emplace_back(choose::keyOf(school));
    for (const auto& way : ways) {
        if (asked && way != argv[1]) continue;
        const auto school = choose::walkSchoolOf(way);
        std::vector<Score> scores;
        for (std::uint64_t seed = first; scores.size() < games; ++seed) {
            auto truth = drawn(seed, way == "upscaled");
            if (!truth) continue;
            truth->framesOnly = way == "frames";
            scores.push_back(school          ? walked(*truth, seed, *school)
                             : way == "hand" ? byHand(*truth, seed)
                                             : measured(*truth, seed, way == "shuffled"));
        }
        print(way, first, scores);
    }
}
