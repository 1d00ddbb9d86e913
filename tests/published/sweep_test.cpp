// SPDX-License-Identifier: GPL-3.0-or-later
// Every shipped machine with every shipped game at four targets, from the first run to the result: each way ends, no
// cap works against its panel, and what is called held is held in the simulator's hidden truth.
#include "support/support.h"

#include <impasto/pace/power.h>
#include <impasto/results/earlier.h>
#include <impasto/rig_truth/hold.h>

using namespace impasto;
using namespace impasto::support;
using path::Action;

namespace {

constexpr const char* machineFiles[]{"curlew-pocket.toml",   "fenwick-duo.toml",    "marram-desktop.toml",
                                     "plover-headset.toml",  "pocket-heron.toml",   "sedge-laptop.toml",
                                     "thornbury-tower.toml", "whinbush-laptop.toml"};
constexpr const char* gameFiles[]{"chalk-ridge.toml",       "lantern-orchard.toml", "rainmarket.toml",
                                  "saltmarsh-courier.toml", "tin-harbour.toml",     "peat-barge.toml"};

document::SessionStore storeOf(const char* machineFile, const char* gameFile, const run::Brief& brief) {
    document::SessionStore store = demoStore();
    const auto game = gameNamed(gameFile);
    for (const auto& edit : {document::useMachine(store.addMachine(machineNamed(machineFile))),
                             document::useGame(store.addGame(game), game), document::setBrief(brief)})
        EXPECT_TRUE(store.apply(edit).has_value());
    return store;
}

/// How a session ends: done, or with what only a person can decide.
Action walkToTheEnd(Walk& walk) {
    for (int steps = 0; steps < 60; ++steps) {
        const auto action = walk.next().action;
        if (action == Action::Done || action == Action::LowerTarget || action == Action::SayBrief) return action;
        if (!walk.step()) return Action::Begin;
    }
    return Action::Begin;
}

/// Means of many runs against the bounds, within what so many runs can tell.
bool nearlyHeld(const rig_truth::HeldTruth& truth, const run::Brief& brief) {
    return std::all_of(truth.parts.begin(), truth.parts.end(), [&](const frames::PartHeld& p) {
        const double target = brief.target.value();
        return p.average.value() >= (frames::heldAverage - 0.005) * target &&
               p.onTimeShare >= brief.wishedOnTime() - 0.01 &&
               p.slowestSecond.value() >= (frames::heldSecond - 0.02) * target;
    });
}

} // namespace

TEST(SweepTest, EveryWayEndsAndHeldIsHeld) {
    std::map<std::string, std::array<int, 3>> table; // by target: held, not held, out of reach
    for (const double target : {30.0, 40.0, 60.0, 120.0})
        for (const char* machineFile : machineFiles)
            for (const char* gameFile : gameFiles) {
                SCOPED_TRACE(fmt::format("{} {} {}", machineFile, gameFile, target));
                run::Brief brief;
                brief.target = Fps(target);
                Walk walk(storeOf(machineFile, gameFile, brief));
                const Action end = walkToTheEnd(walk);
                ASSERT_NE(end, Action::Begin) << "it never ends, or a step fails";
                const auto& session = walk.store.session();
                const auto& kept = session.edits->record.kept;
                const bool held = end == Action::Done && kept && kept->held();
                ++table[fmt::format("{:3.0f}", target)].at(held ? 0 : end == Action::Done ? 1 : 2);
                if (const auto& cap = session.edits->pacing.cap) {
                    EXPECT_FALSE(pace::conflictOf(cap->plan, session.panel(), walk.rules.limiterErrorMs));
                }
                if (!held) continue;
                const auto truth =
                    rig_truth::heldTruth(originals(), *session.machine(), *session.game(), *session.chosenVariant(true),
                                         session.edits->subject.route, brief);
                ASSERT_TRUE(truth.has_value());
                EXPECT_TRUE(nearlyHeld(*truth, brief));
                for (const auto& p : truth->parts)
                    if (!nearlyHeld(*truth, brief))
                        fmt::print("  {} {} {}: {} {:.2f} fps {:.3f} on time {:.2f} slowest\n", machineFile, gameFile,
                                   target, p.part, p.average.value(), p.onTimeShare, p.slowestSecond.value());
            }
    for (const auto& [target, counts] : table)
        fmt::print("target {}: {} held, {} proven and not held, {} out of reach\n", target, counts[0], counts[1],
                   counts[2]);
}

// A game, or a low-latency mode, that keeps one frame in flight: CPU and GPU take turns, and a set has to hold both.
TEST(SweepTest, WithOneFrameInFlightHeldIsHeld) {
    int held = 0, all = 0;
    for (const char* machineFile : {"thornbury-tower.toml", "marram-desktop.toml", "pocket-heron.toml"})
        for (const auto& [gameFile, usual] : {std::pair("saltmarsh-courier.toml", "frames_in_flight = 3"),
                                              std::pair("tin-harbour.toml", "frames_in_flight = 2")})
            for (const double target : {30.0, 40.0, 60.0}) {
                SCOPED_TRACE(fmt::format("{} {} {}", machineFile, gameFile, target));
                run::Brief brief;
                brief.target = Fps(target);
                document::SessionStore store = demoStore();
                const auto game = gameWith(gameFile, {{usual, "frames_in_flight = 1"}});
                for (const auto& edit : {document::useMachine(store.addMachine(machineNamed(machineFile))),
                                         document::useGame(store.addGame(game), game), document::setBrief(brief)})
                    EXPECT_TRUE(store.apply(edit).has_value());
                Walk walk(std::move(store));
                const Action end = walkToTheEnd(walk);
                ASSERT_NE(end, Action::Begin) << "it never ends, or a step fails";
                if (end != Action::Done) continue;
                ++all;
                const auto& session = walk.store.session();
                if (!session.edits->record.kept || !session.edits->record.kept->held()) continue;
                ++held;
                const auto truth =
                    rig_truth::heldTruth(originals(), *session.machine(), *session.game(), *session.chosenVariant(true),
                                         session.edits->subject.route, brief);
                ASSERT_TRUE(truth.has_value());
                EXPECT_TRUE(nearlyHeld(*truth, brief));
            }
    fmt::print("one frame in flight: {} of {} proven sets held\n", held, all);
    EXPECT_GE(all, 9);
    EXPECT_GE(held, all - 2);
}

// What the styles' words promise, with one game on one machine.
TEST(SweepTest, StylesDoWhatTheirWordsPromise) {
    struct Ended {
        double picture = 0, average = 0, cap = 0, low = 0;
    };
    std::map<run::Style, Ended> ends;
    for (const auto style : run::allStyles) {
        run::Brief brief;
        brief.target = Fps(60);
        brief.style = style;
        Walk walk(storeOf("thornbury-tower.toml", "saltmarsh-courier.toml", brief));
        ASSERT_EQ(walkToTheEnd(walk), Action::Done) << run::keyOf(style);
        const auto& session = walk.store.session();
        EXPECT_TRUE(session.edits->record.kept->held()) << run::keyOf(style);
        const auto* proof = walk.results().get<proof::Proof>();
        ends[style] = {game::pictureValue(*session.game(), session.edits->settings.choice->values),
                       proof->averageAfter.estimate,
                       session.edits->pacing.cap->plan.pacedTo().value_or(Fps(0)).value()};
        for (const auto& run : proof->runs)
            if (run.after) ends[style].low += run.low / static_cast<double>(proof->after);
        fmt::print("{:<12} {:.2f}% of the picture, {:.1f} fps, 1% low {:.1f}, cap {:.1f}\n", run::keyOf(style),
                   100 * ends[style].picture, ends[style].average, ends[style].low, ends[style].cap);
    }
    // Battery and quiet ask for no more heat than the target takes. Cinematic and a weak machine take more frames only
    // for better lows, and no more than the competitive one, which takes the best lows of all.
    for (const auto style : {run::Style::Battery, run::Style::Quiet})
        EXPECT_NEAR(ends[style].average, 60, 3.5) << run::keyOf(style);
    for (const auto style : {run::Style::Cinematic, run::Style::WeakMachine}) {
        EXPECT_GE(ends[run::Style::Competitive].average, ends[style].average - 1) << run::keyOf(style);
        EXPECT_GE(ends[style].average, 59) << run::keyOf(style);
        const bool alike = ends[style].picture == ends[run::Style::Battery].picture; // the same settings
        if (alike && ends[style].average > 63.5) {
            EXPECT_GT(ends[style].low, ends[run::Style::Battery].low) << run::keyOf(style);
        }
    }
    EXPECT_GT(ends[run::Style::Competitive].average, 62);
    EXPECT_GE(ends[run::Style::WeakMachine].picture, ends[run::Style::Competitive].picture);
}

/// Test runs until a choice is proven, and what it shows.
struct Tuned {
    std::size_t testRuns = 0;
    double picture = 0;
};
Tuned tuned(Walk& walk, const game::Game& game) {
    EXPECT_TRUE(walk.until(Action::RecordProof));
    const auto& choice = walk.store.session().edits->settings.choice;
    return {results::idsOf<results::CostRuns>(walk.results()).size(),
            choice ? game::pictureValue(game, choice->values) : 0};
}

namespace {

/// Watts of the runs after, by their recordings; nothing where the session ended without a proof.
std::optional<double> wattsAfter(Walk& walk) {
    const auto* proof = walk.results().get<proof::Proof>();
    if (proof == nullptr) return std::nullopt;
    std::vector<pace::Drawn> drawn;
    for (const auto& run : proof->runs)
        if (run.after)
            if (const auto watts = pace::drawnIn(*walk.store.session().facts->run(run.id)->capture))
                drawn.push_back(*watts);
    const auto mean = pace::meanOf(drawn);
    return mean ? std::optional(mean->watts) : std::nullopt;
}

} // namespace

TEST(SweepTest, WattsThatAreAskedAreMetWithTheTarget) {
    std::size_t asked = 0, met = 0, runs = 0;
    for (const auto& [machineFile, target] :
         {std::pair("curlew-pocket.toml", 40.0), std::pair("pocket-heron.toml", 40.0),
          std::pair("sedge-laptop.toml", 60.0), std::pair("whinbush-laptop.toml", 60.0),
          std::pair("thornbury-tower.toml", 60.0), std::pair("marram-desktop.toml", 90.0)})
        for (const char* gameFile : {"tin-harbour.toml", "rainmarket.toml"}) {
            SCOPED_TRACE(fmt::format("{} {}", machineFile, gameFile));
            run::Brief brief;
            brief.target = Fps(target);
            Walk free(storeOf(machineFile, gameFile, brief));
            if (walkToTheEnd(free) != Action::Done) continue;
            const auto drawn = wattsAfter(free);
            ASSERT_TRUE(drawn);
            brief.bounds[run::Bound::Power] = 0.8 * *drawn;
            Walk walk(storeOf(machineFile, gameFile, brief));
            const auto end = walkToTheEnd(walk);
            const auto& kept = walk.store.session().edits->record.kept;
            const bool held = end == Action::Done && kept && kept->held();
            const auto watts = wattsAfter(walk);
            if (held) {
                ASSERT_TRUE(watts);
                EXPECT_LE(*watts, 0.8 * *drawn) << "met is said of what was measured";
                const auto& session = walk.store.session();
                const auto truth =
                    rig_truth::heldTruth(originals(), *session.machine(), *session.game(), *session.chosenVariant(true),
                                         session.edits->subject.route, brief);
                ASSERT_TRUE(truth.has_value());
                EXPECT_TRUE(nearlyHeld(*truth, brief));
            }
            fmt::print("{:<22} {:<22} {:.1f} W free, {:.1f} asked, {:.1f} drawn: {}\n", machineFile, gameFile, *drawn,
                       0.8 * *drawn, watts.value_or(0), held ? "both met" : "not met");
            ++asked;
            met += held ? 1 : 0;
            runs += walk.store.session().facts->runs.size();
        }
    fmt::print("{} of {} with both goals met, {} runs\n", met, asked, runs);
    EXPECT_GE(asked, 8U);
    EXPECT_GE(met * 3, asked * 2);
}

TEST(SweepTest, RunsOfAnEarlierSessionSpareTestRuns) {
    std::size_t usual = 0, taught = 0;
    for (const auto& [gameFile, before, now] :
         {std::tuple("lantern-orchard.toml", 140.0, 200.0), std::tuple("rainmarket.toml", 75.0, 90.0),
          std::tuple("tin-harbour.toml", 60.0, 80.0), std::tuple("peat-barge.toml", 80.0, 100.0)}) {
        const auto game = gameNamed(gameFile);
        run::Brief brief;
        brief.target = Fps(before);
        Walk first(storeOf("sedge-laptop.toml", gameFile, brief));
        tuned(first, game);
        brief.target = Fps(now);
        for (const char* machineFile : {"thornbury-tower.toml", "sedge-laptop.toml"}) {
            SCOPED_TRACE(fmt::format("{} on {}", gameFile, machineFile));
            Walk without(storeOf(machineFile, gameFile, brief)), with(storeOf(machineFile, gameFile, brief));
            auto earlier = results::earlierOf(first.store.session(), first.results(), with.store.session());
            ASSERT_TRUE(earlier.has_value());
            ASSERT_TRUE(with.store.apply(document::beginWith(std::move(*earlier))).has_value());
            const auto plain = tuned(without, game), begun = tuned(with, game);
            fmt::print("{:<22} {:<22} {:>2} test runs, {:.3f} of the picture; with earlier runs {:>2}, {:.3f}\n",
                       gameFile, machineFile, plain.testRuns, plain.picture, begun.testRuns, begun.picture);
            EXPECT_GT(begun.picture, plain.picture - 0.03);
            usual += plain.testRuns;
            taught += begun.testRuns;
        }
    }
    EXPECT_LE(taught * 4, usual * 3) << taught << " instead of " << usual;
}
