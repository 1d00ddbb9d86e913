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
    const auto lost = document::readRecipe(
        folder.write("a.toml", "machine = \"m.toml\"\ngame = \"g.toml\"\nseed = 1\n[brief]\ntarget_fps = 60\n"), texts);
    EXPECT_EQ(lost.error().where.file, folder.path("m.toml").string());
    const auto bad = document::readRecipe(
        folder.write(
            "b.toml",
            "machine = \"m.toml\"\ngame = \"g.toml\"\nseed = 1\n[brief]\ntarget_fps = 60\nstyle = \"hasty\"\n"),
        texts);
    EXPECT_EQ(bad.error().where.key, "brief.style");
    const auto feet = document::readRecipe(
        folder.write(
            "c.toml",
            "machine = \"m.toml\"\ngame = \"g.toml\"\nseed = 1\n[brief]\ntarget_fps = 60\nsteering = \"feet\"\n"),
        texts);
    EXPECT_EQ(feet.error().where.key, "brief.steering");
}
