// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

using namespace impasto;
using namespace impasto::support;

TEST(RecipeTest, TheDemoIsARecipe) {
    const auto recipe = session::readRecipe(dataFile("demo.toml"));
    ASSERT_TRUE(recipe.has_value());
    EXPECT_EQ(recipe->game.name, "Saltmarsh Courier");
    EXPECT_EQ(recipe->machine.name, "Thornbury tower");
    EXPECT_EQ(recipe->brief.target, Fps(60));
    EXPECT_TRUE(rig::canSimulate(recipe->machine, recipe->game));
}

TEST(RecipeTest, FaultsNameFileAndKey) {
    const TemporaryFolder folder;
    EXPECT_EQ(session::readRecipe(folder.path("none.toml")).error().code, ErrorCode::CannotRead);
    const auto lost = session::readRecipe(
        folder.write("a.toml", "machine = \"m.toml\"\ngame = \"g.toml\"\nseed = 1\n[brief]\ntarget_fps = 60\n"));
    EXPECT_EQ(lost.error().where.file, folder.path("m.toml").string());
    const auto bad = session::readRecipe(folder.write(
        "b.toml", "machine = \"m.toml\"\ngame = \"g.toml\"\nseed = 1\n[brief]\ntarget_fps = 60\nstyle = \"hasty\"\n"));
    EXPECT_EQ(bad.error().where.key, "brief.style");
}
