// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

using namespace impasto;
using namespace impasto::support;

TEST(RecipeTest, TheDemoIsARecipe) {
    description::Originals texts;
    const auto recipe = document::readRecipe(dataFile("demo.toml"), texts);
    ASSERT_TRUE(recipe.has_value());
    EXPECT_EQ(recipe->game.name, "Saltmarsh Courier");
    EXPECT_EQ(recipe->machine.name, "Thornbury tower");
    EXPECT_EQ(recipe->brief.target, Fps(60));
    EXPECT_TRUE(rig_sim::canSimulate(texts, recipe->machine, recipe->game));
}

TEST(RecipeTest, FaultsNameFileAndKey) {
    description::Originals texts;
    const TemporaryFolder folder;
    EXPECT_EQ(document::readRecipe(folder.path("none.toml"), texts).error().code, ErrorCode::CannotRead);
    const auto wrong = [&](const char* line) {
        return document::readRecipe(
                   folder.write("a.toml", std::string("machine = \"m.toml\"\ngame = \"g.toml\"\nseed = 1\n[brief]\n"
                                                      "target_fps = 60\n") +
                                              line),
                   texts)
            .error()
            .where;
    };
    EXPECT_EQ(wrong("").file, folder.path("m.toml").string()) << "it is lost";
    EXPECT_EQ(wrong("style = \"hasty\"\n").key, "brief.style");
    EXPECT_EQ(wrong("steering = \"feet\"\n").key, "brief.steering");
}
