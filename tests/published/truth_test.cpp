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
    int held = 0, all = 0, runs = 0;
    double lossSum = 0, lossMost = 0;
    int choices = 0;
    [[nodiscard]] double share() const { return static_cast<double>(held) / all; }
    void print(const char* name) const {
        fmt::print(
            "{}: {} of {} costs inside 95% intervals ({:.1f}%); {:.1f} test runs on average; picture lost against "
            "the best at true costs: mean {:.4f}, most {:.4f}\n",
            name, held, all, 100 * share(), static_cast<double>(runs) / choices, lossSum / choices, lossMost);
    }
};

/// Every interval against the true difference in its part, and the choice against the best in the room that it had.
void addSession(const machine::Machine& machine, const game::Game& game, double target, std::uint64_t seed,
                Coverage& c) {
    Walk walk(storeFor(machine, game, target, seed), seed);
    if (!walk.until(path::Action::AcceptChoice)) {
        EXPECT_EQ(walk.next().action, path::Action::LowerTarget) << game.name << " " << seed;
        return;
    }
    const auto& results = walk.results();
    const auto base = walk.store.session().baselineVariant();
    const auto truth = [&](const run::Variant& v, const std::string& part) {
        return *rig_truth::partWork(originals(), machine, game, v, part);
    };
    const auto& costs = *results.get<results::Costs>();
    for (const auto& lane : costs.lanes) {
        const bool gpu = lane.lane == run::Lane::Gpu;
        for (std::size_t i = 0; i < lane.levels.columns.size(); ++i) {
            run::Variant v = base;
            v.values[lane.levels.columns[i].setting] = lane.levels.columns[i].level;
            const auto before = truth(base, lane.worstPart), after = truth(v, lane.worstPart);
            const double cost = gpu ? after.gpuMs - before.gpuMs : after.cpuMs - before.cpuMs;
            // What is nothing may be told as nothing.
            const bool nothing = std::abs(cost) < 0.02 && std::abs(lane.levels.estimate[i + 1]) < 0.1;
            c.held += nothing || std::abs(lane.levels.estimate[i + 1] - cost) <= lane.levels.halfWidth(i + 1) ? 1 : 0;
            ++c.all;
        }
    }
    c.runs += static_cast<int>(results::idsOf<results::CostRuns>(results).size());
    const auto room = costs.ground.room(Fps(target));
    rig_truth::Room all;
    for (std::size_t p = 0; p < room[0].size(); ++p) all.parts.push_back({room[0][p], room[1][p]});
    all.gpuMemoryMib = choose::usableMemoryShare * machine.gpuMemory.value();
    const auto best = rig_truth::bestValues(originals(), machine, game, base, game.routes.front().name, all);
    const auto* chosen = results::proposalOf(results);
    if (!best || !*best || chosen == nullptr) return;
    const double loss = std::max(0.0, (*best)->picture - chosen->picture);
    c.lossSum += loss;
    c.lossMost = std::max(c.lossMost, loss);
    ++c.choices;
}

} // namespace

TEST(TruthTest, IntervalsHoldTheTrueCostsAsOftenAsTheySay) {
    struct Case {
        const char* file;
        double target;
    };
    Coverage all;
    for (const auto& [file, target] :
         {Case{"saltmarsh-courier.toml", 66}, Case{"lantern-orchard.toml", 240}, Case{"tin-harbour.toml", 60}}) {
        Coverage c;
        for (std::uint64_t seed = 100; seed < 120; ++seed) addSession(tower(), gameNamed(file), target, seed, c);
        c.print(file);
        EXPECT_LE(c.lossSum / c.choices, 0.03) << file;
        all.held += c.held;
        all.all += c.all;
    }
    EXPECT_GE(all.share(), 0.88);
    EXPECT_LE(all.share(), 0.995);
}

TEST(TruthTest, TheyDoSoOnMachinesAndGamesThatNobodyTunedTo) {
    Coverage c;
    for (std::uint64_t seed = 1; seed <= 24; ++seed) {
        const auto drawn = rig_draw::draw(seed);
        const auto machine = machineFrom(drawn.machine);
        const auto game = gameFrom(drawn.game);
        // A quarter more than the rate that its heaviest part has already, so that there is something to save.
        const run::Variant start{game.presets.front().values, machine.panel.native, {}, run::Sync::None};
        double slowest = 0;
        for (const auto& part : game.routes.front().parts) {
            const auto work = rig_truth::partWork(originals(), machine, game, start, part.name);
            slowest = std::max({slowest, work->cpuMs, work->gpuMs});
        }
        addSession(machine, game, std::clamp(std::round(1250 / slowest), 10.0, 1000.0), seed, c);
    }
    c.print("drawn");
    EXPECT_GE(c.share(), 0.88);
    EXPECT_LE(c.share(), 0.995);
    EXPECT_LE(c.lossSum / c.choices, 0.03);
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
