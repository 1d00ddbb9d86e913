// SPDX-License-Identifier: GPL-3.0-or-later
// What frame generation takes, named or suspected, against the simulator with and without it.
#include "support/support.h"

#include <impasto/limits/tested.h>
#include <impasto/limits/what_if.h>

using namespace impasto;
using namespace impasto::support;
using limits::Cause;
using limits::DecidingTest;

namespace {

using Recording = std::shared_ptr<const capture::Capture>;

/// A warm machine with two GPUs, one game on one route.
struct TwoGpus {
    machine::Machine machine = machineNamed("fenwick-duo.toml");
    game::Game game = saltmarsh();
    run::Variant usual;

    explicit TwoGpus(std::size_t preset) {
        usual.values = game.presets.at(preset).values;
        usual.resolution = machine.panel.native;
    }
    [[nodiscard]] Recording recorded(const run::Variant& variant, std::uint64_t seed) const {
        const auto rig = rig_sim::simulatedRig(originals(), machine, game);
        run::Order order;
        order.variant = variant;
        order.route = game.routes.front().name;
        order.seconds = game.routes.front().seconds();
        order.seed = seed;
        const auto made = (*rig)->record(order, {1.0}, {}, {});
        return made ? std::make_shared<const capture::Capture>(made->capture) : nullptr;
    }
    [[nodiscard]] std::vector<limits::PartVerdict> judged(const Recording& run, const run::Variant& variant) const {
        return limits::judge(std::vector{run}, variant, machine.panel, 0.97, {}, {&machine, {}});
    }
};

const limits::Suspicion* generationIn(const limits::PartVerdict& v) {
    const auto it = std::find_if(v.suspicions.begin(), v.suspicions.end(),
                                 [](const auto& s) { return s.cause == Cause::Generation; });
    return it == v.suspicions.end() ? nullptr : &*it;
}

run::Generation external(int multiplier, bool onSecondGpu) {
    return {run::GenerationKind::External, multiplier, {}, onSecondGpu};
}

} // namespace

TEST(GenerationCauseTest, WhatInventingTakesIsNamedWhereTheSimulatorSaysSo) {
    std::size_t named = 0, took = 0;
    for (const std::size_t preset : {0U, 1U, 2U})
        for (const auto& generation : {external(2, false), external(2, true), external(4, true), external(8, true)}) {
            const TwoGpus two(preset);
            auto with = two.usual;
            with.generation = generation;
            const auto run = two.recorded(with, 5), without = two.recorded(two.usual, 5);
            ASSERT_TRUE(run && without);
            auto verdicts = two.judged(run, with);
            const auto tested =
                limits::compareTested(DecidingTest::WithoutGeneration, std::vector{run}, std::vector{without});
            const auto testedOf = [&](const std::string& part) {
                return *std::find_if(tested.begin(), tested.end(), [&](const auto& t) { return t.part == part; });
            };
            const auto plain = two.judged(without, two.usual);
            for (std::size_t i = 0; i < verdicts.size(); ++i) {
                EXPECT_EQ(generationIn(plain[i]), nullptr) << "none is on";
                const auto* s = generationIn(verdicts[i]);
                const double gain = testedOf(verdicts[i].part).rise;
                took += gain > 0.08 ? 1U : 0U;
                if (gain > 0.08)
                    EXPECT_NE(s, nullptr) << preset << ", x" << generation.multiplier << ", " << verdicts[i].part;
                if (s != nullptr && s->sure >= 0.6) EXPECT_GT(gain, 0.03) << verdicts[i].part;
                named += s != nullptr && s->sure >= 0.6 ? 1U : 0U;
            }
            // A run without it decides.
            limits::applyTested(verdicts, tested);
            for (const auto& v : verdicts) {
                const auto* s = generationIn(v);
                const auto answer = testedOf(v.part).answer;
                if (answer == limits::Answer::Yes) {
                    ASSERT_NE(s, nullptr);
                    EXPECT_GE(s->sure, 0.9);
                } else if (answer == limits::Answer::No && s != nullptr) {
                    EXPECT_LT(s->sure, 0.6);
                }
            }
        }
    EXPECT_GT(named, 3U) << "a second GPU that does not keep up";
    EXPECT_GT(took, 6U);
}

TEST(GenerationCauseTest, ALogThatCountsInventedFramesTellsThatItIsOn) {
    const TwoGpus two(0);
    auto with = two.usual;
    with.generation = external(4, true);
    const auto run = two.recorded(with, 5);
    ASSERT_TRUE(run);
    const auto parts = [&](capture::Capture c, std::optional<display::Panel> panel) {
        const std::vector runs{std::make_shared<const capture::Capture>(std::move(c))};
        std::size_t named = 0;
        for (const auto& v : limits::judge(runs, two.usual, panel)) {
            if (generationIn(v) == nullptr || generationIn(v)->sure < 0.6) continue;
            ++named;
            EXPECT_TRUE(limits::whatIfsOf(v, runs).empty()) << "no faster chip helps";
        }
        return named;
    };
    EXPECT_GE(parts(*run, {}), 2U) << "as found by the second GPU's load";
    auto worn = two.machine.panel;
    worn.headset = true;
    EXPECT_EQ(parts(*run, worn), 0U) << "its runtime may have invented them";
    auto untold = *run;
    untold.invented.reset();
    EXPECT_EQ(parts(untold, {}), 0U);
}

TEST(GenerationCauseTest, ItsRunLeavesItOut) {
    const TwoGpus two(1);
    EXPECT_FALSE(limits::planOf(DecidingTest::WithoutGeneration, two.usual, {}, &two.machine, &two.game));
    auto with = two.usual;
    with.generation = external(3, true);
    const auto plan = limits::planOf(DecidingTest::WithoutGeneration, with, {}, &two.machine, &two.game);
    ASSERT_TRUE(plan.has_value());
    EXPECT_EQ(plan->variant, two.usual);
    run::Order order;
    order.variant = plan->variant;
    EXPECT_EQ(limits::testIn(order, with, {}, &two.machine, &two.game), DecidingTest::WithoutGeneration);
}
