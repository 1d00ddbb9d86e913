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

TEST(CapTest, SchoolsByTheirFormulas) {
    const CapRules rules;
    const auto replay =
        replayOf(flatCapture(14.0, 6000, 8, 13.9), window, run::Sync::Variable, stats::LowRule::WorstMean);
    const auto all = offers(replay, Fps(60), window, rules);
    ASSERT_EQ(all.size(), 6U);
    EXPECT_EQ(offerOf(all, CapSchool::Even).cap, Fps(48)) << "144/3: 72 is above 0.95 of 71.4";
    EXPECT_EQ(offerOf(all, CapSchool::Window).cap, Fps(138)) << "1000 / (6.944 + 0.3), whole";
    EXPECT_NEAR(offerOf(all, CapSchool::Headroom).cap->value(), std::floor(1000 / (13.9 * 1.0004 + 0.2)), 1);
    EXPECT_NEAR(offerOf(all, CapSchool::BottomOfRange).cap->value(), 71, 1);
    EXPECT_FALSE(offerOf(all, CapSchool::None).cap);
    EXPECT_TRUE(offerOf(all, CapSchool::None).applies);
    EXPECT_GE(offerOf(all, CapSchool::Steady).cap->value(), 60);
}

TEST(CapTest, WithoutLaneTimesNoLowIsPredicted) {
    const auto replay = replayOf(flatCapture(14, 2000), fixed60, run::Sync::None, stats::LowRule::WorstMean);
    for (const auto& offer : offers(replay, Fps(60), fixed60, {})) {
        EXPECT_FALSE(offer.prediction.onePercentLow) << static_cast<int>(offer.school);
        if (offer.school == CapSchool::Headroom) EXPECT_EQ(offer.cap, Fps(std::floor(0.82 * 1000 / 14.0)));
        if (offer.school == CapSchool::Window) EXPECT_FALSE(offer.applies);
        if (offer.school == CapSchool::Steady) EXPECT_EQ(offer.cap, Fps(60)) << "the target itself";
    }
}

TEST(CapTest, TheBandHoldsBothExtremesAndNeverInverts) {
    const auto replay = replayOf(hitching(), {}, run::Sync::None, stats::LowRule::WorstMean);
    for (const double cap : {40.0, 55.0, 62.0, 68.0, 90.0}) {
        const auto p = predict(replay, Fps(cap), {});
        EXPECT_LE(p.onePercentLow->low, p.onePercentLow->high) << cap;
        EXPECT_LE(p.average.value(), cap + 0.01) << cap;
    }
    const auto slack = predict(replay, Fps(55), {}), none = predict(replay, Fps(90), {});
    EXPECT_GT(slack.onePercentLow->high, 1.3 * slack.onePercentLow->low)
        << "with slack the slow frames may vanish, or not";
    EXPECT_LT(none.onePercentLow->high / none.onePercentLow->low, slack.onePercentLow->high / slack.onePercentLow->low);
}

TEST(CapTest, CapsOnFixedPanelsFollowPractice) {
    // Common practice, no source: average 70 with dips -> 60 on 60 Hz; 44 -> 30; 25 to 40 -> 30.
    const auto even = [](double average) {
        const auto replay =
            replayOf(flatCapture(1000 / average, 3000), fixed60, run::Sync::None, stats::LowRule::Percentile);
        return offerOf(offers(replay, Fps(30), fixed60, {}), CapSchool::Even).cap;
    };
    EXPECT_EQ(even(70), Fps(60));
    EXPECT_EQ(even(44), Fps(30));
    EXPECT_EQ(even(32), Fps(30));
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
    const auto replay = replayOf(hitching(), {}, run::Sync::None, stats::LowRule::WorstMean);
    EXPECT_TRUE(curve(replay, Fps(40), Fps(90), 10, {}, {stop.get_token(), {}}).empty());
    EXPECT_EQ(curve(replay, Fps(40), Fps(90), 5, {}, {}).size(), 5U);
}
