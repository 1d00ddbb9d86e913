// SPDX-License-Identifier: GPL-3.0-or-later
// What stands behind a bottleneck: made-up tracks of every kind, and the simulator's chips that slow down when hot.
#include "support/support.h"

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/limits/limits.h>
#include <numeric>

using namespace impasto;
using namespace impasto::support;
using capture::Sensor;
using limits::Brake;
using limits::Cause;

namespace {

/// 60 s of a game, with its lanes, and tracks of two samples a second.
struct Made {
    explicit Made(double cpuMs = 8, double gpuMs = 14, bool lanes = true) {
        RandomStream noise(4, "made");
        if (lanes) {
            c.cpuWorkMs.emplace();
            c.gpuWorkMs.emplace();
        }
        for (double at = 0; at < 60000;) {
            const double wobble = noise.normal();
            const double frame = std::max({cpuMs, gpuMs}) + 0.6 * wobble;
            c.framesMs.push_back(frame);
            if (lanes) {
                c.cpuWorkMs->push_back(cpuMs + 0.4 * wobble);
                c.gpuWorkMs->push_back(gpuMs + 0.55 * wobble);
            }
            at += frame;
        }
    }
    Made& track(Sensor sensor, const std::function<double(double)>& at) {
        RandomStream noise(9, "track");
        capture::Track t{sensor, {}, {}};
        for (double ms = 400; ms < 60000; ms += 500) {
            t.timeMs.push_back(ms);
            t.values.push_back(static_cast<float>(at(ms / 1000) + 0.002 * at(ms / 1000) * noise.normal()));
        }
        c.tracks.push_back(std::move(t));
        return *this;
    }
    [[nodiscard]] limits::PartVerdict judged(const machine::Machine* machine = nullptr,
                                             const run::Variant& variant = {},
                                             const std::optional<display::Panel>& panel = {}) const {
        const std::vector<std::shared_ptr<const capture::Capture>> runs{std::make_shared<const capture::Capture>(c)};
        return limits::judge(runs, variant, panel, 0.97, {}, {machine, {}}).at(0);
    }
    capture::Capture c;
};

double warming(double s) {
    return std::min(87.0, 45 + 2.0 * s);
}
double throttling(double s) {
    return s < 20 ? 2500 : std::max(1900.0, 2500 - 40 * (s - 20));
}
double busy(double) {
    return 98;
}

const limits::Suspicion* of(const limits::PartVerdict& v, Cause cause) {
    const auto it =
        std::find_if(v.suspicions.begin(), v.suspicions.end(), [cause](const auto& s) { return s.cause == cause; });
    return it == v.suspicions.end() ? nullptr : &*it;
}

} // namespace

TEST(CausesTest, AClockThatFallsOnceItIsHotIsHeat) {
    // In MHz, as logs tell it, or of its highest.
    for (const auto& [clock, factor] : {std::pair(Sensor::GpuMhz, 1.0), {Sensor::GpuClock, 0.04}}) {
        const double of = factor;
        const auto v = Made()
                           .track(Sensor::GpuTemperature, warming)
                           .track(clock, [of](double s) { return of * throttling(s); })
                           .track(Sensor::GpuLoad, busy)
                           .judged();
        EXPECT_EQ(v.brake, Brake::Gpu);
        ASSERT_NE(v.cause(), nullptr);
        EXPECT_EQ(v.cause()->cause, Cause::Heat);
        EXPECT_EQ(v.cause()->chip, run::Lane::Gpu);
        EXPECT_EQ(v.test(), limits::DecidingTest::FansUp);
    }
}

TEST(CausesTest, HeatIsNotNamedWithoutWhatShowsIt) {
    const auto none = [](const limits::PartVerdict& v) { return of(v, Cause::Heat) == nullptr; };
    EXPECT_TRUE(none(Made().track(Sensor::GpuMhz, throttling).judged())) << "no temperature";
    EXPECT_TRUE(none(
        Made().track(Sensor::GpuTemperature, warming).track(Sensor::GpuMhz, [](double) { return 2500.0; }).judged()))
        << "the clock held";
    EXPECT_TRUE(none(Made()
                         .track(Sensor::GpuTemperature, [](double s) { return 40 + 0.3 * s; })
                         .track(Sensor::GpuMhz, throttling)
                         .judged()))
        << "it was never hot";
    EXPECT_TRUE(none(Made(14, 8)
                         .track(Sensor::GpuTemperature, warming)
                         .track(Sensor::GpuMhz, throttling)
                         .track(Sensor::GpuLoad, [](double) { return 55.0; })
                         .judged()))
        << "it had less to do";
    const auto allAlong = Made()
                              .track(Sensor::GpuTemperature, [](double) { return 86.0; })
                              .track(Sensor::GpuMhz, [](double) { return 1900.0; })
                              .track(Sensor::GpuLoad, busy)
                              .judged();
    ASSERT_NE(of(allAlong, Cause::Heat), nullptr) << "it may be";
    EXPECT_EQ(allAlong.cause(), nullptr) << "and that is all";
    EXPECT_EQ(allAlong.test(), limits::DecidingTest::FansUp);
    // An earlier run of the machine, from cold, says how fast its clock is.
    const auto cold = std::make_shared<capture::Capture>(
        Made().track(Sensor::GpuTemperature, warming).track(Sensor::GpuMhz, throttling).track(Sensor::GpuLoad, busy).c);
    const auto hot = std::make_shared<capture::Capture>(Made()
                                                            .track(Sensor::GpuTemperature, [](double) { return 86.0; })
                                                            .track(Sensor::GpuMhz, [](double) { return 1900.0; })
                                                            .track(Sensor::GpuLoad, busy)
                                                            .c);
    const std::vector<std::shared_ptr<const capture::Capture>> runs{hot};
    const auto known = limits::judge(runs, {}, {}, 0.97, {}, {nullptr, {cold}}).at(0);
    ASSERT_NE(known.cause(), nullptr);
    EXPECT_EQ(known.cause()->cause, Cause::Heat);
}

TEST(CausesTest, APowerThatStandsWhileTheClockMovesIsALimit) {
    const auto clock = [](double s) { return 2300 + 60 * std::sin(s); };
    const auto held = Made()
                          .track(Sensor::GpuPower, [](double) { return 180.0; })
                          .track(Sensor::GpuMhz, [clock](double s) { return s < 3 ? 2550 : clock(s); })
                          .track(Sensor::GpuTemperature, [](double s) { return 40 + 0.5 * s; })
                          .judged();
    ASSERT_NE(held.cause(), nullptr);
    EXPECT_EQ(held.cause()->cause, Cause::Power);
    EXPECT_EQ(of(Made()
                     .track(Sensor::GpuPower, [](double s) { return 150 + 20 * std::sin(s); })
                     .track(Sensor::GpuMhz, clock)
                     .judged(),
                 Cause::Power),
              nullptr)
        << "it moves";
    EXPECT_EQ(
        of(Made(14, 8).track(Sensor::GpuPower, [](double) { return 180.0; }).track(Sensor::GpuMhz, clock).judged(),
           Cause::Power),
        nullptr)
        << "the CPU limits";
}

TEST(CausesTest, MemoryIsHeldAgainstWhatTheMachineHas) {
    machine::Machine machine;
    machine.gpuMemory = Mebibytes(8192);
    machine.systemMemory = Mebibytes(16384);
    auto full = Made().track(Sensor::GpuMemory, [](double) { return 8060.0; }).track(Sensor::SystemMemory, [](double) {
        return 9000.0;
    });
    for (std::size_t i = 500; i < full.c.framesMs.size(); i += 700) full.c.framesMs[i] = 140;
    const auto v = full.judged(&machine);
    ASSERT_NE(v.cause(), nullptr);
    EXPECT_EQ(v.cause()->cause, Cause::GpuMemory);
    EXPECT_EQ(of(v, Cause::SystemMemory), nullptr);
    EXPECT_EQ(full.judged().suspicions.size(), 0U) << "what there is is not known";
    const auto over = [&machine](double mib) {
        return Made().track(Sensor::GpuMemory, [mib](double) { return mib; }).judged(&machine);
    };
    EXPECT_NE(over(8700).cause(), nullptr) << "more than there is";
    EXPECT_EQ(over(8200).cause(), nullptr) << "full to the brim, and no frame is long";
    EXPECT_NE(of(over(8200), Cause::GpuMemory), nullptr);
    const auto room = Made().track(Sensor::GpuMemory, [](double) { return 7000.0; }).judged(&machine);
    EXPECT_EQ(of(room, Cause::GpuMemory), nullptr);
}

TEST(CausesTest, TheCopyRouteIsNamedOnlyWhereTheMachineIsWiredSo) {
    machine::Machine machine;
    machine.copyRoute = true;
    auto made = Made(8, 12);
    for (double& ms : made.c.framesMs) ms += 1.6;
    const auto v = made.judged(&machine);
    ASSERT_NE(v.cause(), nullptr);
    EXPECT_EQ(v.cause()->cause, Cause::CopyRoute);
    EXPECT_EQ(v.test(), limits::DecidingTest::DirectRoute);
    run::Variant direct;
    direct.direct = true;
    EXPECT_TRUE(made.judged(&machine, direct).suspicions.empty());
    EXPECT_TRUE(made.judged().suspicions.empty());
    run::Variant capped;
    capped.cap = Fps(1000 / 13.6);
    EXPECT_TRUE(made.judged(&machine, capped).suspicions.empty()) << "a cap holds it";
}

TEST(CausesTest, LoadsDecideWhereNoWorkIsTold) {
    const auto at = [](double percent) {
        return Made(8, 14, false).track(Sensor::GpuLoad, [percent](double) { return percent; }).judged();
    };
    EXPECT_EQ(at(98).brake, Brake::Gpu);
    EXPECT_EQ(at(70).brake, Brake::Cpu);
    EXPECT_EQ(at(90).brake, Brake::CannotTell) << "between them";
    EXPECT_EQ(at(98).certainty(), limits::Certainty::Likely) << "a load may lie";
    EXPECT_EQ(Made(8, 14, false).judged().brake, Brake::CannotTell);
    // A core that is full beside a GPU that waits makes it surer, and is said.
    auto oneCore = Made(8, 14, false).track(Sensor::GpuLoad, [](double) { return 70.0; });
    oneCore.track(Sensor::BusiestCore, [](double) { return 97.0; });
    EXPECT_GT(oneCore.judged().sure, at(70).sure);
    EXPECT_EQ(oneCore.judged().certainty(), limits::Certainty::Likely);
    EXPECT_EQ(oneCore.judged().facts.back().sign, limits::Sign::BusiestCore);
    auto flat = Made(8, 14, false).track(Sensor::GpuLoad, [](double) { return 55.0; });
    RandomStream noise(3, "flat");
    for (double& ms : flat.c.framesMs) ms = 16.667 + 0.02 * noise.normal();
    EXPECT_EQ(flat.judged().brake, Brake::CannotTell) << "something holds it; it need not be the CPU";
    EXPECT_EQ(flat.judged().test(), limits::DecidingTest::LiftCap);
}

TEST(CausesTest, TheTopOfAVariableRangeHoldsFramesLikeACap) {
    display::Panel panel;
    panel.refresh = Hertz(120);
    panel.variable = display::RefreshRange{Hertz(48), Hertz(120)};
    run::Variant variant;
    variant.sync = run::Sync::Variable;
    auto made = Made(4, 5);
    RandomStream noise(3, "flat");
    for (double& ms : made.c.framesMs) ms = 8.34 + 0.02 * noise.normal();
    EXPECT_EQ(made.judged(nullptr, variant, panel).brake, Brake::Refresh);
    for (double& ms : made.c.framesMs) ms = 9.5 + 0.02 * noise.normal();
    EXPECT_EQ(made.judged(nullptr, variant, panel).brake, Brake::CannotTell);
}

TEST(CausesTest, WhatIsCalledHeatComesBackWhenTheFansRise) {
    // Common practice, no source: quiet fans cost up to a third of the rate, and it returns when they rise.
    const auto machine = machineNamed("whinbush-laptop.toml");
    const auto game = saltmarsh();
    const auto rig = rig_sim::simulatedRig(originals(), machine, game);
    ASSERT_TRUE(rig.has_value());
    run::Order order;
    order.variant.values = game.presets.front().values;
    order.variant.resolution = machine.panel.native;
    order.route = game.routes.front().name;
    order.seconds = game.routes.front().seconds();
    order.seed = 8;
    const auto recorded = [&](run::FanProfile fans) {
        order.conditions.fans = fans;
        return std::make_shared<const capture::Capture>((*rig)->record(order, {1.0}, {}, {})->capture);
    };
    const auto judged = [&](const std::shared_ptr<const capture::Capture>& run) {
        const std::vector<std::shared_ptr<const capture::Capture>> runs{run};
        return limits::judge(runs, order.variant, machine.panel, 0.97, {}, {&machine, {}});
    };
    const auto quiet = judged(recorded(run::FanProfile::Quiet)), full = judged(recorded(run::FanProfile::Full));
    ASSERT_EQ(quiet.size(), full.size());
    std::size_t named = 0;
    for (std::size_t i = 0; i < quiet.size(); ++i) {
        const double gain = full[i].rate / quiet[i].rate - 1;
        const bool heat = quiet[i].cause() != nullptr && quiet[i].cause()->cause == Cause::Heat;
        named += heat ? 1 : 0;
        if (heat) EXPECT_GT(gain, 0.03) << quiet[i].part;
        if (!heat) EXPECT_LT(gain, 0.06) << quiet[i].part << " lost it to heat, and nothing is said";
    }
    EXPECT_GE(named, 1U);
}

TEST(CausesTest, AClockThatRestsMakesNoLimitOfTheGpu) {
    const auto resting = [](double) { return 45.0; };
    const auto calm = [](double s) { return 9 + std::sin(s); };
    run::Variant capped;
    capped.cap = Fps(60);
    // Full, at less than half of its clock, at exactly the cap.
    auto made = Made(8, 16.4).track(Sensor::GpuClock, resting).track(Sensor::GpuPower, calm);
    for (auto& ms : made.c.framesMs) ms = 16.67;
    EXPECT_EQ(made.judged(nullptr, capped).brake, Brake::Cap);
    // The same at its full clock: the GPU limits, and the cap hardly.
    auto full = Made(8, 16.4).track(Sensor::GpuClock, [](double) { return 99.0; });
    EXPECT_EQ(full.judged(nullptr, capped).brake, Brake::Gpu);
    // Beside much CPU work it is the CPU, not surely, and the figure is told.
    const auto beside = Made(12, 14).track(Sensor::GpuClock, resting).track(Sensor::GpuPower, calm).judged();
    EXPECT_EQ(beside.brake, Brake::Cpu);
    EXPECT_EQ(beside.certainty(), limits::Certainty::Likely);
    ASSERT_FALSE(beside.facts.empty());
    EXPECT_EQ(beside.facts.front().sign, limits::Sign::RestingClock);
    // A log in MHz: held against the fastest that any recording tells.
    const auto fallsToRest = [](double s) { return s < 2 ? 2500.0 : 1100.0; };
    EXPECT_EQ(Made(12, 14).track(Sensor::GpuMhz, fallsToRest).track(Sensor::GpuPower, calm).judged().brake, Brake::Cpu);
    EXPECT_EQ(
        Made(12, 14).track(Sensor::GpuMhz, [](double) { return 1100.0; }).track(Sensor::GpuPower, calm).judged().brake,
        Brake::Gpu)
        << "it may be its highest";
    // Little CPU work explains nothing; neither does a clock that a limit lowers.
    EXPECT_EQ(Made(6, 14).track(Sensor::GpuClock, resting).track(Sensor::GpuPower, calm).judged().brake, Brake::Gpu);
    EXPECT_EQ(Made(12, 14)
                  .track(Sensor::GpuClock, resting)
                  .track(Sensor::GpuPower, [](double) { return 15.0; })
                  .judged()
                  .brake,
              Brake::Gpu);
}

TEST(CausesTest, APowerLimitOfTheCpuAndOfBothChips) {
    const auto moving = [](double s) { return 80 + 4 * std::sin(s); };
    const auto cpu = Made(14, 8).track(Sensor::CpuPower, [](double) { return 45.0; }).track(Sensor::CpuClock, moving);
    ASSERT_NE(of(cpu.judged(), Cause::Power), nullptr);
    EXPECT_EQ(of(cpu.judged(), Cause::Power)->chip, run::Lane::Cpu);
    const auto both = Made(8, 14)
                          .track(Sensor::GpuPower, [](double s) { return 10 + 2 * std::sin(s); })
                          .track(Sensor::SystemPower, [](double) { return 19.0; })
                          .track(Sensor::GpuClock, moving);
    ASSERT_NE(of(both.judged(), Cause::Power), nullptr);
    // At its highest clock nothing is held back, however even the power.
    EXPECT_EQ(of(Made(14, 8)
                     .track(Sensor::CpuPower, [](double) { return 45.0; })
                     .track(Sensor::CpuClock, [](double) { return 99.0; })
                     .judged(),
                 Cause::Power),
              nullptr);
}

namespace {

/// With a hitch of so many ms every second.
Made hitching(double ms) {
    Made made;
    double at = 0, next = 1000;
    for (double& frame : made.c.framesMs) {
        at += frame;
        if (ms <= 0 || at < next) continue;
        frame += ms;
        at += ms;
        next += 1000;
    }
    return made;
}

limits::PartVerdict judgedTogether(const std::vector<Made>& runs) {
    std::vector<std::shared_ptr<const capture::Capture>> captures;
    for (const auto& run : runs) captures.push_back(std::make_shared<const capture::Capture>(run.c));
    return limits::judge(captures, {}, {}, 0.97, {}, {}).at(0);
}

} // namespace

TEST(CausesTest, HitchesOfTheFirstRunAloneAreOfFirstSight) {
    const auto v = judgedTogether({hitching(60), hitching(0), hitching(0)});
    const auto* cause = of(v, Cause::FirstSight);
    ASSERT_NE(cause, nullptr);
    EXPECT_GE(cause->sure, 0.6);
    EXPECT_EQ(cause->evidence.front().sign, limits::Sign::LostInFirstRun);
    EXPECT_NEAR(cause->evidence.front().value, 100 * 60.0 / 1060, 1.5);
    EXPECT_EQ(v.test(), limits::DecidingTest::SecondRun);
    // In every run, only in a later one, or too little of it: something else.
    EXPECT_EQ(of(judgedTogether({hitching(60), hitching(60), hitching(50)}), Cause::FirstSight), nullptr);
    EXPECT_EQ(of(judgedTogether({hitching(0), hitching(60), hitching(60)}), Cause::FirstSight), nullptr);
    EXPECT_EQ(of(judgedTogether({hitching(9), hitching(0)}), Cause::FirstSight), nullptr);
    // One run alone: perhaps.
    const auto alone = judgedTogether({hitching(60)});
    ASSERT_NE(of(alone, Cause::FirstSight), nullptr);
    EXPECT_LT(of(alone, Cause::FirstSight)->sure, 0.6);
    EXPECT_EQ(of(judgedTogether({hitching(0)}), Cause::FirstSight), nullptr);
}

TEST(CausesTest, ARateThatCollapsesWhileTheGpuRestsIsAFault) {
    const auto collapsing = [](double loadThere, double seconds) {
        Made made;
        double at = 0;
        for (double& frame : made.c.framesMs) {
            if (at > 30000 && at < 30000 + 1000 * seconds) frame = 80;
            at += frame;
        }
        made.track(Sensor::GpuLoad, [=](double s) { return s > 30 && s < 30 + seconds ? loadThere : 97; });
        return made;
    };
    const auto v = collapsing(9, 10).judged();
    ASSERT_NE(of(v, Cause::ToolFault), nullptr);
    EXPECT_GE(of(v, Cause::ToolFault)->sure, 0.6);
    EXPECT_EQ(of(v, Cause::ToolFault)->evidence.front().sign, limits::Sign::CollapsedIdle);
    EXPECT_NEAR(of(v, Cause::ToolFault)->evidence.front().value, 8, 2.1);
    EXPECT_EQ(limits::testOf(Cause::ToolFault), limits::DecidingTest::WithoutTools);
    EXPECT_EQ(of(collapsing(97, 10).judged(), Cause::ToolFault), nullptr) << "it had work: a heavy place";
    EXPECT_EQ(of(Made().track(Sensor::GpuLoad, busy).judged(), Cause::ToolFault), nullptr);
    auto untold = collapsing(9, 10);
    untold.c.tracks.clear();
    EXPECT_EQ(of(untold.judged(), Cause::ToolFault), nullptr) << "never without a load";
}
