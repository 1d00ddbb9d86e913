// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/game/catalogue.h>
#include <impasto/game/rules.h>
#include <impasto/game/start.h>
#include <impasto/run/run.h>

using namespace impasto;
using namespace impasto::game;

namespace {

Game rainmarket() {
    return *parseGame(support::textOf(support::dataFile("games/rainmarket.toml")), "rainmarket.toml");
}

} // namespace

TEST(StyleSetTest, TheShippedOnesNameStylesAndKindsThatThereAre) {
    const auto sets = parseStyleSets(support::textOf(support::dataFile("catalogue.toml")), "catalogue.toml");
    ASSERT_TRUE(sets.has_value()) << sets.error().what;
    EXPECT_EQ(sets->size(), 4U);
    for (const auto& set : *sets) {
        EXPECT_TRUE(run::styleOf(set.style).has_value()) << set.style;
        EXPECT_NE(styleSet(set.style), nullptr);
        for (const auto& id : set.kept)
            EXPECT_TRUE(std::any_of(catalogue().begin(), catalogue().end(), [&](const auto& k) { return k.id == id; }))
                << id;
    }
    EXPECT_EQ(styleSet("quiet"), nullptr);
}

/// Competitive: full resolution, far view, everything else lowest (common practice, no source).
TEST(StyleSetTest, AStyleStartsWithWhatItKeeps) {
    auto game = rainmarket();
    auto found = game.presets.front().values;
    found["render_scale"] = "50%";
    found["upscaling"] = "learned 2.0";
    const auto values = valuesOf(*styleSet("competitive"), game, found);
    EXPECT_TRUE(checkValues(game, values).has_value());
    EXPECT_EQ(values.at("render_scale"), "100%");
    EXPECT_EQ(values.at("upscaling"), "off");
    EXPECT_EQ(values.at("view_distance"), "far");
    EXPECT_EQ(values.at("crowd"), "few");
    EXPECT_EQ(keptIn(*styleSet("competitive"), game), std::vector<std::string>{"View distance"});
    EXPECT_EQ(values.at("shadows"), "low");
    EXPECT_EQ(valuesOf(*styleSet("weak-machine"), game, found).at("view_distance"), "near");
    const auto headset = valuesOf(*styleSet("headset"), game, found);
    EXPECT_EQ(headset.at("textures"), "ultra");
    EXPECT_EQ(headset.at("texture_filter"), "16x");
    EXPECT_EQ(headset.at("view_distance"), "near");
    // What is taste is the player's.
    game.settings[2].weight = 0;
    found["crowd"] = "many";
    EXPECT_EQ(valuesOf(*styleSet("competitive"), game, found).at("crowd"), "many");
}

/// Its tracing wants an upscaler, which full size does without: it goes down, and nothing is broken.
TEST(StyleSetTest, ARuleOfTheGameIsObeyed) {
    const auto game = rainmarket();
    ASSERT_FALSE(game.rules.empty());
    const auto values = valuesOf(*styleSet("cinematic"), game, game.presets.front().values);
    EXPECT_TRUE(brokenBy(game.rules, values).empty());
    EXPECT_EQ(values.at("shadows"), "ultra");
    EXPECT_EQ(values.at("traced_light"), "off");
}

TEST(StyleSetTest, FaultsNameTheirKey) {
    for (const char* text : {"start = [{ kept = [\"view\"] }]", "start = [{ style = \"x\", kept = 3 }]",
                             "start = [{ style = \"x\", kept = [], highest = 1 }]", "start = [{ style = \"x\" }",
                             "start = [{ style = \"x\", kept = [], lowest = true }]"})
        EXPECT_FALSE(parseStyleSets(text, "x.toml").has_value()) << text;
}
