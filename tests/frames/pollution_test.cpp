// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/logs/import.h>

#include <impasto/base/random.h>
#include <impasto/frames/examine.h>
#include <impasto/stats/stats.h>

using namespace impasto;
using namespace impasto::frames;

namespace {

capture::Capture recorded(const machine::Machine& machine, const game::Game& game, const game::Values& values,
                          const std::string& route, std::uint64_t seed) {
    run::Order order;
    order.variant.values = values;
    order.variant.resolution = machine.panel.native;
    order.route = route;
    order.seconds = game.route(route)->seconds();
    order.seed = seed;
    return (*rig_sim::simulatedRig(support::originals(), machine, game))->record(order, {1}, {}, {})->capture;
}

std::vector<std::string> filesIn(const char* folder) {
    std::vector<std::string> out;
    for (const auto& entry : std::filesystem::directory_iterator(support::dataFile(folder)))
        out.push_back(entry.path().filename().string());
    return out;
}

/// As another tool would log it: frame times alone.
capture::Capture bare(capture::Capture c) {
    c.marks.clear();
    for (const auto& column : capture::optionalColumns) (c.*column.values).reset();
    return c;
}

capture::Capture played() {
    const auto game = support::saltmarsh();
    return bare(recorded(support::tower(), game, game.presets.front().values, game.routes.front().name, 5));
}

} // namespace

TEST(PollutionTest, ARouteByItselfGivesNoReasonToCut) {
    std::size_t logs = 0, proposed = 0;
    for (const auto& machineFile : filesIn("machines"))
        for (const auto& gameFile : filesIn("games")) {
            const auto machine = support::machineNamed(machineFile);
            const auto game = support::gameNamed(gameFile);
            for (const auto& route : game.routes)
                for (const auto& preset : game.presets)
                    for (std::uint64_t seed = 1; seed <= 2; ++seed) {
                        ++logs;
                        const auto log = bare(recorded(machine, game, preset.values, route.name, seed));
                        proposed += pollutionOf(log).empty() ? 0 : 1;
                    }
        }
    EXPECT_GT(logs, 60U);
    EXPECT_LE(100 * proposed, logs) << proposed << " of " << logs;
}

TEST(PollutionTest, AMenuIsFoundWhole) {
    RandomStream s(2, "menu");
    auto c = played();
    const double whole = capture::durationMs(c), median = *stats::quantile(c.framesMs, 0.5);
    // It has most of the frames, but not most of the time.
    const auto menu = [&](double seconds) {
        std::vector<double> out;
        for (double at = 0; at < 1000 * seconds; at += out.back()) out.push_back(median / 4 * (1 + 0.01 * s.normal()));
        return out;
    };
    for (const double seconds : {3.0, 12.0, 0.4 * whole / 1000}) {
        auto log = c;
        const auto before = menu(seconds), after = menu(seconds / 2);
        log.framesMs.insert(log.framesMs.begin(), before.begin(), before.end());
        log.framesMs.insert(log.framesMs.end(), after.begin(), after.end());
        const auto found = pollutionOf(log);
        ASSERT_EQ(found.size(), 2U) << seconds;
        EXPECT_EQ(found[0].fromMs, 0);
        EXPECT_NEAR(found[0].toMs, 1000 * seconds, 500);
        EXPECT_NEAR(found[1].fromMs, 1000 * seconds + whole, 500);
        EXPECT_NEAR(found[1].toMs, capture::durationMs(log), 1e-6);
    }
}

TEST(PollutionTest, LoadingIsProposedAHitchOrAStallInsideIsNot) {
    auto c = played();
    const double whole = capture::durationMs(c);
    c.framesMs.insert(c.framesMs.begin(), {700, 300, 250});
    c.framesMs.insert(c.framesMs.begin() + 2000, 2500); // another window
    c.framesMs.push_back(1900);
    const auto found = pollutionOf(c);
    ASSERT_EQ(found.size(), 2U) << "the stall inside is evidence";
    EXPECT_EQ(found[0].fromMs, 0);
    EXPECT_NEAR(found[0].toMs, 1550, 20);
    EXPECT_NEAR(found[1].fromMs, whole + 1250 + 2500 - 300, 30);
    EXPECT_NEAR(found[1].toMs, capture::durationMs(c), 1e-6);
    EXPECT_NEAR(capture::durationMs(capture::without(c, found)), whole + 2500 - 600, 100);
    auto hitch = played();
    hitch.framesMs.front() = 400;
    hitch.framesMs.back() = 400;
    EXPECT_TRUE(pollutionOf(hitch).empty()) << "one hitch at an end is no reason";
    EXPECT_TRUE(pollutionOf({}).empty());
    // A real program's first picture took 223 ms: that is one hitch.
    EXPECT_TRUE(pollutionOf(*logs::readLog(support::testFile("logs/real-program-slow.csv"))).empty());
}

TEST(PollutionTest, WhereSiblingsLoadHalfOfTheSignsIsEnough) {
    auto c = played();
    c.framesMs.insert(c.framesMs.begin(), 600);
    EXPECT_TRUE(pollutionOf(c).empty()) << "one hitch";
    const auto found = pollutionOf(c, {true, false});
    ASSERT_EQ(found.size(), 1U);
    EXPECT_NEAR(found[0].toMs, 900, 20);
    EXPECT_TRUE(pollutionOf(c, {false, true}).empty()) << "at the other end nothing is odd";
    EXPECT_TRUE(pollutionOf(played(), {true, true}).empty()) << "what is clean stays whole";
    const double median = *stats::quantile(c.framesMs, 0.5);
    auto menu = played();
    const std::vector<double> brief(static_cast<std::size_t>(700 / (median / 4)), median / 4);
    menu.framesMs.insert(menu.framesMs.begin(), brief.begin(), brief.end());
    EXPECT_TRUE(pollutionOf(menu).empty()) << "under a second";
    ASSERT_EQ(pollutionOf(menu, {true, false}).size(), 1U);
}

TEST(PollutionTest, AnEndIsExpectedWhereMostRunsAndTwoAtLeastLoseIt) {
    const std::vector<capture::Span> begin{{0, 900}}, end{{5000, 6000}}, both{{0, 900}, {5000, 6000}};
    using Proposed = std::vector<std::vector<capture::Span>>;
    EXPECT_EQ(expectedIn(Proposed{begin, begin, {}}), (Ends{true, false}));
    EXPECT_EQ(expectedIn(Proposed{begin, {}, {}}), Ends());
    EXPECT_EQ(expectedIn(Proposed{begin}), Ends()) << "there is no sibling";
    EXPECT_EQ(expectedIn(Proposed{begin, end, {}, {}}), Ends());
    EXPECT_EQ(expectedIn(Proposed{both, both, end}), (Ends{true, true}));
    EXPECT_EQ(expectedIn({}), Ends());
}

TEST(PollutionTest, AMenuBeforeLoadingGoesWithIt) {
    auto c = played();
    const double median = *stats::quantile(c.framesMs, 0.5);
    std::vector<double> before(static_cast<std::size_t>(4000 / (median / 4)), median / 4);
    before.insert(before.end(), {900, 700, 400});
    c.framesMs.insert(c.framesMs.begin(), before.begin(), before.end());
    const auto found = pollutionOf(c);
    ASSERT_EQ(found.size(), 1U);
    EXPECT_NEAR(found[0].toMs, 6300, 300);
}

TEST(PollutionTest, ARouteThatRunsAsFastElsewhereHasNoMenu) {
    auto c = played();
    const double median = *stats::quantile(c.framesMs, 0.5);
    const std::vector<double> fast(static_cast<std::size_t>(4000 / (median / 4)), median / 4);
    c.framesMs.insert(c.framesMs.begin(), fast.begin(), fast.end());
    c.framesMs.insert(c.framesMs.begin() + static_cast<std::ptrdiff_t>(c.framesMs.size() * 2 / 3), fast.begin(),
                      fast.end());
    EXPECT_TRUE(pollutionOf(c).empty());
}
