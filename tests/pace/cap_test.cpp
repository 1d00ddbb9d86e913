// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <cmath>
#include <impasto/pace/cap.h>
#include <impasto/wording/pace.h>

using namespace impasto;
using namespace impasto::pace;
using impasto::support::flatCapture;

namespace {

const display::Panel window{{2560, 1440}, Hertz(144), display::RefreshRange{Hertz(48), Hertz(144)}};
const display::Panel fixed60{{1920, 1080}, Hertz(60), {}};

/// 70 fps with every hundredth frame 30 ms longer on the GPU.
capture::Capture hitching() {
    auto c = flatCapture(14.2, 6000, 8, 14.1);
    for (std::size_t i = 50; i < 6000; i += 100) {
        (*c.gpuWorkMs)[i] += 30;
        c.framesMs[i] += 30;
    }
    return c;
}

const CapOffer& offerOf(const CapOffers& offers, CapSchool school) {
    return *std::find_if(offers.all.begin(), offers.all.end(),
                         [school](const CapOffer& o) { return o.school == school; });
}

run::Brief briefOf(double target, run::Style style = run::Style::Cinematic) {
    run::Brief brief;
    brief.target = Fps(target);
    brief.style = style;
    return brief;
}

Replay replayed(const capture::Capture& capture, const std::optional<display::Panel>& panel, const run::Brief& brief,
                Clocks clocks = Clocks::Held) {
    const std::array<UncappedRun, 1> runs{{{&capture, {}}}};
    return *replayOf(runs, panel, brief, clocks);
}

CapOffers offersOf(const capture::Capture& capture, const display::Panel& panel, const run::Brief& brief) {
    return offers(replayed(capture, panel, brief), {});
}

} // namespace

TEST(CapTest, SchoolsByTheirFormulas) {
    const auto all = offersOf(flatCapture(14.0, 6000, 8, 13.9), window, briefOf(60));
    EXPECT_EQ(offerOf(all, CapSchool::Window).plan.cap, Fps(138)) << "1000 / (6.944 + 0.3), whole";
    EXPECT_NEAR(offerOf(all, CapSchool::Headroom).plan.cap->value(), std::floor(1000 / (13.9 * 1.0004 + 0.2)), 1);
    EXPECT_NEAR(offerOf(all, CapSchool::BottomOfRange).plan.cap->value(), 71, 1);
    EXPECT_FALSE(offerOf(all, CapSchool::None).plan.cap);
    EXPECT_EQ(offerOf(all, CapSchool::None).conflict, CapConflict::NoCap);
    EXPECT_GE(offerOf(all, CapSchool::Steady).plan.cap->value(), 59);
    EXPECT_NEAR(offerOf(all, CapSchool::Target).plan.cap->value(), 60, 1.3);
    EXPECT_EQ(all.all.front().plan.sync, run::Sync::Variable);
    EXPECT_TRUE(all.all.front().held);
    EXPECT_FALSE(all.gain) << "nothing was run yet";
}

TEST(CapTest, WattsThatAreAskedDrawTheCapDownToTheTarget) {
    const auto capture = flatCapture(8, 8000, 5, 7.9); // 125 fps
    auto brief = briefOf(60, run::Style::Competitive);
    const std::optional<Power> power(
        Power{{{std::nullopt, {PowerOf::System, Fps(125), 200, {}, {}}}}, Clocks::Held, {}});
    const auto first = [&](std::optional<double> watts) {
        brief.bounds[run::Bound::Power] = watts;
        return offers(replayed(capture, window, brief), {}, {}, power).all.front();
    };
    const auto free = first({});
    ASSERT_GT(*free.bounds[run::Bound::Power], 180) << "competitive play takes all there is";
    const auto asked = first(160);
    EXPECT_LE(*asked.bounds[run::Bound::Power], 160.5);
    EXPECT_TRUE(asked.held);
    EXPECT_LT(asked.prediction.average(), free.prediction.average());
    const auto words = wording::capLoses(wording::Words(), brief, free, asked);
    EXPECT_NE(words.find("power at most 160 W: 19"), std::string::npos) << words;
    const auto never = first(20);
    EXPECT_TRUE(never.held) << "a bound that nothing keeps does not cost the target: " << never.plan.cap->value();
    // Nor one that a cap just under the target would come nearer to.
    for (const double watts : {100.0, 120.0, 135.0, 140.0}) {
        const auto near = first(watts);
        EXPECT_GE(near.plan.pacedTo()->value(), frames::heldAverage * 60) << watts;
    }
}

TEST(CapTest, FrameTimesAloneHaveNoLatencyAndAHeadroomByTheRule) {
    for (const auto& offer : offersOf(flatCapture(14, 2000), fixed60, briefOf(60)).all) {
        EXPECT_FALSE(offer.prediction.latencyMs) << static_cast<int>(offer.school);
        if (offer.school == CapSchool::Headroom) EXPECT_EQ(offer.plan.cap, Fps(std::floor(0.82 * 1000 / 14.0)));
        if (offer.school == CapSchool::Window) EXPECT_FALSE(offer.applies);
    }
}

TEST(CapTest, BandsNeverInvertAndAreWiderWhereIdleTimeMayServe) {
    const auto replay = replayed(hitching(), {}, briefOf(60));
    for (const double cap : {40.0, 55.0, 62.0, 68.0, 90.0}) {
        const auto p = predict(replay, {Fps(cap)}, {});
        for (const auto figure : allFigures) {
            EXPECT_LE(p.of(figure).low, p.of(figure).middle) << cap;
            EXPECT_LE(p.of(figure).middle, p.of(figure).high) << cap;
        }
        EXPECT_LE(p.average().value(), cap + 0.01) << cap;
    }
    const auto width = [&](double cap) {
        const auto b = predict(replay, {Fps(cap)}, {}).of(Figure::OnePercentLow);
        return b.high / b.low;
    };
    EXPECT_GT(width(55), 1.1 * width(90)) << "with slack the slow frames may vanish, or not";
}

TEST(CapTest, ALimiterIsLate) {
    const auto p = predict(replayed(flatCapture(5, 6000, 3, 3), {}, briefOf(100)), {Fps(100)}, {});
    EXPECT_LT(p.average().value(), 99.6);
    EXPECT_GT(p.average().value(), 98.5);
}

TEST(CapTest, CapsOnFixedPanelsFollowPractice) {
    // Common practice, no source: average 70 with dips -> 60 on 60 Hz; 44 -> 30; 25 to 40 -> 30.
    const auto even = [](double average) {
        const auto all = offersOf(flatCapture(1000 / average, 3000), fixed60, briefOf(30));
        return offerOf(all, CapSchool::Even).plan.pacedTo()->value();
    };
    EXPECT_NEAR(even(44), 30, 0.2);
    EXPECT_NEAR(even(32), 30, 0.2);
    const auto all = offersOf(flatCapture(1000.0 / 70, 3000), fixed60, briefOf(60));
    EXPECT_EQ(all.all.front().school, CapSchool::Even);
    EXPECT_EQ(all.all.front().plan, (CapPlan{{}, run::Sync::Fixed, Hertz(60)}))
        << "sync alone holds the refresh itself";
}

TEST(CapTest, AnEvenRateIsLookedForInEveryMode) {
    const display::Panel handheld{{1280, 800}, Hertz(90), {}, {Hertz(60), Hertz(70), Hertz(80), Hertz(90)}};
    const auto all = offersOf(flatCapture(1000.0 / 52, 4000, 8, 18), handheld, briefOf(40, run::Style::Battery));
    EXPECT_EQ(all.all.front().plan.refresh, Hertz(80));
    EXPECT_NEAR(all.all.front().plan.cap->value(), 40.2, 1e-9) << "half of 80, a little above";
    for (const auto& offer : all.all)
        if (offer.applies && offer.plan.sync == run::Sync::None) {
            EXPECT_EQ(offer.conflict, CapConflict::Uneven) << static_cast<int>(offer.school);
        }
}

TEST(CapTest, NothingAgainstThePanelIsRecommended) {
    for (const auto style : {run::Style::Competitive, run::Style::Cinematic, run::Style::Battery, run::Style::Quiet})
        for (const double target : {60.0, 90.0, 138.0}) {
            const auto all = offersOf(flatCapture(4.5, 4000, 3, 4.4), window, briefOf(target, style));
            EXPECT_FALSE(all.all.front().conflict);
            if (all.all.front().plan.cap) {
                EXPECT_LE(all.all.front().plan.cap->value(), 138.04) << target;
            }
            const auto low = offersOf(flatCapture(7, 4000, 3, 6.9), fixed60, briefOf(60, style));
            EXPECT_FALSE(low.all.front().conflict);
            if (low.all.front().plan.cap) {
                EXPECT_LE(low.all.front().plan.cap->value(), 60.0) << target;
            }
        }
}

TEST(CapTest, AMissedGoalWeighsMoreThanWhatAStyleGains) {
    Figures good, bad;
    for (auto* f : {&good, &bad}) {
        f->of(Figure::Average) = f->of(Figure::LeastPart) = 60;
        f->of(Figure::OnePercentLow) = f->of(Figure::TenthPercentLow) = 55;
        f->of(Figure::SlowestSecond) = 58;
        f->of(Figure::OnTime) = 0.99;
    }
    for (const auto style : run::allStyles) {
        auto brief = briefOf(60, style);
        brief.lowestLow = Fps(50);
        for (const auto figure : {Figure::LeastPart, Figure::OnePercentLow, Figure::SlowestSecond}) {
            bad = good;
            bad.of(figure) *= 0.85;
            EXPECT_LT(worthOf(brief, bad, 20.0), worthOf(brief, good, 20.0) - 0.05) << static_cast<int>(style);
        }
        bad = good;
        bad.of(Figure::OnTime) = 0.85;
        EXPECT_LT(worthOf(brief, bad, 20.0), worthOf(brief, good, 20.0) - 0.05);
    }
}

TEST(CapTest, LatencyWeighsMoreWithAMouseThanWithAPad) {
    Figures f;
    for (const auto figure : allFigures) f.of(figure) = 60;
    f.of(Figure::OnTime) = 1;
    for (const auto style : run::allStyles) {
        auto brief = briefOf(60, style);
        const auto later = [&](std::optional<run::Steering> steering) { // what 20 ms more of latency cost
            brief.steering = steering;
            return worthOf(brief, f, 20.0) - worthOf(brief, f, 40.0);
        };
        const double unsaid = later({}), mouse = later(run::Steering::Mouse), pad = later(run::Steering::Pad);
        EXPECT_NEAR(unsaid, run::ruleOf(style).latencyWeight * std::log(2), 1e-9) << run::keyOf(style);
        EXPECT_GE(mouse, std::max(unsaid, 0.2 * std::log(2)) - 1e-9);
        EXPECT_NEAR(pad, unsaid / 2, 1e-9);
    }
}

TEST(CapTest, AProofMovesWhatIsExpectedNearIt) {
    auto replay = replayed(hitching(), {}, briefOf(60));
    const CapPlan at60{Fps(60)}, at62{Fps(62)}, at30{Fps(30)};
    const auto before = predict(replay, at62, {}), far = predict(replay, at30, {});
    Figures measured;
    const auto told = predict(replay, at60, {});
    for (const auto figure : allFigures) measured.of(figure) = told.of(figure).middle;
    measured.of(Figure::OnePercentLow) = told.of(Figure::OnePercentLow).low; // worse than was thought
    learn(replay, at60, measured);
    const auto after = predict(replay, at62, {}), farAfter = predict(replay, at30, {});
    EXPECT_LT(after.of(Figure::OnePercentLow).middle, before.of(Figure::OnePercentLow).middle);
    EXPECT_LT(std::abs(std::log(farAfter.of(Figure::OnePercentLow).middle / far.of(Figure::OnePercentLow).middle)),
              std::abs(std::log(after.of(Figure::OnePercentLow).middle / before.of(Figure::OnePercentLow).middle)) +
                  0.02)
        << "what lies farther away moves no more";
    EXPECT_LE(after.of(Figure::Average).high - after.of(Figure::Average).low,
              before.of(Figure::Average).high - before.of(Figure::Average).low);
    // What was foretold stands beside what was measured.
    const auto own = ownOffer(replay, {Fps(60)}, {});
    ASSERT_TRUE(own.measured && own.foretold);
    EXPECT_DOUBLE_EQ(own.foretold->of(Figure::OnePercentLow).middle, told.of(Figure::OnePercentLow).middle);
}

TEST(CapTest, WhatWasRunIsKeptUnlessAnotherIsWorthMore) {
    const auto capture = flatCapture(14.0, 6000, 8, 13.9);
    auto replay = replayed(capture, window, briefOf(60));
    const auto first = offers(replay, {}).all.front();
    Figures measured;
    for (const auto figure : allFigures) measured.of(figure) = first.prediction.of(figure).middle;
    learn(replay, first.plan, measured);
    const auto kept = offers(replay, {});
    ASSERT_TRUE(kept.gain);
    EXPECT_LE(*kept.gain, worthAProof);
    EXPECT_EQ(kept.all.front().plan, first.plan);
    // A proof that went badly for reasons of that cap: another is asked for.
    auto failed = replayed(capture, window, briefOf(60));
    measured.of(Figure::OnTime) = 0.80;
    learn(failed, first.plan, measured);
    const auto other = offers(failed, {});
    ASSERT_TRUE(other.gain);
    EXPECT_NE(other.all.front().plan, first.plan);
    EXPECT_GT(*other.gain, worthAProof);
}

TEST(CapTest, ACapOfOnesOwnIsPredictedAndJudgedLikeTheOthers) {
    const auto replay = replayed(flatCapture(5, 6000, 3, 4.9), window, briefOf(60));
    const auto own = ownOffer(replay, {Fps(143), run::Sync::Variable}, {});
    EXPECT_EQ(own.school, CapSchool::Own);
    EXPECT_EQ(own.conflict, CapConflict::InsideMargin);
    EXPECT_FALSE(ownOffer(replay, {Fps(90), run::Sync::Variable}, {}).conflict);
}

TEST(CapTest, RulesAreReadWithTheirPlaces) {
    const auto rules = parseCapRules(support::textOf(support::dataFile("cap_rules.toml")), "cap_rules.toml");
    ASSERT_TRUE(rules.has_value());
    EXPECT_EQ(*rules, CapRules{}) << "the shipped file and the defaults are one";
    EXPECT_EQ(parseCapRules("headroom_share = 3\n", "r").error().where.key, "headroom_share");
    EXPECT_EQ(parseCapRules("headroom = 0.8\n", "r").error().code, ErrorCode::UnknownName);
    EXPECT_EQ(parseCapRules("[bands.lanes]\naverage = [1]\n", "r").error().code, ErrorCode::BadValue);
    EXPECT_EQ(parseCapRules("[bands.lanes]\nspeed = [1, 2]\n", "r").error().code, ErrorCode::UnknownName);
}

TEST(CapTest, TheCurveStopsWhenCancelled) {
    std::stop_source stop;
    stop.request_stop();
    const auto replay = replayed(hitching(), {}, briefOf(60));
    EXPECT_TRUE(curve(replay, Fps(40), Fps(90), 10, {}, {stop.get_token(), {}}).empty());
    EXPECT_TRUE(offers(replay, {}, {stop.get_token(), {}}).all.empty());
    EXPECT_EQ(curve(replay, Fps(40), Fps(90), 5, {}, {}).size(), 5U);
}

TEST(CapTest, EveryPlaceOfALimiterHasItsLatency) {
    const auto replay = replayed(flatCapture(6, 6000, 4, 6), {}, briefOf(60)); // two frames in flight
    const auto held = atEveryPlace(replay, {Fps(50)});
    ASSERT_EQ(held.size(), 4U);
    // 20 ms a frame, 4 on the CPU, 6 on the GPU; a limiter is 0.064 ms late on average.
    EXPECT_NEAR(held[0].latencyMs, 10, 0.2) << "engine: the wait comes before the input";
    EXPECT_NEAR(held[1].latencyMs, 20 + 6, 0.4) << "present: the CPU waits with a frame in its hand";
    EXPECT_GT(held[2].latencyMs, held[1].latencyMs + 5) << "driver: frames queue behind it";
    EXPECT_GE(held[3].latencyMs, held[2].latencyMs) << "compositor: finished frames wait";
    EXPECT_LT(held[3].swingMs, 0.2);
    EXPECT_TRUE(atEveryPlace(replay, {}).empty()) << "no cap";
    auto times = flatCapture(10, 6000, 4, 6);
    times.cpuWorkMs.reset();
    times.gpuWorkMs.reset();
    EXPECT_TRUE(atEveryPlace(replayed(times, {}, briefOf(60)), {Fps(50)}).empty()) << "frame times alone";
    const std::array<UncappedRun, 1> driver{{{&times, [] { // as the state of the runs has it
                                                  run::Variant v;
                                                  v.limiter = run::LimiterPlace::Driver;
                                                  return v;
                                              }()}}};
    EXPECT_EQ(replayOf(driver, {}, briefOf(60), Clocks::Held)->limiter, run::LimiterPlace::Driver);
}
