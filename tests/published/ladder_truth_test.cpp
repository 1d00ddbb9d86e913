// SPDX-License-Identifier: GPL-3.0-or-later
// The resolution ladder and what-if against the simulator: many other runs, and runs of the changed machine.
// IMPASTO_LADDER_CASES says another number of cases.
#include "support/support.h"

#include <cstdlib>
#include <impasto/base/random.h>
#include <impasto/base/text.h>
#include <impasto/limits/ladder.h>
#include <impasto/limits/what_if.h>

using namespace impasto;
using namespace impasto::support;
using namespace impasto::limits;

namespace {

constexpr double speedOf = 1.2;

std::uint64_t casesOr(std::uint64_t usual) {
    const char* said = std::getenv("IMPASTO_LADDER_CASES");
    return said == nullptr ? usual : std::strtoull(said, nullptr, 10);
}

machine::Machine towerWith(double cpuSpeed, double gpuSpeed) {
    return machineWith("thornbury-tower.toml", {{"cpu_speed = 1.0", "cpu_speed = " + shortestText(cpuSpeed)},
                                                {"gpu_speed = 1.0", "gpu_speed = " + shortestText(gpuSpeed)}});
}

capture::Capture recorded(const machine::Machine& machine, const game::Game& game, const run::Variant& variant,
                          std::uint64_t seed) {
    auto rig = rig_sim::simulatedRig(originals(), machine, game);
    run::Order order;
    order.variant = variant;
    order.route = game.routes.front().name;
    order.seconds = game.routes.front().seconds();
    order.seed = seed;
    rig::RigState met;
    met.shadersMet = 1;
    auto recording = (*rig)->record(order, met, {}, {});
    EXPECT_TRUE(recording.has_value());
    return std::move(recording->capture);
}

std::shared_ptr<const capture::Capture> shared(capture::Capture c, bool lanes) {
    if (!lanes) {
        c.cpuWorkMs.reset();
        c.gpuWorkMs.reset();
    }
    return std::make_shared<const capture::Capture>(std::move(c));
}

struct Counts {
    int ceilings = 0, ceilingsHeld = 0, crossings = 0, crossingsHeld = 0, rates = 0, ratesHeld = 0;
};

struct Means {
    double cpuMs = 0, gpuMs = 0, frameMs = 0;
};
struct Truth {
    Means least, most, unseen; // rendered sizes
};

void addTo(std::map<std::string, Truth>& truths, const capture::Capture& capture, Means Truth::*size) {
    for (const auto& mean : frames::partMeans(capture)) {
        auto& m = truths[mean.part].*size;
        m.cpuMs += *mean.cpuMs / 8;
        m.gpuMs += *mean.gpuMs / 8;
        m.frameMs += mean.periodMs / 8;
    }
}

void print(const char* what, const Counts& c) {
    fmt::print(
        "{}: CPU ceiling within its interval in {} of {}, crossing in {} of {}, rate at a size left out in {} of {}\n",
        what, c.ceilingsHeld, c.ceilings, c.crossingsHeld, c.crossings, c.ratesHeld, c.rates);
}

} // namespace

TEST(LadderTruthTest, CeilingCrossingAndRateWithinTheirIntervals) {
    const auto cases = casesOr(20);
    Counts whole, times;
    const auto game = saltmarsh();
    const auto& scale = *game.setting("render_scale");
    for (std::uint64_t seed = 100; seed < 100 + cases; ++seed) {
        auto draw = RandomStream(seed, "ladder");
        const auto machine = towerWith(draw.uniform(0.7, 1.6), draw.uniform(0.7, 1.6));
        const double output = display::megapixelsOf(machine.panel.native).value();
        run::Variant variant;
        variant.values = game.presets.front().values;
        variant.resolution = machine.panel.native;
        std::vector<Rung> rungs, bare;
        const std::size_t leftOut = scale.levels.size() - 2; // its rate is predicted
        const auto at = [&](std::size_t level, const std::string& purpose) {
            auto v = variant;
            v.values[scale.id] = scale.levels[level].name;
            return recorded(machine, game, v, deriveSeed(seed, fmt::format("{} {}", level, purpose)));
        };
        for (std::size_t i = 0; i < scale.levels.size(); ++i) {
            if (i == leftOut) continue;
            Rung rung{Megapixels(output * *scale.levels[i].scale * *scale.levels[i].scale), {}}, timesOnly = rung;
            for (int k = 0; k < (i + 1 == scale.levels.size() ? 4 : 1); ++k) {
                auto capture = at(i, fmt::format("run {}", k));
                timesOnly.runs.push_back(shared(capture, false));
                rung.runs.push_back(shared(std::move(capture), true));
            }
            rungs.push_back(std::move(rung));
            bare.push_back(std::move(timesOnly));
        }
        // The truth, hitches and all, over eight other runs each.
        std::map<std::string, Truth> truths;
        for (int k = 0; k < 8; ++k) {
            const auto name = fmt::format("truth {}", k);
            addTo(truths, at(0, name), &Truth::least);
            addTo(truths, at(scale.levels.size() - 1, name), &Truth::most);
            addTo(truths, at(leftOut, name), &Truth::unseen);
        }
        for (auto* c : {&whole, &times})
            for (const auto& l : laddersOf(c == &whole ? rungs : bare)) {
                const auto& truth = truths.at(l.part);
                const double m0 = rungs.front().rendered.value(), m1 = rungs.back().rendered.value();
                const double slope = (truth.most.gpuMs - truth.least.gpuMs) / (m1 - m0), cpu = truth.most.cpuMs;
                const double crossing = m0 + (cpu - truth.least.gpuMs) / slope;
                if (l.fit.ceilingMs) {
                    ++c->ceilings;
                    c->ceilingsHeld += std::abs(l.fit.ceilingMs->estimate - cpu) <= *l.fit.ceilingMs->halfWidth ? 1 : 0;
                }
                if (l.changesSides) {
                    ++c->crossings;
                    c->crossingsHeld +=
                        std::abs(l.changesSides->estimate - crossing) <= *l.changesSides->halfWidth ? 1 : 0;
                }
                const double size = output * std::pow(*scale.levels[leftOut].scale, 2);
                if (const auto p = l.at(Megapixels(size))) {
                    ++c->rates;
                    c->ratesHeld += p->lowMs <= truth.unseen.frameMs && truth.unseen.frameMs <= p->highMs ? 1 : 0;
                }
            }
    }
    print("whole logs", whole);
    print("frame times", times);
    EXPECT_GE(whole.ceilingsHeld, 0.93 * whole.ceilings);
    EXPECT_GE(whole.crossingsHeld, 0.93 * whole.crossings);
    EXPECT_GE(whole.ratesHeld, 0.9 * whole.rates);
    EXPECT_GE(times.ceilingsHeld, 0.93 * times.ceilings);
    EXPECT_GE(times.crossingsHeld, 0.93 * times.crossings);
}

TEST(LadderTruthTest, WhatAHigherPowerLimitDoes) {
    const auto game = saltmarsh();
    const auto desktop = [](double watts) {
        return machineWith("marram-desktop.toml", {{"sustained_w = 156", fmt::format("sustained_w = {}", watts)},
                                                   {"burst_w = 168", fmt::format("burst_w = {}", watts)}});
    };
    int all = 0, held = 0;
    for (const double watts : {90.0, 100.0, 110.0, 120.0, 130.0}) {
        const auto machine = desktop(watts);
        run::Variant variant;
        variant.values = game.presets.front().values;
        variant.resolution = machine.panel.native;
        std::vector<std::shared_ptr<const capture::Capture>> runs, then;
        for (std::uint64_t k = 0; k < 3; ++k) {
            runs.push_back(shared(recorded(machine, game, variant, 10 + k), true));
            then.push_back(shared(recorded(desktop((1 + powerHigherBy) * watts), game, variant, 20 + k), true));
        }
        for (const auto& v : judge(runs, variant, machine.panel, 0.97, {}, {&machine, {}}))
            for (const auto& w : whatIfsOf(v, runs)) {
                if (w.change != Change::PowerHigher) continue;
                double sum = 0;
                for (const auto& run : then)
                    for (const auto& mean : frames::partMeans(*run))
                        if (mean.part == v.part) sum += 1000 / mean.periodMs / static_cast<double>(then.size());
                ++all;
                held += w.low.value() <= sum && sum <= w.high.value() ? 1 : 0;
                EXPECT_GT(sum, v.rate.value()) << "it is worth something";
                fmt::print("{} W, {}: {:.1f}, told {:.1f} ({:.1f} to {:.1f}), is {:.1f}\n", watts, v.part,
                           v.rate.value(), w.rate.value(), w.low.value(), w.high.value(), sum);
            }
    }
    EXPECT_GE(all, 5);
    EXPECT_GE(held, 0.9 * all);
}

TEST(LadderTruthTest, WhatAFasterChipDoes) {
    int all = 0, held = 0;
    const auto game = saltmarsh();
    for (std::uint64_t seed = 300; seed < 300 + casesOr(15); ++seed) {
        auto draw = RandomStream(seed, "what if");
        const double cpu = draw.uniform(0.7, 1.6), gpu = draw.uniform(0.7, 1.6);
        run::Variant variant;
        variant.values = game.presets.front().values;
        variant.resolution = tower().panel.native;
        std::vector<std::shared_ptr<const capture::Capture>> runs;
        for (std::uint64_t k = 0; k < 4; ++k)
            runs.push_back(
                shared(recorded(towerWith(cpu, gpu), game, variant, deriveSeed(seed, fmt::format("{}", k))), true));
        for (const auto& v : judge(runs, variant, {}))
            for (const auto& w : whatIfsOf(v, runs, std::array{speedOf - 1})) {
                const double c = w.change == Change::GpuFaster ? cpu : speedOf * cpu,
                             g = w.change == Change::CpuFaster ? gpu : speedOf * gpu;
                double sum = 0;
                for (std::uint64_t k = 0; k < 3; ++k) {
                    const auto then =
                        recorded(towerWith(c, g), game, variant, deriveSeed(seed, fmt::format("then {}", k)));
                    for (const auto& mean : frames::partMeans(then))
                        if (mean.part == v.part) sum += 1000 / mean.periodMs / 3;
                }
                ++all;
                held += w.low.value() <= sum && sum <= w.high.value() ? 1 : 0;
            }
    }
    fmt::print("what-if: the rate of the changed machine within the interval in {} of {}\n", held, all);
    EXPECT_GE(held, 0.93 * all);
}
