// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <array>
#include <cmath>
#include <cstdio>
#include <impasto/frames/parts.h>
#include <impasto/frames/summary.h>
#include <impasto/rig_truth/truth.h>
#include <impasto/stats/stats.h>
#include <set>

using namespace impasto;
using namespace impasto::support;

namespace {

run::Order orderFor(const game::Game& game, const machine::Machine& machine, std::uint64_t seed) {
    run::Order o;
    o.variant = {game.presets.front().values, machine.panel.native, {}, run::Sync::None};
    o.route = game.routes.front().name;
    o.seconds = game.routes.front().seconds();
    o.seed = seed;
    return o;
}

capture::Capture recorded(const run::Order& order, rig::RigState state = {true}) {
    const auto rig = rig_sim::simulatedRig(originals(), tower(), saltmarsh());
    EXPECT_TRUE(rig.has_value());
    auto recording = (*rig)->record(order, state, {}, {});
    EXPECT_TRUE(recording.has_value());
    return recording->capture;
}

std::string output(const std::string& command) {
    std::string out;
    FILE* pipe = ::popen(command.c_str(), "r");
    std::array<char, 256> buffer{};
    while (pipe != nullptr && std::fgets(buffer.data(), buffer.size(), pipe) != nullptr) out += buffer.data();
    if (pipe != nullptr) ::pclose(pipe);
    return out;
}

} // namespace

TEST(RigTest, ASeedGivesTheSameRunAndAnotherSeedAnother) {
    const auto order = orderFor(saltmarsh(), tower(), 5);
    EXPECT_EQ(capture::fingerprintOf(recorded(order)), capture::fingerprintOf(recorded(order)));
    auto other = order;
    other.seed = 6;
    EXPECT_NE(capture::fingerprintOf(recorded(order)), capture::fingerprintOf(recorded(other)));
}

// The tables hold on every x86-64 machine, with and without fused multiply-add, sanitized and not.
TEST(RigTest, RunsAreThoseOfTheTableEverywhere) {
    const std::string program = IMPASTO_RIG_CHECKSUM;
    const std::string wanted = textOf(testFile("checksums/rig.tsv"));
    EXPECT_EQ(output(program + " rig"), wanted);
    EXPECT_EQ(output("GLIBC_TUNABLES=glibc.cpu.hwcaps=-FMA,-FMA4 " + program + " rig"), wanted);
}

TEST(RigTest, TheDemoIsItsRecipe) {
    const std::string replayed = output(std::string(IMPASTO_RIG_CHECKSUM) + " demo");
    EXPECT_EQ(replayed, textOf(testFile("checksums/demo.tsv")));
    EXPECT_GT(std::count(replayed.begin(), replayed.end(), '\n'), 9);
}

TEST(RigTest, FramesArePushedAsTheyAreRecorded) {
    const auto rig = rig_sim::simulatedRig(originals(), tower(), saltmarsh());
    std::vector<double> pushed;
    const auto recording = (*rig)->record(orderFor(saltmarsh(), tower(), 5), {true},
                                          [&](const rig::FrameSample& f) { pushed.push_back(f.frameMs); }, {});
    EXPECT_EQ(pushed, recording->capture.framesMs);
}

TEST(RigTest, ACancelledRunHoldsExactlyWhatWasPushed) {
    const auto rig = rig_sim::simulatedRig(originals(), tower(), saltmarsh());
    std::stop_source stop;
    double at = 0;
    const auto recording = (*rig)->record(orderFor(saltmarsh(), tower(), 5), {false},
                                          [&](const rig::FrameSample& f) {
                                              at += f.frameMs;
                                              if (at >= 41000) stop.request_stop();
                                          },
                                          {stop.get_token(), {}});
    ASSERT_TRUE(recording.has_value());
    EXPECT_TRUE(recording->cancelled);
    EXPECT_DOUBLE_EQ(capture::durationMs(recording->capture), at);
    EXPECT_LT(recording->next.shadersMet, 0.7) << "a cut run has not met every shader";
    EXPECT_GT(recording->next.shadersMet, 0.4);
    std::stop_source before;
    before.request_stop();
    EXPECT_EQ((*rig)->record(orderFor(saltmarsh(), tower(), 5), {true}, {}, {before.get_token(), {}}).error().code,
              ErrorCode::Cancelled);
}

TEST(RigTest, TheFirstRunCompilesShadersAndTheStateCarriesIt) {
    const auto order = orderFor(saltmarsh(), tower(), 5);
    const auto cold = frames::summarize(recorded(order, {false}).framesMs),
               warm = frames::summarize(recorded(order, {true}).framesMs);
    EXPECT_LT(cold->of(stats::LowRule::WorstMean).onePercent->rate /
                  warm->of(stats::LowRule::WorstMean).onePercent->rate,
              0.85);
    EXPECT_GT(cold->average / warm->average, 0.95) << "the average hardly changes";
    auto updated = order;
    updated.conditions.driverUpdated = true;
    EXPECT_EQ(recorded(updated, {true}).frames(), recorded(order, {false}).frames());
    EXPECT_EQ(*rig::stateOf(rig::textOf({true})), rig::RigState{true});
    EXPECT_EQ(rig::stateOf("nonsense").error().code, ErrorCode::BadValue);
}

TEST(RigTest, MeanWorkIsTheHiddenTruthWithinTheNoise) {
    const auto game = saltmarsh();
    const auto machine = tower();
    const auto truth =
        rig_truth::routeWork(originals(), machine, game, orderFor(game, machine, 1).variant, game.routes.front().name);
    std::vector<double> gpu;
    for (std::uint64_t seed = 1; seed <= 12; ++seed)
        gpu.push_back(*frames::routeMean(frames::partMeans(recorded(orderFor(game, machine, seed))),
                                         &game.routes.front(), run::Lane::Gpu));
    EXPECT_NEAR(*stats::mean(gpu), truth->gpuMs, 0.02 * truth->gpuMs);
    EXPECT_GT(*stats::standardDeviation(gpu), 0.001 * truth->gpuMs) << "runs differ by themselves";
}

TEST(RigTest, ACapHoldsAndLeavesTheWorkAlone) {
    auto order = orderFor(saltmarsh(), tower(), 5);
    const auto free = recorded(order);
    order.variant.cap = Fps(40);
    const auto capped = recorded(order);
    EXPECT_NEAR(frames::summarize(capped.framesMs)->average.value(), 40, 0.5);
    const auto work = [](const capture::Capture& c) {
        return *frames::routeMean(frames::partMeans(c), nullptr, run::Lane::Gpu);
    };
    EXPECT_NEAR(work(capped), work(free), 0.05 * work(free));
}

// Common practice, no source: a cap that leaves slack raises the lows of a game with deferred work.
TEST(RigTest, ACapWithSlackRaisesTheWorstFrames) {
    auto order = orderFor(saltmarsh(), tower(), 5);
    for (auto& [id, level] : order.variant.values)
        if (id == "render_scale") level = "67%";
    const auto free = frames::summarize(recorded(order).framesMs);
    order.variant.cap = Fps(0.8 * free->average.value());
    EXPECT_LT(frames::summarize(recorded(order).framesMs)->hitches.size(), free->hitches.size());
}

TEST(RigTest, SensorsReadAtTheirOwnPace) {
    const auto c = recorded(orderFor(saltmarsh(), tower(), 5));
    const auto* memory = c.track(capture::Sensor::GpuMemory);
    ASSERT_NE(memory, nullptr);
    EXPECT_NEAR(static_cast<double>(memory->values.size()), capture::durationMs(c) / 500, 10);
    EXPECT_EQ(c.marks.size(), 3U);
    EXPECT_EQ(c.marks[1].part, "the landing");
}

TEST(RigTest, UnknownNamesAreErrors) {
    const auto rig = rig_sim::simulatedRig(originals(), tower(), saltmarsh());
    auto order = orderFor(saltmarsh(), tower(), 5);
    order.route = "nowhere";
    EXPECT_EQ((*rig)->record(order, {}, {}, {}).error().code, ErrorCode::UnknownName);
    order = orderFor(saltmarsh(), tower(), 5);
    order.variant.values["shadows"] = "huge";
    EXPECT_EQ((*rig)->record(order, {}, {}, {}).error().where.key, "shadows");
}

TEST(RigTest, GamesWithoutHiddenTablesCannotBeSimulated) {
    EXPECT_TRUE(rig_sim::canSimulate(originals(), tower(), saltmarsh()));
    EXPECT_FALSE(rig_sim::canSimulate(originals(), tower(), smallGame()));
    const auto none = rig_sim::simulatedRig(originals(), tower(), smallGame());
    ASSERT_FALSE(none.has_value());
    EXPECT_EQ(none.error().code, ErrorCode::MissingKey);
    const auto broken = gameWith("saltmarsh-courier.toml", {{"gpu_ms = [0.5, 1.2, 3.1, 4.7]", "gpu_ms = [0.5, 1.2]"}});
    EXPECT_EQ(rig_sim::simulatedRig(originals(), tower(), broken).error().where.key, "rig.cost.shadows.gpu_ms");
}
