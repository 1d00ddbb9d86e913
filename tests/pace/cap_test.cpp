// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <cmath>
#include <impasto/pace/cap.h>

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

const CapOffer& offerOf(const std::vector<CapOffer>& all, CapSchool school) {
    return *std::find_if(all.begin(), all.end(), [school](const CapOffer& o) { return o.school == school; });
}

} // namespace

namespace {

run::Brief briefOf(double target, run::Style style = run::Style::Cinematic) {
    run::Brief brief;
    brief.target = Fps(target);
    brief.style = style;
    return brief;
}
std::vector<CapOffer> offersOf(const capture::Capture& capture, const display::Panel& panel, const run::Brief& brief) {
    return offers(replayOf(capture, panel, brief), {});
}

} // namespace

TEST(CapTest, SchoolsByTheirFormulas) {
    const auto all = offersOf(flatCapture(14.0, 6000, 8, 13.9), window, briefOf(60));
    ASSERT_EQ(all.size(), 7U);
    EXPECT_EQ(offerOf(all, CapSchool::Window).plan.cap, Fps(138)) << "1000 / (6.944 + 0.3), whole";
    EXPECT_NEAR(offerOf(all, CapSchool::Headroom).plan.cap->value(), std::floor(1000 / (13.9 * 1.0004 + 0.2)), 1);
    EXPECT_NEAR(offerOf(all, CapSchool::BottomOfRange).plan.cap->value(), 71, 1);
    EXPECT_FALSE(offerOf(all, CapSchool::None).plan.cap);
    EXPECT_TRUE(offerOf(all, CapSchool::None).applies);
    EXPECT_GE(offerOf(all, CapSchool::Steady).plan.cap->value(), 60);
    EXPECT_EQ(all.front().school, CapSchool::Target) << "a calm style on a panel that follows every rate";
    EXPECT_NEAR(all.front().plan.cap->value(), 60, 1.3);
    EXPECT_EQ(all.front().plan.sync, run::Sync::Variable);
    EXPECT_TRUE(all.front().prediction.held);
}

TEST(CapTest, WithoutLaneTimesNoLowIsPredicted) {
    for (const auto& offer : offersOf(flatCapture(14, 2000), fixed60, briefOf(60))) {
        EXPECT_FALSE(offer.prediction.onePercentLow) << static_cast<int>(offer.school);
        if (offer.school == CapSchool::Headroom) EXPECT_EQ(offer.plan.cap, Fps(std::floor(0.82 * 1000 / 14.0)));
        if (offer.school == CapSchool::Window) EXPECT_FALSE(offer.applies);
    }
}

TEST(CapTest, TheBandHoldsBothExtremesAndNeverInverts) {
    const auto replay = replayOf(hitching(), {}, briefOf(60));
    for (const double cap : {40.0, 55.0, 62.0, 68.0, 90.0}) {
        const auto p = predict(replay, {Fps(cap)}, {});
        EXPECT_LE(p.onePercentLow->low, p.onePercentLow->high) << cap;
        EXPECT_LE(p.average.value(), cap + 0.01) << cap;
        EXPECT_LE(p.slowestSecond->low, p.average.value()) << cap;
    }
    const auto slack = predict(replay, {Fps(55)}, {}), none = predict(replay, {Fps(90)}, {});
    EXPECT_GT(slack.onePercentLow->high, 1.3 * slack.onePercentLow->low)
        << "with slack the slow frames may vanish, or not";
    EXPECT_LT(none.onePercentLow->high / none.onePercentLow->low, slack.onePercentLow->high / slack.onePercentLow->low);
}

TEST(CapTest, ALimiterIsLate) {
    const auto p = predict(replayOf(flatCapture(5, 6000, 3, 3), {}, briefOf(100)), {Fps(100)}, {});
    EXPECT_LT(p.average.value(), 99.6);
    EXPECT_GT(p.average.value(), 98.5);
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
    EXPECT_EQ(all.front().school, CapSchool::Even);
    EXPECT_EQ(all.front().plan, (CapPlan{{}, run::Sync::Fixed, Hertz(60)})) << "sync alone holds the refresh itself";
}

TEST(CapTest, AnEvenRateIsLookedForInEveryMode) {
    const display::Panel handheld{{1280, 800}, Hertz(90), {}, {Hertz(60), Hertz(70), Hertz(80), Hertz(90)}};
    const auto all = offersOf(flatCapture(1000.0 / 52, 4000, 8, 18), handheld, briefOf(40, run::Style::Battery));
    EXPECT_EQ(all.front().school, CapSchool::Even);
    EXPECT_EQ(all.front().plan.refresh, Hertz(80));
    EXPECT_NEAR(all.front().plan.cap->value(), 40.2, 1e-9) << "half of 80, a little above";
    for (const auto& offer : all)
        if (offer.applies && offer.plan.cap && offer.plan.sync == run::Sync::None) {
            EXPECT_EQ(offer.conflict, CapConflict::Uneven) << static_cast<int>(offer.school);
        }
}

TEST(CapTest, NothingFasterThanThePanelIsRecommended) {
    for (const auto style : run::allStyles)
        for (const double target : {60.0, 90.0, 138.0}) {
            const auto all = offersOf(flatCapture(4.5, 9000, 3, 4.4), window, briefOf(target, style));
            EXPECT_FALSE(all.front().conflict);
            if (all.front().plan.cap) {
                EXPECT_LE(all.front().plan.cap->value(), 138.04) << target;
            }
            const auto low = offersOf(flatCapture(7, 6000, 3, 6.9), fixed60, briefOf(60, style));
            EXPECT_FALSE(low.front().conflict);
            if (low.front().plan.cap) {
                EXPECT_LE(low.front().plan.cap->value(), 60.0) << target;
            }
        }
}

TEST(CapTest, ALowUnderTheLowestBearableIsNotFirst) {
    auto brief = briefOf(50);
    const auto free = offersOf(hitching(), window, brief);
    ASSERT_EQ(free.front().school, CapSchool::Target);
    // A floor just over what the first one keeps: another one is first, and keeps it.
    brief.lowestLow = Fps(free.front().prediction.onePercentLow->expected() + 0.5);
    const auto all = offersOf(hitching(), window, brief);
    ASSERT_TRUE(std::any_of(all.begin(), all.end(), [&](const CapOffer& o) {
        return o.applies && !o.conflict && o.prediction.onePercentLow->expected() >= brief.lowestLow->value();
    })) << "there is one that keeps it";
    EXPECT_GE(all.front().prediction.onePercentLow->expected(), brief.lowestLow->value());
    EXPECT_NE(all.front().plan, free.front().plan);
}

TEST(CapTest, ACapOfOnesOwnIsPredictedAndJudgedLikeTheOthers) {
    const auto replay = replayOf(flatCapture(5, 6000, 3, 4.9), window, briefOf(60));
    const auto own = ownOffer(replay, Fps(143), {});
    EXPECT_EQ(own.school, CapSchool::Own);
    EXPECT_EQ(own.conflict, CapConflict::InsideMargin);
    EXPECT_FALSE(ownOffer(replay, Fps(90), {}).conflict);
}

TEST(CapTest, RulesAreReadWithTheirPlaces) {
    const auto rules = parseCapRules(support::textOf(support::dataFile("cap_rules.toml")), "cap_rules.toml");
    ASSERT_TRUE(rules.has_value());
    EXPECT_EQ(*rules, CapRules{}) << "the shipped file and the defaults are one";
    EXPECT_EQ(parseCapRules("headroom_share = 3\n", "r").error().where.key, "headroom_share");
    EXPECT_EQ(parseCapRules("headroom = 0.8\n", "r").error().code, ErrorCode::UnknownName);
}

TEST(CapTest, TheCurveStopsWhenCancelled) {
    std::stop_source stop;
    stop.request_stop();
    const auto replay = replayOf(hitching(), {}, briefOf(60));
    EXPECT_TRUE(curve(replay, Fps(40), Fps(90), 10, {}, {stop.get_token(), {}}).empty());
    EXPECT_EQ(curve(replay, Fps(40), Fps(90), 5, {}, {}).size(), 5U);
}
