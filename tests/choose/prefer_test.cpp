// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <algorithm>
#include <cmath>
#include <impasto/base/random.h>
#include <impasto/choose/prefer.h>

using namespace impasto;
using namespace impasto::choose;

namespace {

/// Settings a, b, c, ... of these weights; the least level of each shows nothing, or `least`.
game::Game gameOf(const std::vector<double>& weights, double least = 0) {
    game::Game game;
    for (std::size_t i = 0; i < weights.size(); ++i) {
        game::Setting setting;
        setting.id = setting.label = std::string(1, static_cast<char>('a' + i));
        setting.weight = weights[i];
        setting.levels = {{"low", least, {}}, {"high", 1, {}}};
        game.settings.push_back(setting);
    }
    return game;
}

double weightOf(const std::vector<Care>& cares, const std::string& setting) {
    const auto it = std::find_if(cares.begin(), cares.end(), [&](const Care& c) { return c.setting == setting; });
    return it == cares.end() ? 0 : it->weight;
}

/// Someone who misses what they lose: answers by the chance that the model says, of worths of their own.
class Player {
  public:
    Player(const game::Game& game, RandomStream& rng, double spread) : m_rng(rng) {
        for (const auto& setting : game.settings)
            m_weights[setting.id] = setting.weight * std::exp(spread * rng.normal());
    }
    [[nodiscard]] double weight(const std::string& id) const { return m_weights.at(id); }
    Missed answer(const std::pair<std::string, std::string>& pair) {
        const double a = weight(pair.first), b = weight(pair.second);
        const bool first = m_rng.uniform() < a / (a + b);
        return first ? Missed{pair.first, pair.second} : Missed{pair.second, pair.first};
    }

  private:
    RandomStream& m_rng;
    std::map<std::string, double> m_weights;
};

} // namespace

TEST(PreferTest, WithoutAnswersTheDescriptionStands) {
    const auto cares = caresOf(gameOf({1, 2, 0, 1}), {});
    ASSERT_EQ(cares.size(), 3U); // taste is not asked about
    EXPECT_NEAR(weightOf(cares, "b"), 2, 1e-9);
    for (const auto& care : cares) {
        EXPECT_NEAR(care.high / care.weight, std::exp(1.959964 * usualCareDoubt), 1e-6);
        EXPECT_NEAR(care.weight / care.low, std::exp(1.959964 * usualCareDoubt), 1e-6);
    }
    EXPECT_TRUE(caresOf(gameOf({1, 1}, 1), {}).empty()); // nothing to lose
    EXPECT_FALSE(nextQuestion(gameOf({1}), {}));
}

TEST(PreferTest, AnAnswerMovesTheTwoItIsAbout) {
    const auto game = gameOf({1, 1, 1});
    const std::vector<Missed> once{{"a", "b"}}, twice{{"a", "b"}, {"a", "c"}}, alike{{"a", "b", true}};
    const auto cares = caresOf(game, once);
    EXPECT_GT(weightOf(cares, "a"), 1.05);
    EXPECT_LT(weightOf(cares, "b"), 0.95);
    EXPECT_GT(weightOf(caresOf(game, twice), "a"), weightOf(cares, "a"));
    EXPECT_NEAR(weightOf(cares, "a") + weightOf(cares, "b") + weightOf(cares, "c"), 3, 1e-9);
    EXPECT_NEAR(weightOf(caresOf(game, alike), "a"), 1, 1e-9);
    EXPECT_LT(caresOf(game, alike)[0].high, caresOf(game, {})[0].high); // that they are alike is known better
    // The other way round it is the same of the other.
    EXPECT_NEAR(weightOf(caresOf(game, std::vector<Missed>{{"b", "a"}}), "b"), weightOf(cares, "a"), 1e-9);
    // What is no setting, or itself, says nothing.
    EXPECT_NEAR(weightOf(caresOf(game, std::vector<Missed>{{"a", "x"}, {"a", "a"}}), "a"), 1, 1e-9);
}

TEST(PreferTest, WhatTheLeastLevelKeepsIsNotMissed) {
    // Half of b stays at its least: two that are missed alike have weights one to two.
    auto game = gameOf({1, 1});
    game.settings[1].levels[0].picture = 0.5;
    const std::vector<Missed> alike(50, Missed{"a", "b", true});
    const auto cares = caresOf(game, alike, 10);
    EXPECT_NEAR(weightOf(cares, "b") / weightOf(cares, "a"), 2, 0.01);
}

TEST(PreferTest, AHundredAnswersOfOneKindKeepTheirSenses) {
    const std::vector<Missed> always(1000, Missed{"a", "b"});
    const auto cares = caresOf(gameOf({1, 1, 1}), always);
    for (const auto& care : cares) {
        EXPECT_TRUE(std::isfinite(care.weight) && care.weight > 0 && care.low <= care.weight);
        EXPECT_TRUE(std::isfinite(care.high) && care.high >= care.weight);
    }
}

TEST(PreferTest, QuestionsEndAndNoneComesTwice) {
    RandomStream rng(5, "prefer");
    const auto game = gameOf(std::vector<double>(10, 1));
    Player player(game, rng, 0.7);
    std::vector<Missed> answers;
    while (const auto pair = nextQuestion(game, answers)) {
        for (const auto& earlier : answers)
            EXPECT_FALSE((earlier.more == pair->first && earlier.less == pair->second) ||
                         (earlier.more == pair->second && earlier.less == pair->first));
        answers.push_back(player.answer(*pair));
        ASSERT_LE(answers.size(), 45U);
    }
    EXPECT_GE(answers.size(), 10U);
}

// Against what the players truly care for: the intervals hold it, and the weights come nearer than the description.
TEST(PreferTest, TheIntervalsHoldWhatPlayersCareFor) {
    constexpr int players = 200;
    std::size_t inside = 0, all = 0;
    double before = 0, after = 0;
    for (int p = 0; p < players; ++p) {
        RandomStream rng(static_cast<std::uint64_t>(700 + p), "prefer");
        const auto game = gameOf({1, 1, 2, 1, 2, 1, 1, 2});
        Player player(game, rng, usualCareDoubt);
        std::vector<Missed> answers;
        while (const auto pair = nextQuestion(game, answers)) answers.push_back(player.answer(*pair));
        const auto cares = caresOf(game, answers);
        double truth = 0, told = 0, described = 0; // mean logarithms: a common factor means nothing
        for (const auto& care : cares) {
            truth += std::log(player.weight(care.setting)) / static_cast<double>(cares.size());
            told += std::log(care.weight) / static_cast<double>(cares.size());
            described += std::log(game.setting(care.setting)->weight) / static_cast<double>(cares.size());
        }
        for (const auto& care : cares) {
            const double is = std::log(player.weight(care.setting)) - truth;
            inside += is >= std::log(care.low) - told && is <= std::log(care.high) - told ? 1 : 0;
            ++all;
            after += std::pow(std::log(care.weight) - told - is, 2);
            before += std::pow(std::log(game.setting(care.setting)->weight) - described - is, 2);
        }
    }
    const double share = static_cast<double>(inside) / static_cast<double>(all);
    EXPECT_GE(share, 0.93);
    EXPECT_LE(share, 0.995);
    EXPECT_LT(after, 0.75 * before);
}

TEST(PreferTest, TheGameTakesTheWeights) {
    const auto game = gameOf({1, 2, 0});
    const auto after = weighed(game, {{"a", 1.234, 1, 2}, {"b", 0.001, 0, 1}});
    EXPECT_EQ(after.settings[0].weight, 1.23);
    EXPECT_EQ(after.settings[1].weight, 0.01); // none becomes taste by it
    EXPECT_EQ(after.settings[2].weight, 0);
    const auto again = game::parseGame(game::toToml([&] {
                                           auto whole = after;
                                           whole.name = "G";
                                           whole.version = "1";
                                           whole.presets = {{"as now", {{"a", "high"}, {"b", "high"}, {"c", "high"}}}};
                                           whole.routes = {{"r", {{"all", 60}}}};
                                           return whole;
                                       }()),
                                       "g.toml");
    ASSERT_TRUE(again.has_value()) << again.error().what << again.error().where.key;
    EXPECT_EQ(again->settings[0].weight, 1.23);
}
