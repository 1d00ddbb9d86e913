// SPDX-License-Identifier: GPL-3.0-or-later
// What limits a part, held against what the simulator does when each mechanism is lifted: a quarter more CPU or GPU
// speed, no cap, no sync, a heat sink that never fills, no power limit, four times the memory, no copy route. The same
// seeds make the runs, so that nothing else differs. IMPASTO_LIMIT_CASES says another number of cases.
#include "support/support.h"

#include <cstdlib>
#include <impasto/base/random.h>
#include <impasto/base/text.h>
#include <impasto/limits/limits.h>
#include <regex>

using namespace impasto;
using namespace impasto::support;

namespace {

enum class Log { Whole, Loads, Times };

struct Case {
    std::string machine; // its description
    std::string game;    // the file
    run::Order order;    // of a baseline run
};

/// Every number of that key times the factor.
std::string scaled(const std::string& text, const std::string& key, double factor) {
    static const std::string number = R"(([0-9.]+))";
    const std::regex line("(^|\\n)(" + key + " = )" + number);
    std::string out;
    auto at = text.cbegin();
    for (std::sregex_iterator it(text.begin(), text.end(), line), end; it != end; ++it) {
        out.append(at, (*it)[0].first);
        out += (*it)[1].str() + (*it)[2].str() + shortestText(factor * std::stod((*it)[3].str()));
        at = (*it)[0].second;
    }
    return out.append(at, text.cend());
}

Case drawn(std::uint64_t seed) {
    static const char* machines[] = {"curlew-pocket", "fenwick-duo",     "marram-desktop", "pocket-heron",
                                     "sedge-laptop",  "thornbury-tower", "whinbush-laptop"};
    static const char* games[] = {"chalk-ridge", "lantern-orchard", "rainmarket", "saltmarsh-courier", "tin-harbour"};
    auto r = RandomStream(seed, "limits");
    Case c;
    c.machine = textOf(dataFile(fmt::format("machines/{}.toml", machines[r.below(std::size(machines))])));
    c.machine = scaled(c.machine, "cpu_speed", r.uniform(0.6, 1.5));
    c.machine = scaled(c.machine, "gpu_speed", r.uniform(0.6, 1.5));
    c.machine = scaled(c.machine, "watt_per_kelvin", r.uniform(0.5, 1.2));
    if (r.uniform() < 0.2) c.machine = scaled(c.machine, "sustained_w", r.uniform(0.4, 0.8));
    if (r.uniform() < 0.2) c.machine = scaled(c.machine, "gpu_memory_gib", r.uniform(0.4, 0.8));
    c.game = games[r.below(std::size(games))];
    const auto game = gameNamed(c.game + ".toml");
    auto& order = c.order;
    order.route = game.routes.front().name;
    order.seconds = game.routes.front().seconds();
    order.variant.values = game.presets[r.below(game.presets.size())].values;
    order.variant.resolution = machineFrom(c.machine).panel.native;
    if (r.uniform() < 0.3) order.conditions.fans = run::FanProfile::Quiet;
    if (r.uniform() < 0.2) order.variant.cap = Fps(std::round(r.uniform(30, 120)));
    if (r.uniform() < 0.15) order.variant.sync = run::Sync::Fixed;
    order.seed = seed;
    return c;
}

using Runs = std::vector<std::shared_ptr<const capture::Capture>>;

/// A warm-up and two runs after it, one machine, its heat carried over.
Runs recorded(const std::string& machineText, const Case& c, const run::Order& order) {
    const auto machine = machineFrom(machineText);
    const auto game = gameNamed(c.game + ".toml");
    auto rig = rig_sim::simulatedRig(originals(), machine, game);
    EXPECT_TRUE(rig.has_value());
    rig::RigState state;
    Runs out;
    for (std::uint64_t i = 0; rig && i < 3; ++i) {
        run::Order each = order;
        each.seed = deriveSeed(order.seed, fmt::format("run {}", i));
        each.purpose = i == 0 ? run::Purpose::WarmUp : run::Purpose::Baseline;
        auto recording = (*rig)->record(each, state, {}, {});
        if (!recording) return {};
        state = recording->next;
        out.push_back(std::make_shared<const capture::Capture>(std::move(recording->capture)));
    }
    return out;
}

std::map<std::string, double> ratesOf(const Runs& runs) {
    std::map<std::string, double> out;
    for (std::size_t i = 1; i < runs.size(); ++i)
        for (const auto& p : frames::partMeans(*runs[i]))
            out[p.part] += 1000 / p.periodMs / static_cast<double>(runs.size() - 1);
    return out;
}

/// By each mechanism, how much more fps its absence gives in each part.
std::map<std::string, std::map<std::string, double>> risesOf(const Case& c, const Runs& as) {
    const auto before = ratesOf(as);
    std::map<std::string, std::map<std::string, double>> out;
    const auto lift = [&](const std::string& what, const std::string& machine, const run::Order& order) {
        for (const auto& [part, rate] : ratesOf(recorded(machine, c, order)))
            out[part][what] = rate / before.at(part) - 1;
    };
    const auto& m = c.machine;
    lift("cpu", scaled(m, "cpu_speed", 1.25), c.order);
    lift("gpu", scaled(m, "gpu_speed", 1.25), c.order);
    lift("heat", scaled(m, "watt_per_kelvin", 20), c.order);
    lift("power", scaled(scaled(m, "sustained_w", 4), "burst_w", 4), c.order);
    lift("gpu-memory", scaled(m, "gpu_memory_gib", 4), c.order);
    auto order = c.order;
    if (order.variant.cap) {
        order.variant.cap.reset();
        lift("cap", m, order);
    }
    order = c.order;
    if (order.variant.sync != run::Sync::None) {
        order.variant.sync = run::Sync::None;
        lift("refresh", m, order);
    }
    order = c.order;
    order.variant.direct = true;
    if (machineFrom(m).copyRoute) lift("copy-route", m, order);
    return out;
}

capture::Capture cut(const capture::Capture& whole, Log log) {
    capture::Capture out = whole;
    if (log == Log::Whole) return out;
    out.cpuWorkMs.reset();
    out.gpuWorkMs.reset();
    if (log == Log::Times) out.tracks.clear();
    return out;
}

std::vector<limits::PartVerdict> judged(const Case& c, const Runs& runs, Log log) {
    Runs baseline;
    for (std::size_t i = 1; i < runs.size(); ++i)
        baseline.push_back(std::make_shared<capture::Capture>(cut(*runs[i], log)));
    const auto machine = machineFrom(c.machine);
    const limits::Around around{&machine, {std::make_shared<capture::Capture>(cut(*runs[0], log))}};
    return limits::judge(baseline, c.order.variant, machine.panel, 0.97, {}, around);
}

std::string brakeOf(const limits::PartVerdict& v) {
    switch (v.brake) {
    case limits::Brake::Cpu:
        return "cpu";
    case limits::Brake::Gpu:
        return "gpu";
    case limits::Brake::Cap:
        return "cap";
    case limits::Brake::Refresh:
        return "refresh";
    case limits::Brake::CannotTell:
        break;
    }
    return "cannot-tell";
}

struct Score {
    int parts = 0, committed = 0, right = 0;                  // the bottleneck
    int named = 0, namedRight = 0;                            // what stands behind it
    int there = 0, found = 0;                                 // of those that take more than a tenth of the rate
    std::map<std::pair<std::string, std::string>, int> table; // truth, verdict
};

/// What would help most; of those that help nearly as much each is right.
void add(Score& score, const limits::PartVerdict& v, const std::map<std::string, double>& rises) {
    const auto rise = [&](const std::string& what) {
        const auto it = rises.find(what);
        return it == rises.end() ? 0.0 : it->second;
    };
    std::string most = "none";
    double best = 0.04;
    for (const char* what : {"cpu", "gpu", "cap", "refresh"})
        if (rise(what) > best) {
            most = what;
            best = rise(what);
        }
    ++score.parts;
    const auto brake = brakeOf(v);
    ++score.table[{most, brake}];
    if (v.brake != limits::Brake::CannotTell && most != "none") {
        ++score.committed;
        score.right += rise(brake) >= 0.5 * best ? 1 : 0;
    }
    if (const auto* cause = v.cause()) {
        const std::string name(limits::keyOf(cause->cause));
        ++score.named;
        score.namedRight += rise(name) > 0.02 ? 1 : 0;
        ++score.table[{rise(name) > 0.02 ? name : "not " + name, name}];
    }
    for (const char* what : {"heat", "power", "gpu-memory", "copy-route"})
        if (rise(what) > 0.1) {
            ++score.there;
            const bool said = std::any_of(v.suspicions.begin(), v.suspicions.end(),
                                          [&](const auto& s) { return limits::keyOf(s.cause) == what; });
            score.found += said ? 1 : 0;
        }
}

void print(const char* log, const Score& s) {
    fmt::print(
        "{}: {} parts, committed {}, right {} ({:.1f}%); causes named {}, right {}; of {} that take over a tenth {} "
        "were suspected\n",
        log, s.parts, s.committed, s.right, 100.0 * s.right / std::max(1, s.committed), s.named, s.namedRight, s.there,
        s.found);
    for (const auto& [key, count] : s.table) fmt::print("    {:12} {:12} {}\n", key.first, key.second, count);
}

} // namespace

TEST(LimitsTruthTest, VerdictsAgainstLiftedMechanisms) {
    const char* said = std::getenv("IMPASTO_LIMIT_CASES");
    const std::uint64_t cases = said == nullptr ? 20 : std::strtoull(said, nullptr, 10);
    std::map<Log, Score> scores;
    // The rules were made on the seeds from 1000 on.
    for (std::uint64_t seed = 5000; seed < 5000 + cases; ++seed) {
        const auto c = drawn(seed);
        const auto runs = recorded(c.machine, c, c.order);
        if (runs.empty()) continue; // the game does not start with so little memory
        const auto rises = risesOf(c, runs);
        for (const auto log : {Log::Whole, Log::Loads, Log::Times})
            for (const auto& v : judged(c, runs, log)) {
                add(scores[log], v, rises.at(v.part));
                if (log == Log::Times && !c.order.variant.cap && c.order.variant.sync == run::Sync::None) {
                    EXPECT_EQ(v.brake, limits::Brake::CannotTell); // frame times alone never yield CPU or GPU
                    for (const auto& s : v.suspicions) EXPECT_LT(s.sure, 0.6); // and nothing behind it is named
                }
            }
    }
    print("whole logs", scores[Log::Whole]);
    print("loads and frame times", scores[Log::Loads]);
    print("frame times", scores[Log::Times]);
    const auto& whole = scores[Log::Whole];
    EXPECT_GE(whole.right, 0.95 * whole.committed);
    EXPECT_GE(whole.committed, 0.85 * whole.parts);
    EXPECT_GE(whole.namedRight, 0.9 * whole.named);
    EXPECT_GE(scores[Log::Loads].right, 0.85 * scores[Log::Loads].committed);
}
