// SPDX-License-Identifier: GPL-3.0-or-later
// Bradley and Terry's model against abilities that another method makes of the same wins
// (tables/make_preferences.py): a worked example of Agresti, Categorical Data Analysis, from memory.
#include "support/support.h"

#include <cmath>
#include <impasto/choose/prefer.h>
#include <sstream>

using namespace impasto;
using namespace impasto::choose;

TEST(PublishedPreferenceTest, ASeasonOfSeven) {
    std::istringstream in(support::textOf(support::sourceDir() / "tests/published/tables/preferences.txt"));
    game::Game game;
    std::vector<std::vector<int>> wins;
    std::vector<double> ability;
    const std::vector<double> printed{1.58, 1.44, 1.29, 1.25, 1.11, 0.68, 0};
    for (std::string name; in >> name;) {
        game::Setting setting;
        setting.id = setting.label = name;
        setting.levels = {{"low", 0, {}}, {"high", 1, {}}};
        game.settings.push_back(setting);
        auto& row = wins.emplace_back(printed.size());
        for (int& each : row) in >> each;
        in >> ability.emplace_back();
    }
    ASSERT_EQ(wins.size(), printed.size());
    std::vector<Missed> answers;
    for (std::size_t i = 0; i < wins.size(); ++i)
        for (std::size_t j = 0; j < wins.size(); ++j)
            answers.insert(answers.end(), static_cast<std::size_t>(wins[i][j]),
                           Missed{game.settings[i].id, game.settings[j].id});
    // Nothing known beforehand: the likelihood alone.
    const auto cares = caresOf(game, answers, 1e4);
    ASSERT_EQ(cares.size(), wins.size());
    for (std::size_t i = 0; i < cares.size(); ++i) {
        const double is = std::log(cares[i].weight / cares.back().weight);
        EXPECT_NEAR(is, ability[i], 1e-6) << cares[i].setting;
        EXPECT_NEAR(is, printed[i], 0.005) << cares[i].setting;
    }
}
