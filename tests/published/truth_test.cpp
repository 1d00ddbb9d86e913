// SPDX-License-Identifier: GPL-3.0-or-later
// The simulator's hidden truth against what the analysis finds, over 40 seeded sessions of three games.
#include "support/support.h"

#include <cmath>
#include <impasto/rig_draw/draw.h>
#include <impasto/rig_truth/hold.h>

using namespace impasto;
using namespace impasto::support;

namespace {

document::SessionStore storeFor(const machine::Machine& machine, const game::Game& game, double target,
                                std::uint64_t seed) {
    document::Session start;
    start.id = {seededIdSource(seed)()};
    auto facts = std::make_shared<document::Facts>();
    facts->seed = seed;
    start.facts = facts;
    document::SessionStore store(start);
    run::Brief brief;
    brief.target = Fps(target);
    const std::size_t m = store.addMachine(machine), g = store.addGame(game);
    for (const auto& edit : {document::useMachine(m), document::useGame(g, game), document::setBrief(brief)})
        EXPECT_TRUE(store.apply(edit).has_value());
    return store;
}

struct Coverage {
    int held = 0, all = 0;
    double widths = 0, noiseOnly = 0;
    double lossSum = 0, lossMost = 0;
    int choices = 0;
    [[nodiscard]] double share() const { return static_cast<double>(held) / all; }
};

/// The lane's noise between runs as the simulator has it, in ms: run and section noise of the route mean.
double trueNoise(const game::Game& game, double laneMs, double factor) {
    const auto& route = game.routes.front();
    double squares = 0;
    for (const auto& part : route.parts) squares += std::pow(part.seconds / route.seconds(), 2);
    return factor * laneMs * std::sqrt(0.0035 * 0.0035 + 0.006 * 0.006 * squares);
}

void addSession(const machine::Machine& machine, const game::Game& game, double target, std::uint64_t seed,
                double noiseFactor, Coverage& c) {
    Walk walk(storeFor(machine, game, target, seed), seed);
    ASSERT_TRUE(walk.until(path::Action::AcceptChoice))
        << game.name << " " << seed << " " << static_cast<int>(walk.next().action);
    const auto& results = walk.results();
    const auto& session = walk.store.session();
    const auto base = session.baselineVariant();
    const std::string route = game.routes.front().name;
    const auto truth = [&](const run::Variant& v) {
        return *rig_truth::routeWork(originals(), machine, game, v, route);
    };
    const auto before = truth(base);
    for (const auto& lane : results.get<results::Costs>()->lanes) {
        const bool gpu = lane.lane == run::Lane::Gpu;
        for (std::size_t i = 0; i < lane.fit.columns.size(); ++i) {
            run::Variant v = base;
            v.values[lane.fit.columns[i].setting] = lane.fit.columns[i].level;
            const auto after = truth(v);
            const double cost = gpu ? after.gpuMs - before.gpuMs : after.cpuMs - before.cpuMs;
            const double half = lane.fit.halfWidth(i + 1);
            c.held += std::abs(lane.fit.estimate[i + 1] - cost) <= half ? 1 : 0;
            ++c.all;
            c.widths += half;
            // A difference of one run and a mean of four, with the noise known.
            c.noiseOnly += 1.96 * trueNoise(game, gpu ? before.gpuMs : before.cpuMs, noiseFactor) * std::sqrt(1 + 0.25);
        }
    }
    // Loss against the best choice at the true costs: the same search on exact numbers.
    auto ground = *results::groundOf(session, results);
    auto exact = ground;
    for (auto& lane : exact.lanes) {
        const bool gpu = lane.lane == run::Lane::Gpu;
        lane.fit.estimate[0] = gpu ? before.gpuMs : before.cpuMs;
        for (std::size_t i = 0; i < lane.fit.columns.size(); ++i) {
            run::Variant v = base;
            v.values[lane.fit.columns[i].setting] = lane.fit.columns[i].level;
            lane.fit.estimate[i + 1] = gpu ? truth(v).gpuMs - before.gpuMs : truth(v).cpuMs - before.cpuMs;
        }
        for (double& x : lane.fit.covariance) x = 0;
        lane.fit.residualSd = 0;
    }
    const auto best = choose::propose(exact, Fps(target)), chosen = choose::propose(ground, Fps(target));
    if (best && chosen) {
        const double loss = best->picture - chosen->picture;
        c.lossSum += loss;
        c.lossMost = std::max(c.lossMost, loss);
        ++c.choices;
    }
}

game::Game withNoise(const game::Game& game, double factor) {
    std::string text = *originals().find(game.mark);
    for (const char* key : {"run_sd = ", "section_sd = "}) {
        const auto at = text.find(key) + std::string(key).size();
        const auto end = text.find_first_of(", ", at);
        text.replace(at, end - at, fmt::format("{}", factor * std::stod(text.substr(at, end - at))));
    }
    return gameFrom(text);
}

} // namespace

TEST(TruthTest, IntervalsHoldTheTrueCostsAsOftenAsTheySay) {
    struct Case {
        const char* file;
        double target;
    };
    Coverage all;
    for (const auto& [file, target] :
         {Case{"saltmarsh-courier.toml", 60}, Case{"lantern-orchard.toml", 240}, Case{"tin-harbour.toml", 60}}) {
        Coverage c;
        for (std::uint64_t seed = 100; seed < 140; ++seed) addSession(tower(), gameNamed(file), target, seed, 1, c);
        fmt::print("{}: {} of {} costs inside 95% intervals ({:.1f}%), mean half width {:.3f} ms, {:.2f} times that of "
                   "known noise; picture lost against the best at true costs: mean {:.4f}, most {:.4f}\n",
                   file, c.held, c.all, 100 * c.share(), c.widths / c.all, c.widths / c.noiseOnly,
                   c.lossSum / c.choices, c.lossMost);
        EXPECT_LE(c.widths, 4 * c.noiseOnly) << file;
        all.held += c.held;
        all.all += c.all;
    }
    EXPECT_GE(all.share(), 0.90);
    EXPECT_LE(all.share(), 0.99);
}

TEST(TruthTest, TheyDoSoOnMachinesAndGamesThatNobodyTunedTo) {
    Coverage c;
    for (std::uint64_t seed = 1; seed <= 24; ++seed) {
        const auto drawn = rig_draw::draw(seed);
        const auto machine = machineFrom(drawn.machine);
        const auto game = gameFrom(drawn.game);
        // The rate that its heaviest part has already, so that there is something to save on the slower lane.
        const run::Variant start{game.presets.front().values, machine.panel.native, {}, run::Sync::None};
        double slowest = 0;
        for (const auto& part : game.routes.front().parts) {
            const auto work = rig_truth::partWork(originals(), machine, game, start, part.name);
            slowest = std::max({slowest, work->cpuMs, work->gpuMs});
        }
        addSession(machine, game, std::clamp(std::round(1000 / slowest), 10.0, 1000.0), seed, 1, c);
    }
    fmt::print("drawn: {} of {} costs inside 95% intervals ({:.1f}%); picture lost: mean {:.4f}, most {:.4f}\n", c.held,
               c.all, 100 * c.share(), c.lossSum / c.choices, c.lossMost);
    EXPECT_GE(c.share(), 0.90);
    EXPECT_LE(c.share(), 0.99);
}

TEST(TruthTest, MoreNoiseWidensTheIntervals) {
    Coverage once, twice;
    for (std::uint64_t seed = 200; seed < 210; ++seed) {
        addSession(tower(), gameNamed("saltmarsh-courier.toml"), 60, seed, 1, once);
        addSession(tower(), withNoise(gameNamed("saltmarsh-courier.toml"), 2), 60, seed, 2, twice);
    }
    EXPECT_GT(twice.widths / twice.all, 1.4 * once.widths / once.all);
}

// The choice of a whole session against the best there is at true costs, found by going through all sets.
TEST(TruthTest, TheChoiceComesNearTheTrueOptimum) {
    double lost = 0, most = 0;
    int sessions = 0;
    for (const auto& [file, target] :
         {std::pair("saltmarsh-courier.toml", 60.0), {"tin-harbour.toml", 60.0}, {"rainmarket.toml", 75.0}})
        for (std::uint64_t seed = 300; seed < 306; ++seed) {
            const auto game = gameNamed(file);
            Walk walk(storeFor(tower(), game, target, seed), seed);
            ASSERT_TRUE(walk.until(path::Action::ChooseCap)) << file << " " << seed;
            const auto& session = walk.store.session();
            const auto variant = session.baselineVariant();
            const std::string route = game.routes.front().name;
            auto room = *rig_truth::roomFor(originals(), tower(), game, variant, route, *session.edits->goal.brief);
            room.gpuMemoryMib = choose::usableMemoryShare * tower().gpuMemory.value();
            const auto best = rig_truth::bestValues(originals(), tower(), game, variant, route, room);
            ASSERT_TRUE(best && *best) << file;
            const double loss = (*best)->picture - game::pictureValue(game, session.edits->settings.choice->values);
            lost += loss;
            most = std::max(most, loss);
            ++sessions;
        }
    fmt::print("picture lost against the true optimum over {} sessions: mean {:.4f}, most {:.4f}\n", sessions,
               lost / sessions, most);
    EXPECT_LT(lost / sessions, 0.03);
    EXPECT_LT(most, 0.1);
}

TEST(TruthTest, TheBestValuesAreThoseOfPlainEnumeration) {
    const auto game = gameNamed("tin-harbour.toml");
    const auto machine = tower();
    const run::Variant start{game.presets.front().values, machine.panel.native, {}, run::Sync::None};
    const auto& route = game.routes.front();
    const rig_truth::Room room{std::vector<rig_truth::Room::Lanes>(route.parts.size(), {14, 8}), 6000};
    const game::Values fixed{{"smoke", "normal"}};
    double best = -1;
    game::Values all;
    const auto fits = [&](const run::Variant& v) {
        return std::all_of(route.parts.begin(), route.parts.end(), [&](const game::Part& part) {
            const auto work = rig_truth::partWork(originals(), machine, game, v, part.name);
            return work->cpuMs <= 14 && work->gpuMs <= 8 && work->gpuMemoryMib <= room.gpuMemoryMib;
        });
    };
    const auto descend = [&](const auto& self, std::size_t at) -> void {
        if (at == game.settings.size()) {
            const double picture = game::pictureValue(game, all);
            run::Variant v = start;
            v.values = all;
            if (picture > best && fits(v)) best = picture;
            return;
        }
        const auto& setting = game.settings[at];
        for (const auto& level : setting.levels) {
            if (fixed.contains(setting.id) && fixed.at(setting.id) != level.name) continue;
            all[setting.id] = level.name;
            self(self, at + 1);
        }
    };
    descend(descend, 0);
    const auto found = rig_truth::bestValues(originals(), machine, game, start, route.name, room, fixed);
    ASSERT_TRUE(found && *found);
    EXPECT_NEAR((*found)->picture, best, 1e-12);
    EXPECT_EQ((*found)->values.at("smoke"), "normal");
    EXPECT_FALSE(*rig_truth::bestValues(originals(), machine, game, start, route.name,
                                        {std::vector<rig_truth::Room::Lanes>(route.parts.size(), {0.1, 8}), 6000}));
}

// Families of simulated runs whose true figures are known from very many: how often the 95% t interval of a family
// holds them.
TEST(TruthTest, IntervalsOfFamiliesHoldTheFiguresOfManyRuns) {
    const auto game = gameNamed("lantern-orchard.toml");
    const auto machine = tower();
    const auto rig = rig_sim::simulatedRig(originals(), machine, game);
    run::Order order;
    order.variant.values = game.presets.front().values;
    order.variant.resolution = machine.panel.native;
    order.route = game.routes.front().name;
    order.seconds = 15;
    constexpr std::size_t families = 1000, runsEach = 4;
    std::vector<double> averages, lows;
    for (std::uint64_t i = 0; i < families * runsEach; ++i) {
        order.seed = 90000 + i;
        const auto run = (*rig)->record(order, {1}, {}, {});
        const auto summary = frames::summarize(run->capture.framesMs);
        averages.push_back(summary->average.value());
        lows.push_back(summary->of(stats::LowRule::WorstMean).onePercent->rate.value());
    }
    const auto held = [&](const std::vector<double>& all) {
        const double truth = *stats::mean(all);
        int inside = 0;
        for (std::size_t f = 0; f < families; ++f) {
            const auto interval = *stats::meanInterval(std::span(all).subspan(f * runsEach, runsEach));
            inside += std::abs(interval.estimate - truth) <= *interval.halfWidth ? 1 : 0;
        }
        return static_cast<double>(inside) / families;
    };
    fmt::print("{} families of {} runs: 95% intervals hold the average {:.1f}%, the 1% low {:.1f}%\n", families,
               runsEach, 100 * held(averages), 100 * held(lows));
    for (const double share : {held(averages), held(lows)}) {
        EXPECT_GE(share, 0.92);
        EXPECT_LE(share, 0.98);
    }
}
