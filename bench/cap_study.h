// SPDX-License-Identifier: GPL-3.0-or-later
// A machine, a game, settings, a target and a style drawn at random: what is predicted of caps from one or two uncapped
// runs, and what their proofs then are.
#pragma once

#include <cmath>
#include <filesystem>
#include <fmt/core.h>
#include <impasto/base/file.h>
#include <impasto/base/random.h>
#include <impasto/pace/cap.h>
#include <impasto/pace/power.h>
#include <impasto/rig_draw/draw.h>
#include <impasto/rig_sim/simulated.h>

namespace impasto::cap_study {

inline std::string shipped(const std::filesystem::path& data, const char* folder, const std::string& name) {
    return *readFile(data / folder / (name + ".toml"));
}

/// The power tables of a shipped machine, with a governor drawn anew.
inline std::string powerOf(const std::filesystem::path& data, const std::string& machine, RandomStream& random) {
    const auto text = shipped(data, "machines", machine);
    auto power = text.substr(text.find("\n[rig.power]"));
    const auto set = [&](const char* key, double value) {
        const auto at = power.find(key);
        if (at != std::string::npos) power.replace(at, power.find('\n', at) - at, fmt::format("{} = {}", key, value));
    };
    set("period_ms", std::round(random.uniform(50, 300)));
    set("smoothing", random.uniform(0.05, 0.8));
    set("gpu_target", random.uniform(0.6, 0.97));
    set("cpu_target", random.uniform(0.35, 0.7));
    return power;
}

struct Case {
    std::uint64_t seed;
    description::Originals originals;
    machine::Machine machine;
    game::Game game;
    run::Order order;
    run::Brief brief;
    bool power = false, small = false;
    std::size_t baseRuns = 1;
};

inline Case drawn(const std::filesystem::path& data, std::uint64_t seed) {
    RandomStream random(seed, "caps");
    Case c{seed, {}, {}, {}, {}, {}};
    auto texts = rig_draw::draw(seed);
    const char* const powered[] = {"marram-desktop", "whinbush-laptop", "curlew-pocket"};
    const char* const games[] = {"chalk-ridge", "lantern-orchard", "rainmarket", "saltmarsh-courier"};
    const char* const machines[] = {"marram-desktop", "whinbush-laptop", "curlew-pocket",
                                    "sedge-laptop",   "pocket-heron",    "thornbury-tower"};
    switch (seed % 4) {
    case 0: // drawn, its clocks hold
        break;
    case 1:
    case 2: // drawn, with power
        texts.machine += powerOf(data, powered[random.below(3)], random);
        break;
    default: // shipped
        texts.machine = shipped(data, "machines", machines[random.below(6)]);
        if (random.uniform() < 0.5) texts.game = shipped(data, "games", games[random.below(4)]);
    }
    c.originals.add(texts.machine);
    c.originals.add(texts.game);
    c.machine = machine::parseMachine(texts.machine, "machine").value();
    c.game = game::parseGame(texts.game, "game").value();
    c.power = texts.machine.find("[rig.power]") != std::string::npos;
    const auto& route = c.game.routes.front();
    c.order.route = route.name;
    c.order.seconds = route.seconds();
    c.order.variant.resolution = c.machine.panel.native;
    for (const auto& s : c.game.settings) c.order.variant.values[s.id] = s.levels[random.below(s.levels.size())].name;
    if (random.uniform() < 0.25) c.order.conditions.plan = run::PowerPlan::Performance;
    constexpr std::array styles{run::Style::Competitive, run::Style::Cinematic, run::Style::Battery,
                                run::Style::WeakMachine, run::Style::Quiet};
    c.brief.style = styles[random.below(5)];
    c.brief.lowRule = stats::allLowRules[seed / 4 % 3];
    c.baseRuns = 1 + random.below(2);
    return c;
}

/// A rig with its state, and runs of it.
class Player {
  public:
    explicit Player(const Case& c)
        : m_case(c), m_rig(std::move(*rig_sim::simulatedRig(c.originals, c.machine, c.game))) {}
    /// Settles first where clocks and heat are played.
    capture::Capture run(const pace::CapPlan& plan, const std::string& purpose, bool settle,
                         run::LimiterPlace limiter = run::LimiterPlace::Engine) {
        run::Order order = m_case.order;
        order.variant.limiter = limiter;
        order.variant.cap = plan.cap;
        order.variant.sync = plan.sync;
        order.variant.refresh = plan.refresh;
        order.seed = deriveSeed(m_case.seed, purpose);
        if (settle && m_case.power) order.conditions.warmUpSeconds = 45;
        auto recording = *m_rig->record(order, m_state, {}, {});
        m_state = recording.next;
        return std::move(recording.capture);
    }

  private:
    const Case& m_case;
    std::unique_ptr<rig::Rig> m_rig;
    rig::RigState m_state;
};

struct Truth {
    pace::CapPlan plan;
    pace::Figures figures;
    std::optional<pace::Drawn> drawn;
};

/// Means of three runs, as a proof takes them.
inline Truth proofOf(Player& player, const Case& c, const pace::CapPlan& plan, const std::string& name) {
    Truth out{plan, {}, {}};
    std::vector<pace::Drawn> drawn;
    for (int r = 0; r < 3; ++r) {
        const auto capture = player.run(plan, fmt::format("{} {}", name, r), r == 0);
        const auto f = *pace::figuresOf(capture, plan, c.machine.panel, c.brief);
        for (const auto figure : pace::allFigures) out.figures.of(figure) += f.of(figure) / 3;
        if (const auto each = pace::drawnIn(capture)) drawn.push_back(*each);
    }
    out.drawn = pace::meanOf(drawn);
    return out;
}

struct Cell { // of a reach: lanes or frames, small or not; figure; how lows are counted
    std::size_t reaches;
    pace::Figure figure;
    stats::LowRule rule;
    auto operator<=>(const Cell&) const = default;
};
struct Miss {
    Cell cell;
    double below = 0, above = 0; // in scales
    bool inside = false, afterAProof = false;
    double width = 0;
};
struct Watts {
    bool gpuAlone = false;
    pace::Clocks clocks = pace::Clocks::Free;
    bool inside = false, insideAfter = false, judgedAfter = false;
    double width = 0;
    std::optional<double> exponent = {}, least = {},
                          most = {}; // that this proof asks for; none where it lies near the uncapped runs
};
struct Outcome {
    std::vector<Miss> misses;
    std::vector<Watts> watts; // with CPU and GPU work alone
    std::optional<double> regret, regretAfter;
    std::size_t proofs = 0;
    run::Style style = run::Style::Cinematic;
    std::size_t reaches = 0;
    bool conflict = false;
};

inline std::size_t reachesOf(const pace::Replay& replay) {
    return (replay.lanes ? 0U : 1U) + (replay.clocks == pace::Clocks::Small ? 2U : 0U);
}

inline void judge(Outcome& out, const pace::Replay& replay, const pace::CapPlan& plan, const pace::Figures& truth,
                  const pace::CapRules& rules, bool afterAProof) {
    const auto e = pace::learntOf(replay, plan);
    const auto p = pace::predict(replay, plan, rules);
    for (const auto figure : pace::allFigures) {
        const auto i = static_cast<std::size_t>(figure);
        const double y = pace::measureOf(figure, truth.of(figure));
        Miss miss{{reachesOf(replay), figure, replay.brief.lowRule}};
        miss.below = (e.middle[i] - y) / std::max(1e-9, e.below[i]);
        miss.above = (y - e.middle[i]) / std::max(1e-9, e.above[i]);
        const auto& band = p.of(figure);
        miss.inside = truth.of(figure) >= band.low - 1e-9 && truth.of(figure) <= band.high + 1e-9;
        miss.width = figure == pace::Figure::OnTime ? band.high - band.low : (band.high - band.low) / band.middle;
        miss.afterAProof = afterAProof;
        out.misses.push_back(miss);
    }
}

/// What the proofs drew against what is told of them, and of each after another one.
inline std::vector<Watts> judgeWatts(const pace::Replay& replay, const std::vector<pace::Drawn>& base,
                                     const std::vector<Truth>& truths, const pace::PowerRules& rules) {
    std::vector<Watts> out;
    const auto mean = pace::meanOf(base);
    if (!mean) return out;
    pace::Power power{{{std::nullopt, *mean}}, replay.clocks};
    const auto holds = [](const pace::Band& band, double w) { return w >= band.low && w <= band.high; };
    for (const auto& truth : truths) {
        if (!truth.drawn || truth.drawn->of != mean->of) continue;
        const Fps rate(pace::valueOf(pace::Figure::Average, pace::expectedOf(replay, truth.plan).middle[0]));
        const auto band = pace::wattsAt(power, rate, rules);
        Watts w{mean->of == pace::PowerOf::Gpu, replay.clocks, holds(band, truth.drawn->watts)};
        w.width = (band.high - band.low) / band.middle;
        const double x = std::log(rate.value() / mean->rate.value()), y = std::log(truth.drawn->watts / mean->watts);
        if (x < -0.07) w.exponent = y / x;
        if (x < -0.02) {
            w.least = (y + rules.noise) / x;
            w.most = (y - rules.noise) / x;
        }
        const auto& taught = truths[truths.size() / 2];
        if (taught.drawn && taught.plan != truth.plan) {
            auto learnt = power;
            learnt.points.push_back({taught.plan, *taught.drawn});
            w.judgedAfter = true;
            w.insideAfter = holds(pace::wattsAt(learnt, rate, rules), truth.drawn->watts);
        }
        out.push_back(w);
    }
    return out;
}

/// Both kinds of lanes of one case: with CPU and GPU work, and with frame times alone.
inline std::vector<Outcome> study(const std::filesystem::path& data, std::uint64_t seed, const pace::CapRules& rules) {
    Case c = drawn(data, seed);
    Player player(c);
    player.run({}, "warm-up", false);
    std::vector<capture::Capture> base;
    for (std::size_t r = 0; r < c.baseRuns; ++r) base.push_back(player.run({}, fmt::format("base {}", r), false));
    std::vector<pace::UncappedRun> runs;
    for (const auto& capture : base) runs.push_back({&capture, c.order.variant});
    const auto clocks = pace::clocksOf(base.front(), c.order.conditions, run::Style::Cinematic);
    RandomStream random(seed, "target");
    const double average = pace::figuresOf(base.front(), {}, c.machine.panel, c.brief)->of(pace::Figure::Average);
    c.brief.target = Fps(std::max(12.0, std::round(average * random.uniform(0.55, 0.97))));
    if (const auto most = pace::fastestCap(c.machine.panel, rules.limiterErrorMs))
        c.brief.target = std::min(c.brief.target, Fps(std::floor(most->value())));
    if (random.uniform() < 0.5) c.brief.lowestLow = Fps(std::round(0.7 * c.brief.target.value()));

    std::vector<Truth> truths;
    const auto truthOf = [&](const pace::CapPlan& plan) {
        for (const auto& truth : truths)
            if (truth.plan == plan) return truth.figures;
        truths.push_back(proofOf(player, c, plan, fmt::format("cap {}", truths.size() + 1)));
        return truths.back().figures;
    };
    std::vector<pace::Drawn> drawn;
    for (const auto& capture : base)
        if (const auto each = pace::drawnIn(capture)) drawn.push_back(*each);
    auto withLanes = pace::replayOf(runs, c.machine.panel, c.brief, clocks);
    for (auto& capture : base) capture.cpuWorkMs = capture.gpuWorkMs = capture.latencyMs = std::nullopt;
    auto framesOnly = pace::replayOf(runs, c.machine.panel, c.brief, clocks);
    // What might be taken: a dozen of all legal caps.
    const auto offered = pace::offers(*withLanes, rules);
    for (int i = 0; i < 12; ++i) {
        const double cap = std::round((0.45 + 0.6 * i / 11) * average);
        const auto plan = pace::planFor(Fps(cap), c.machine.panel, c.brief.style, rules.limiterErrorMs);
        if (!pace::conflictFor(*withLanes, plan, rules)) truthOf(plan);
    }
    for (const auto& offer : offered.all)
        if (offer.applies && !offer.conflict) truthOf(offer.plan);
    std::vector<Outcome> out;
    for (auto* replay : {&*withLanes, &*framesOnly}) {
        Outcome o;
        o.style = c.brief.style;
        o.reaches = reachesOf(*replay);
        const std::size_t known = truths.size();
        if (replay->lanes) o.watts = judgeWatts(*replay, drawn, truths, rules.power);
        for (std::size_t i = 0; i < known; ++i) judge(o, *replay, truths[i].plan, truths[i].figures, rules, false);
        auto now = pace::offers(*replay, rules);
        const auto* first = now.all.empty() ? nullptr : &now.all.front();
        if (first != nullptr && first->applies && !first->conflict) {
            const auto latencyOf = [&](const pace::CapPlan& plan) {
                return pace::expectedOf(*withLanes, plan).latencyMs;
            };
            const auto worth = [&](const pace::CapPlan& plan) {
                return pace::worthOf(c.brief, truthOf(plan), latencyOf(plan));
            };
            auto taken = first->plan;
            const auto taught = taken;
            double best = worth(taken);
            const double before = best;
            o.conflict = pace::conflictOf(taken, c.machine.panel, rules.limiterErrorMs).has_value();
            pace::learn(*replay, taken, truthOf(taken));
            o.proofs = 1;
            for (std::size_t i = 0; i < known; ++i)
                if (truths[i].plan != taught) judge(o, *replay, truths[i].plan, truths[i].figures, rules, true);
            while (o.proofs < 4) {
                now = pace::offers(*replay, rules);
                if (!now.gain || *now.gain <= pace::worthAProof || now.all.front().measured) break;
                taken = now.all.front().plan;
                best = std::max(best, worth(taken));
                pace::learn(*replay, taken, truthOf(taken));
                ++o.proofs;
            }
            double top = best;
            for (std::size_t i = 0; i < truths.size(); ++i)
                if (!pace::conflictFor(*replay, truths[i].plan, rules)) top = std::max(top, worth(truths[i].plan));
            o.regret = top - before;
            o.regretAfter = top - best;
        }
        out.push_back(std::move(o));
    }
    return out;
}

} // namespace impasto::cap_study
