// SPDX-License-Identifier: GPL-3.0-or-later
// What practitioners meet must come out of the simulated rig by mechanism: each fact over several seeds, and again with
// its mechanism switched off. Facts: common practice, no source; tolerances are wide on purpose.
#include "support/support.h"

#include <cmath>
#include <impasto/frames/parts.h>
#include <impasto/frames/summary.h>
#include <impasto/rig_truth/truth.h>
#include <impasto/stats/stats.h>

using namespace impasto;
using namespace impasto::support;

namespace {

constexpr std::array<std::uint64_t, 5> seeds{101, 102, 103, 104, 105};
constexpr std::array<std::uint64_t, 3> fewSeeds{2, 3, 4};

run::Order orderOf(const game::Game& game, const machine::Machine& machine, std::uint64_t seed,
                   const std::map<std::string, std::string>& values = {}) {
    run::Order o;
    o.variant.values = game.presets.front().values;
    for (const auto& [id, level] : values) o.variant.values[id] = level;
    o.variant.resolution = machine.panel.native;
    o.route = game.routes.front().name;
    o.seconds = game.routes.front().seconds();
    o.seed = seed;
    return o;
}

struct Seen {
    capture::Capture capture;
    rig::RigState after;
    std::vector<double> shownMs; // intervals of everything shown
    bool crashed = false;
    [[nodiscard]] double average() const { return frames::summarize(capture.framesMs)->average.value(); }
    [[nodiscard]] double low(bool tenth = false) const {
        const auto summary = frames::summarize(capture.framesMs);
        const auto& lows = summary->of(stats::LowRule::WorstMean);
        return (tenth ? lows.tenthPercent : lows.onePercent)->rate.value();
    }
    [[nodiscard]] double mean(capture::Sensor sensor) const {
        return capture::trackMean(capture, sensor).value_or(std::nan(""));
    }
    [[nodiscard]] double mean(const std::optional<std::vector<double>>& column) const {
        return column ? stats::mean(*column).value_or(std::nan("")) : 0;
    }
    [[nodiscard]] double hitches() const { return frames::summarize(capture.framesMs)->hitchesPerMinute(); }
    [[nodiscard]] double latency() const { return mean(capture.latencyMs); }
};

Seen play(const machine::Machine& machine, const game::Game& game, const run::Order& order, rig::RigState state = {1}) {
    const auto rig = rig_sim::simulatedRig(originals(), machine, game);
    EXPECT_TRUE(rig.has_value());
    Seen seen;
    auto recording = (*rig)->record(order, state,
                                    [&](const rig::FrameSample& frame) {
                                        double before = 0;
                                        for (const double at : frame.inventedMs) {
                                            seen.shownMs.push_back(at - before);
                                            before = at;
                                        }
                                        seen.shownMs.push_back(frame.frameMs - before);
                                    },
                                    {});
    EXPECT_TRUE(recording.has_value()) << wording::error(wording::Words(), recording.error()).all();
    seen.capture = std::move(recording->capture);
    seen.after = recording->next;
    seen.crashed = recording->crashed;
    return seen;
}

/// Median over the seeds.
template <class Figure>
double typical(Figure figure) {
    std::vector<double> all;
    for (const auto seed : seeds) all.push_back(figure(seed));
    std::sort(all.begin(), all.end());
    return all[all.size() / 2];
}

double shareWithin(const std::vector<double>& values, double least) {
    const auto n = std::count_if(values.begin(), values.end(), [least](double v) { return v >= least; });
    return static_cast<double>(n) / static_cast<double>(values.size());
}

const Changes noBackground{{"cpu_deferred = { ms_per_second = 4, limit_ms = 8 }", ""},
                           {"gpu_deferred = { ms_per_second = 6, limit_ms = 10 }", ""}};

} // namespace

TEST(FactsTest, ACapUnderTheAverageRaisesTheWorstFramesOfALightGame) {
    const auto machine = tower();
    const auto gain = [&](const game::Game& game, double share) {
        return typical([&](std::uint64_t seed) {
            auto order = orderOf(game, machine, seed);
            const Seen free = play(machine, game, order);
            order.variant.cap = Fps(share * free.average());
            return play(machine, game, order).low(true) / free.low(true);
        });
    };
    const auto game = gameNamed("lantern-orchard.toml"), without = gameWith("lantern-orchard.toml", noBackground);
    const double good = gain(game, 0.82);
    EXPECT_GT(good, 1.25);
    EXPECT_LT(good, 2.7);
    EXPECT_NEAR(gain(game, 1.05), 1, 0.1) << "just above the average it does nothing";
    EXPECT_LT(gain(game, 0.4), good) << "far lower gives no more";
    EXPECT_LT(gain(without, 0.82), 0.9) << "nothing put off: the cap empties the queue and makes it worse";
}

TEST(FactsTest, UpscalingHelpsTheGpuAndNotTheCpu) {
    for (const std::uint64_t seed : fewSeeds) {
        SCOPED_TRACE(seed);
        const auto machine = tower();
        const auto slow = gameNamed("tin-harbour.toml"); // waits for its CPU
        const Seen full = play(machine, slow, orderOf(slow, machine, seed)),
                   scaled = play(machine, slow, orderOf(slow, machine, seed, {{"render_scale", "67%"}}));
        EXPECT_NEAR(scaled.average() / full.average(), 1, 0.03);
        EXPECT_LT(scaled.mean(capture::Sensor::GpuLoad), full.mean(capture::Sensor::GpuLoad) - 8);
        EXPECT_GT(scaled.mean(capture::Sensor::GpuLoad), 40) << "a fixed part stays";

        const auto heavy = gameNamed("rainmarket.toml");
        const auto roomy = machineWith("thornbury-tower.toml", {{"gpu_memory_gib = 8", "gpu_memory_gib = 16"}});
        const auto rate = [&](const game::Game& game, std::optional<run::Upscaling> upscaling) {
            auto order = orderOf(game, roomy, seed);
            order.variant.resolution = {3840, 2160};
            order.variant.upscaling = upscaling;
            return play(roomy, game, order).average();
        };
        const run::Upscaling spatial{game::UpscalerKind::Spatial, 1.5}, learned{game::UpscalerKind::Learned, 1.5};
        const double gain = rate(heavy, spatial) / rate(heavy, {});
        EXPECT_GT(gain, 1.25);
        EXPECT_LT(gain, 1.7);
        EXPECT_LT(rate(heavy, learned), 0.95 * rate(heavy, spatial)) << "the output pays for the kind";
        const auto noPixels = gameWith("rainmarket.toml", {{"gpu_per_mpix_ms = 1.25", "gpu_per_mpix_ms = 0"},
                                                           {"gpu_per_mpix_ms = [0.0, 0.17, 0.36]", ""},
                                                           {"gpu_per_mpix_ms = [0.05, 0.15, 0.27]", ""},
                                                           {"gpu_per_mpix_ms = [0.0, 0.02, 0.045]", ""},
                                                           {"spatial = 0.11", "spatial = 0"}});
        EXPECT_NEAR(rate(noPixels, spatial) / rate(noPixels, {}), 1, 0.03)
            << "without work by the pixel it gains nothing";
    }
}

TEST(FactsTest, GenerationCostsBaseFramesOnOneGpuAndNoneOnASecond) {
    for (const std::uint64_t seed : fewSeeds) {
        SCOPED_TRACE(seed);
        const auto machine = machineNamed("fenwick-duo.toml");
        const auto game = gameNamed("rainmarket.toml");
        const auto seen = [&](std::optional<run::Generation> generation) {
            auto order = orderOf(game, machine, seed, {{"traced_light", "on"}});
            order.variant.generation = generation;
            return play(machine, game, order);
        };
        using run::GenerationKind;
        const Seen none = seen({}), same = seen(run::Generation{GenerationKind::External}),
                   second = seen(run::Generation{GenerationKind::External, 2, {}, true}),
                   builtIn = seen(run::Generation{GenerationKind::BuiltIn}),
                   four = seen(run::Generation{GenerationKind::BuiltIn, 4});
        EXPECT_LT(same.average(), 0.85 * none.average());
        EXPECT_GT(same.average(), 0.55 * none.average());
        EXPECT_NEAR(second.average() / none.average(), 1, 0.01);
        EXPECT_GT(builtIn.average(), same.average()) << "the game's own costs less";
        EXPECT_LT(four.average(), builtIn.average());
        EXPECT_NEAR(capture::shownRate(second.capture) / Fps(second.average()), 2, 0.01);
        EXPECT_NEAR(capture::shownRate(four.capture) / Fps(four.average()), 4, 0.01);
        EXPECT_EQ(capture::shownRate(none.capture), Fps(none.average()));
        EXPECT_GT(second.latency(), none.latency() + 5) << "a rendered frame is held back";
        EXPECT_EQ(second.shownMs.size(), 2 * second.capture.frames());
    }
}

TEST(FactsTest, GenerationFollowsATargetAndStaysInTheWindowUnderARightCap) {
    for (const std::uint64_t seed : fewSeeds) {
        SCOPED_TRACE(seed);
        const auto machine = machineNamed("fenwick-duo.toml");
        const auto game = gameNamed("rainmarket.toml");
        auto order = orderOf(game, machine, seed);
        order.variant.values = game.preset("low")->values;
        order.variant.sync = run::Sync::VariableTearing;
        order.variant.generation = run::Generation{run::GenerationKind::External, 2, {}, true};
        const auto inWindow = [&](double cap) {
            order.variant.cap = Fps(cap);
            return shareWithin(play(machine, game, order).shownMs, 1000.0 / 144 - 1e-9);
        };
        EXPECT_LT(inWindow(75), 0.2);
        EXPECT_GT(inWindow(66), 0.98);
        EXPECT_LT(inWindow(71.5), inWindow(69));
        order.variant.cap = Fps(40);
        order.variant.generation->target = Fps(120);
        const Seen adaptive = play(machine, game, order);
        EXPECT_NEAR(adaptive.average(), 40, 0.5);
        EXPECT_NEAR(capture::shownRate(adaptive.capture).value(), 120, 2);
    }
}

TEST(FactsTest, AHeadsetHalvesTheRateBehindItsBudgetAndFillsIn) {
    for (const std::uint64_t seed : fewSeeds) {
        SCOPED_TRACE(seed);
        const auto game = gameNamed("chalk-ridge.toml");
        const auto seen = [&](const Changes& speeds, const char* edges) {
            const auto machine = machineWith("plover-headset.toml", speeds);
            auto order = orderOf(game, machine, seed);
            order.variant.values = game.preset("clear")->values;
            order.variant.values["edges"] = edges;
            return play(machine, game, order);
        };
        // 11.1 ms a frame. The GPU is late: a sharp centre alone brings it back.
        const Changes lateGpu{{"gpu_speed = 1.0", "gpu_speed = 0.95"}};
        const Seen late = seen(lateGpu, "whole view"), mended = seen(lateGpu, "centre only");
        EXPECT_LT(late.average(), 60);
        EXPECT_GT(mended.average(), 70);
        EXPECT_NEAR(capture::shownRate(late.capture).value(), 90, 0.1) << "every refresh shows something";
        EXPECT_GT(late.mean(late.capture.invented), 0.4);
        for (const double ms : late.shownMs) EXPECT_NEAR(ms, 1000.0 / 90, 1e-6);
        // The CPU has no room: the same makes it late.
        const Changes lateCpu{{"cpu_speed = 1.0", "cpu_speed = 0.69"}, {"gpu_speed = 1.0", "gpu_speed = 1.2"}};
        EXPECT_GT(seen(lateCpu, "whole view").average(), 80);
        EXPECT_LT(seen(lateCpu, "centre only").average(), 60);
        // Without the runtime's pace nothing halves.
        const Seen free =
            seen({{"gpu_speed = 1.0", "gpu_speed = 0.95"}, {"headset = true", "headset = false"}}, "whole view");
        EXPECT_GT(free.average(), 80);
        EXPECT_FALSE(free.capture.invented);
    }
}

TEST(FactsTest, AReadingUnderAHeadsetIsAWait) {
    const auto game = gameNamed("chalk-ridge.toml");
    const auto told = [&](const Changes& changes) {
        const auto machine = machineWith("plover-headset.toml", changes);
        return play(machine, game, orderOf(game, machine, 1));
    };
    const Seen lying = told({}), honest = told({{"cpu_reading_waits = true", ""}});
    EXPECT_NEAR(lying.mean(lying.capture.cpuWorkMs), 1000.0 / 90, 0.1);
    EXPECT_LT(honest.mean(honest.capture.cpuWorkMs), 6);
    EXPECT_EQ(lying.capture.framesMs, honest.capture.framesMs);
    // Under a cap of any other game it is the cap's interval, give or take the limiter's lateness.
    const auto light = gameNamed("lantern-orchard.toml");
    const auto flat = machineWith("thornbury-tower.toml", {{"cpu_speed = 1.0", "cpu_reading_waits = true\ncpu_speed = "
                                                                               "1.0"}});
    auto order = orderOf(light, flat, 1);
    order.variant.cap = Fps(60);
    const Seen capped = play(flat, light, order);
    EXPECT_NEAR(capped.mean(capped.capture.cpuWorkMs), 1000.0 / 60, 0.2);
    EXPECT_FALSE(frames::routeMean(frames::partMeans(capped.capture), nullptr, run::Lane::Cpu));
    // The analysis takes a reading that never moves for no reading.
    EXPECT_FALSE(frames::routeMean(frames::partMeans(lying.capture), nullptr, run::Lane::Cpu));
    EXPECT_TRUE(frames::routeMean(frames::partMeans(honest.capture), nullptr, run::Lane::Cpu));
}

TEST(FactsTest, AnIdleCapSavesPowerWhileNothingMoves) {
    for (const std::uint64_t seed : fewSeeds) {
        SCOPED_TRACE(seed);
        const auto machine = machineNamed("marram-desktop.toml");
        const auto game = gameNamed("rainmarket.toml");
        const auto atTheEnd = [&](std::optional<Fps> idle, run::PowerPlan plan) {
            auto order = orderOf(game, machine, seed);
            order.conditions.plan = plan;
            order.conditions.warmUpSeconds = 60;
            order.variant.idleCap = idle;
            const Seen seen = play(machine, game, order);
            const auto* watts = seen.capture.track(capture::Sensor::SystemPower);
            return static_cast<double>(watts->values.at(watts->values.size() - 3));
        };
        using run::PowerPlan;
        const double busy = atTheEnd({}, PowerPlan::Balanced), rest = atTheEnd(Fps(30), PowerPlan::Balanced);
        EXPECT_LT(rest, 0.55 * busy);
        EXPECT_GT(rest, 0.3 * busy);
        EXPECT_GT(atTheEnd(Fps(30), PowerPlan::Performance), 1.2 * rest) << "with the clocks held up it saves less";
        const auto moving = gameWith("rainmarket.toml", {{"still_seconds = 7", ""}});
        auto order = orderOf(moving, machine, seed);
        const double rate = play(machine, moving, order).average();
        order.variant.idleCap = Fps(30);
        EXPECT_EQ(play(machine, moving, order).average(), rate) << "while things move it does nothing";
    }
}

TEST(FactsTest, TracedLightHalvesTheRateEvenWhereTheCpuLimits) {
    for (const std::uint64_t seed : fewSeeds) {
        SCOPED_TRACE(seed);
        const auto game = gameNamed("rainmarket.toml");
        const auto roomy = [](const char* cpuSpeed) {
            return machineWith("thornbury-tower.toml",
                               {{"gpu_memory_gib = 8", "gpu_memory_gib = 16"}, {"cpu_speed = 1.0", cpuSpeed}});
        };
        const auto kept = [&](const machine::Machine& machine) {
            return play(machine, game, orderOf(game, machine, seed, {{"traced_light", "on"}})).average() /
                   play(machine, game, orderOf(game, machine, seed)).average();
        };
        EXPECT_NEAR(kept(roomy("cpu_speed = 1.0")), 0.53, 0.12);
        EXPECT_NEAR(kept(roomy("cpu_speed = 0.5")), 0.5, 0.12);
    }
}

TEST(FactsTest, SettingsPayOnTheirOwnLane) {
    for (const std::uint64_t seed : fewSeeds) {
        SCOPED_TRACE(seed);
        const auto game = gameNamed("rainmarket.toml");
        const auto gpuBound = tower(),
                   cpuBound = machineWith("thornbury-tower.toml", {{"cpu_speed = 1.0", "cpu_speed = "
                                                                                       "0.5"}});
        const auto gain = [&](const machine::Machine& machine, const char* id, const char* level) {
            return play(machine, game, orderOf(game, machine, seed, {{id, level}})).average() /
                   play(machine, game, orderOf(game, machine, seed)).average();
        };
        EXPECT_GT(gain(cpuBound, "crowd", "few"), 1.15);
        EXPECT_LT(gain(gpuBound, "crowd", "few"), 1.08);
        EXPECT_GT(gain(gpuBound, "shadows", "low"), 1.08);
        EXPECT_LT(gain(cpuBound, "shadows", "low"), 1.05);
        EXPECT_GT(gain(gpuBound, "reflections", "off"), 1.04);
        EXPECT_LT(gain(gpuBound, "texture_filter", "off"), 1.03);
        EXPECT_NEAR(gain(gpuBound, "textures", "low"), 1, 1e-9);
    }
}

TEST(FactsTest, MemoryThatDoesNotFitCostsRateAndHitches) {
    for (const std::uint64_t seed : fewSeeds) {
        SCOPED_TRACE(seed);
        const auto game = gameNamed("rainmarket.toml");
        const auto with = [&](const char* gib, const Changes& more) {
            Changes changes{{"gpu_memory_gib = 9", gib}};
            changes.insert(changes.end(), more.begin(), more.end());
            const auto machine = machineWith("marram-desktop.toml", changes);
            return play(machine, game, orderOf(game, machine, seed, {{"textures", "ultra"}}));
        };
        const Changes noCost{{"paging_ms_per_gib = 1.9", "paging_ms_per_gib = 0"}},
            noBacklog{{"paging_backlog_ms_per_second = 45\n", ""}};
        const Seen fits = with("gpu_memory_gib = 12", {}), over = with("gpu_memory_gib = 9", {}),
                   farOver = with("gpu_memory_gib = 8", {});
        EXPECT_LT(over.average(), 0.97 * fits.average());
        EXPECT_GT(over.average(), 0.85 * fits.average());
        EXPECT_LT(farOver.average(), 0.8 * fits.average());
        EXPECT_GT(over.hitches(), 1.5 * fits.hitches());
        EXPECT_GT(farOver.hitches(), 1.5 * over.hitches());
        EXPECT_NEAR(with("gpu_memory_gib = 9", noCost).average() / fits.average(), 1, 0.04) << "the hitches stay";
        EXPECT_GT(with("gpu_memory_gib = 9", noCost).hitches(), 1.5 * fits.hitches());
        EXPECT_LT(with("gpu_memory_gib = 9", noBacklog).hitches(), 1.25 * fits.hitches()) << "the rate falls";
    }
}

TEST(FactsTest, RunsOfOneVariantSpreadAndTheTenthPercentMost) {
    const auto machine = tower();
    const auto game = gameNamed("rainmarket.toml");
    std::vector<double> averages, ones, tenths;
    for (std::uint64_t seed = 1; seed <= 16; ++seed) {
        const Seen seen = play(machine, game, orderOf(game, machine, seed));
        averages.push_back(seen.average());
        ones.push_back(seen.low());
        tenths.push_back(seen.low(true));
    }
    const auto variation = [](const std::vector<double>& v) { return *stats::standardDeviation(v) / *stats::mean(v); };
    EXPECT_GT(variation(averages), 0.003);
    EXPECT_LT(variation(averages), 0.025);
    EXPECT_GT(variation(ones), variation(averages));
    EXPECT_GT(variation(tenths), variation(averages));
    EXPECT_LT(variation(tenths), 0.3);
    const auto still = gameWith("rainmarket.toml", {{"run_sd = 0.006, section_sd = 0.012, cpu_swing = 0.025, gpu_swing "
                                                     "= 0.025",
                                                     "run_sd = 0, section_sd = 0, cpu_swing = 0, gpu_swing = 0"},
                                                    {"turn = 0.04", "turn = 0"}});
    averages.clear();
    for (std::uint64_t seed = 1; seed <= 6; ++seed)
        averages.push_back(play(machine, still, orderOf(still, machine, seed)).average());
    EXPECT_LT(variation(averages), 0.004) << "without noise of the run little is left";
}

TEST(FactsTest, TheEngineIsTheBestPlaceForALimiter) {
    for (const std::uint64_t seed : fewSeeds) {
        SCOPED_TRACE(seed);
        const auto machine = tower();
        const auto game = gameNamed("lantern-orchard.toml");
        double before = 0;
        for (const auto place : {run::LimiterPlace::Engine, run::LimiterPlace::Present, run::LimiterPlace::Driver,
                                 run::LimiterPlace::Compositor}) {
            auto order = orderOf(game, machine, seed);
            order.variant.cap = Fps(120);
            order.variant.limiter = place;
            const Seen seen = play(machine, game, order);
            EXPECT_NEAR(seen.average(), 119, 1) << run::keyOf(place);
            EXPECT_GT(seen.latency(), before + 3) << run::keyOf(place);
            before = seen.latency();
        }
    }
}

TEST(FactsTest, SyncsDiffer) {
    for (const std::uint64_t seed : fewSeeds) {
        SCOPED_TRACE(seed);
        const auto machine = tower();
        const auto game = gameNamed("lantern-orchard.toml");
        const auto with = [&](run::Sync sync) {
            auto order = orderOf(game, machine, seed);
            order.variant.sync = sync;
            return play(machine, game, order);
        };
        const Seen none = with(run::Sync::None), fixed = with(run::Sync::Fixed), latest = with(run::Sync::Latest),
                   follows = with(run::Sync::Variable), tears = with(run::Sync::VariableTearing);
        EXPECT_GT(none.average(), 150);
        EXPECT_NEAR(fixed.average(), 144, 0.5);
        for (const double ms : fixed.capture.framesMs)
            EXPECT_NEAR(std::remainder(ms, 1000.0 / 144), 0, 1e-6) << "whole refreshes";
        EXPECT_GT(fixed.latency(), none.latency() + 5);
        EXPECT_GT(latest.mean(latest.capture.lost), 0.05);
        EXPECT_LT(latest.latency(), fixed.latency());
        EXPECT_FALSE(fixed.capture.lost);
        EXPECT_NEAR(follows.average(), 144, 0.5) << "above its range it waits";
        EXPECT_NEAR(tears.average() / none.average(), 1, 0.01) << "or tears";
        // What waits for the panel does not pile up.
        EXPECT_LT(*std::max_element(follows.capture.latencyMs->begin(), follows.capture.latencyMs->end()), 120);
    }
}

TEST(FactsTest, WorkDependsOnThePlaceAndNotOnTheCap) {
    for (const std::uint64_t seed : fewSeeds) {
        SCOPED_TRACE(seed);
        const auto machine = tower();
        const Changes quiet{{"white_sd = 0.015", "white_sd = 0"},
                            {"cpu_deferred = { ms_per_second = 8, limit_ms = 14 }", ""},
                            {"gpu_deferred = { ms_per_second = 9, limit_ms = 17 }", ""}};
        const auto game = gameWith("rainmarket.toml", quiet);
        const auto byTime = [&](std::optional<Fps> cap) {
            auto order = orderOf(game, machine, seed);
            order.variant.cap = cap;
            const Seen seen = play(machine, game, order);
            std::vector<double> out; // mean of each two seconds
            double span = 0, sum = 0, n = 0;
            for (std::size_t i = 0; i < seen.capture.frames(); ++i) {
                span += seen.capture.framesMs[i];
                sum += (*seen.capture.gpuWorkMs)[i];
                n += 1;
                if (span < 2000) continue;
                out.push_back(sum / n);
                span = sum = n = 0;
            }
            return out;
        };
        const auto free = byTime({}), capped = byTime(Fps(50));
        for (std::size_t i = 0; i < std::min(free.size(), capped.size()); ++i)
            EXPECT_NEAR(capped[i] / free[i], 1, 0.06) << "the same two seconds of the same world, " << i;
        const auto truth = [&](const char* part, const char* rain) {
            auto order = orderOf(game, machine, seed, {{"rain", rain}});
            return rig_truth::partWork(originals(), machine, game, order.variant, part)->gpuMs;
        };
        EXPECT_GT(truth("rain square", "heavy") - truth("rain square", "thin"),
                  5 * (truth("market", "heavy") - truth("market", "thin")))
            << "rain costs where it rains";
    }
}
