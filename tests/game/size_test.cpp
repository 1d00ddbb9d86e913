// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/game/size.h>

using namespace impasto;
using namespace impasto::game;

namespace {

const Size& named(const std::vector<Size>& sizes, const std::string& name) {
    const auto it = std::find_if(sizes.begin(), sizes.end(), [&](const Size& size) { return size.name == name; });
    EXPECT_NE(it, sizes.end()) << name;
    return *it;
}

} // namespace

TEST(SizeTest, OneSettingAtATimeDepartsFromFullSize) {
    const auto game = support::gameNamed("rainmarket.toml");
    const auto sizes = sizesOf(game, game.presets.front().values);
    for (const auto& size : sizes)
        EXPECT_TRUE(size.levels.at("render_scale") == "100%" || size.levels.at("upscaling") == "off") << size.name;
    EXPECT_EQ(named(sizes, "67%").upscaler, UpscalerKind::Engine);
    EXPECT_EQ(named(sizes, "67%").setting, "render_scale");
    EXPECT_EQ(named(sizes, "learned 1.5").upscaler, UpscalerKind::Learned);
    EXPECT_EQ(named(sizes, "learned 1.5").setting, "upscaling");
    EXPECT_NEAR(named(sizes, "learned 1.5").scale, 0.6667, 1e-9);
    EXPECT_FALSE(named(sizes, "100%").upscaler);
    EXPECT_EQ(std::count_if(sizes.begin(), sizes.end(), [](const Size& size) { return size.scale == 1; }), 1)
        << "full size stands once";
}

TEST(SizeTest, WhatIsPlayedNowIsAmongThem) {
    const auto game = support::gameNamed("rainmarket.toml");
    auto values = game.presets.front().values;
    const auto before = sizesOf(game, values).size();
    values["render_scale"] = "77%";
    values["upscaling"] = "temporal 1.3";
    const auto sizes = sizesOf(game, values);
    ASSERT_EQ(sizes.size(), before + 1);
    EXPECT_NEAR(sizes.back().scale, 0.77 * 0.7692, 1e-9);
    EXPECT_EQ(sizes.back().upscaler, UpscalerKind::Temporal);
    EXPECT_EQ(sizes.back().name, "77% + temporal 1.3");
}

TEST(SizeTest, WithoutSuchASettingThereIsFullSize) {
    EXPECT_EQ(sizesOf({}, {}), std::vector<Size>{Size{}});
}

TEST(SizeTest, LevelsOfOneSettingStandInTheirOrder) {
    const auto game = support::saltmarsh();
    const auto sizes = sizesOf(game, game.presets.front().values);
    const auto& levels = game.setting("render_scale")->levels;
    ASSERT_EQ(sizes.size(), levels.size());
    for (std::size_t i = 0; i < sizes.size(); ++i) EXPECT_EQ(sizes[i].name, levels[i].name);
}

TEST(SizeTest, ALevelSaysWhatItIs) {
    const auto level = upscaledLevel("temporal 1.5");
    ASSERT_TRUE(level);
    EXPECT_EQ(level->upscaler, UpscalerKind::Temporal);
    EXPECT_NEAR(*level->scale, 1 / 1.5, 1e-12);
    for (const char* other : {"temporal", "temporal 0.5", "temporal 5", "magic 1.5", "1.5", "", "temporal x", " 2"})
        EXPECT_FALSE(upscaledLevel(other)) << other;
    // More pixels show more, and at the same size what was learned shows most.
    for (const auto kind : {UpscalerKind::Spatial, UpscalerKind::Temporal, UpscalerKind::Learned, UpscalerKind::Engine})
        EXPECT_GT(upscaledLevel(kind, 1.3).picture, upscaledLevel(kind, 1.5).picture);
    EXPECT_GT(upscaledLevel(UpscalerKind::Learned, 2).picture, upscaledLevel(UpscalerKind::Temporal, 2).picture);
    EXPECT_GT(upscaledLevel(UpscalerKind::Temporal, 2).picture, upscaledLevel(UpscalerKind::Spatial, 2).picture);
}

TEST(SizeTest, TypedLevelsAreUnderstood) {
    Setting own;
    own.levels = levelsNamed(own, {"temporal 2.0", "temporal 1.5", "off"});
    ASSERT_TRUE(own.changesSize());
    EXPECT_EQ(own.levels[0].scale, 0.5);
    EXPECT_EQ(own.levels[2].scale, 1) << "as it is played without";
    EXPECT_EQ(own.levels[2].picture, 1);
    EXPECT_FALSE(own.levels[2].upscaler);
    own.levels = levelsNamed(own, {"temporal 2.0", "learned 1.5", "off"});
    EXPECT_EQ(own.levels[1].upscaler, UpscalerKind::Learned) << "another name, another meaning";
    own.levels = levelsNamed(own, {"rough", "learned 1.5", "off"});
    EXPECT_EQ(own.levels[0].scale, 0.5) << "as many as before: the one in its place";
    EXPECT_EQ(own.levels[0].upscaler, UpscalerKind::Temporal);

    Setting scale{"render_scale", "Render scale", 2, false, true, false, {{"50%", 0.5, 0.5}, {"100%", 1, 1.0}}};
    scale.levels = levelsNamed(scale, {"50%", "75%", "100%"});
    EXPECT_EQ(scale.levels[1].scale, 0.75);
    EXPECT_EQ(scale.levels[0].picture, 0.5) << "what was known";
    EXPECT_GT(scale.levels[1].picture, 0.7);
    Setting distance{"far", "Distance", 2, true, true, false, {{"50%", 0, {}}, {"100%", 1, {}}}};
    distance.levels = levelsNamed(distance, {"50%", "75%", "100%"});
    EXPECT_FALSE(distance.changesSize()) << "a percentage of something else";
    EXPECT_EQ(distance.levels[1].picture, 0.5);
}

TEST(SizeTest, EverySizeOfTheOutputHasEveryRatio) {
    const auto game = support::gameNamed("peat-barge.toml");
    const auto sizes = sizesOf(game, game.presets.front().values);
    EXPECT_EQ(sizes.size(), 9U);
    EXPECT_EQ(named(sizes, "2560x1440").scale, 1);
    const auto& small = named(sizes, "1920x1080");
    EXPECT_NEAR(small.scale, 0.75, 1e-12);
    EXPECT_EQ(small.output, small.scale);
    EXPECT_FALSE(small.upscaler) << "the panel stretches it";
    EXPECT_EQ(small.setting, "resolution");
    const auto& both = named(sizes, "1920x1080 + temporal 1.5");
    EXPECT_NEAR(both.scale, 0.75 * 0.6667, 1e-12);
    EXPECT_NEAR(both.output, 0.75, 1e-12);
    EXPECT_EQ(both.upscaler, UpscalerKind::Temporal);
    EXPECT_EQ(outputOf(game, both.levels), (display::Resolution{1920, 1080}));
    EXPECT_EQ(fullOutputOf(game), (display::Resolution{2560, 1440}));
    EXPECT_FALSE(fullOutputOf(support::saltmarsh()));
    EXPECT_GT(game.setting("resolution")->levels[1].picture, game.setting("resolution")->levels[0].picture);
    EXPECT_EQ(game.setting("resolution")->levels[2].picture, 1);
}

TEST(SizeTest, TypedResolutionsAreSizesOfTheOutput) {
    Setting own;
    own = *withLevels(own, "2560x1440, 1280x720, 1920x1080");
    ASSERT_TRUE(own.output && !own.unordered);
    EXPECT_EQ(own.levels.front().name, "1280x720") << "the smallest first";
    EXPECT_EQ(own.levels.front().scale, 0.5);
    EXPECT_TRUE(withLevels({}, "1920 \xC3\x97 1080, 2560 \xC3\x97 1440")->output) << "as a menu writes it";
    own.levels[1].picture = 0.77;
    own.levels[1].written = "1";
    own = *withLevels(own, "1920x1080, 2560x1440");
    EXPECT_EQ(own.levels[0].picture, 0.77) << "as it was said";
    EXPECT_EQ(own.levels[0].written, "1");
    own = *withLevels(own, "low, high");
    EXPECT_FALSE(own.output || own.changesSize());
    EXPECT_EQ(own.levels[0].picture, 0) << "nothing of the outputs stays";
    for (const char* text : {"512x512, 1024x1024", "1080x1920, 1440x2560", "1920x1080, high"})
        EXPECT_FALSE(withLevels({}, text)->output) << text << " may be shadow maps, or a picture on its side";
    EXPECT_FALSE(withLevels({}, "1920x1080, 1080p wide")->output);
    EXPECT_FALSE(withLevels({}, "1600x900, 1440x1000")) << "as many pixels: neither is the larger one";
    EXPECT_FALSE(
        withLevels({}, "640x360, 800x450, 960x540, 1280x720, 1600x900, 1920x1080, 2560x1440, 3200x1800, 3840x2160")
            ->output)
        << "too many to try each with every ratio";
}

TEST(SizeTest, WaysToRunAreTypedAndReadWithoutAnOrder) {
    Setting own;
    own = *withLevels(own, "one of old, new");
    ASSERT_TRUE(own.unordered);
    for (const auto& level : own.levels) EXPECT_EQ(level.picture, 1);
    EXPECT_EQ(own.pictureWeight(), 0) << "they show the same";
    own.levels[0].picture = 0.8;
    EXPECT_EQ(own.pictureWeight(), own.weight);
    own = *withLevels(own, "one of old, new, third");
    EXPECT_EQ(own.levels[0].picture, 0.8);
    own = *withLevels(own, "old, new");
    EXPECT_FALSE(own.unordered);
    EXPECT_EQ(own.levels[0].picture, 0) << "an order says what shows more";
    EXPECT_FALSE(withLevels(own, "one of old"));

    const auto game = support::gameNamed("peat-barge.toml");
    auto values = game.presets.front().values;
    const double before = pictureValue(game, values);
    values["renderer"] = "newer";
    EXPECT_EQ(pictureValue(game, values), before);
    const auto again = parseGame(toToml(game), "again");
    ASSERT_TRUE(again.has_value());
    EXPECT_EQ(again->settings, game.settings);
}

TEST(SizeTest, DescriptionsOfOutputsAndWaysThatCannotBeAreRefused) {
    const auto text = [](const std::string& rest) { return "name = \"G\"\n[[setting]]\nid = \"a\"\n" + rest + "\n"; };
    for (const char* rest :
         {"output = true\nlevels = [\"low\", \"high\"]", "output = true\nlevels = [\"1920x1080\", \"1280x720\"]",
          "output = true\nlevels = [\"1280x720\", \"1920x1080\"]\nscale = [0.5, 1.0]",
          "output = true\nunordered = true\nlevels = [\"1280x720\", \"1920x1080\"]",
          "unordered = true\nlevels = [\"a\", \"b\"]\nscale = [0.5, 1.0]",
          "output = true\nlevels = [\"1280x720\", \"1920x1080\"]\n[[setting]]\nid = \"b\"\noutput = true\nlevels = "
          "[\"1280x720\", \"1920x1080\"]"}) {
        const auto read = parseGame(text(rest), "own.toml");
        ASSERT_FALSE(read.has_value()) << rest;
        EXPECT_EQ(read.error().code, ErrorCode::BadValue) << rest;
    }
    EXPECT_TRUE(parseGame(text("output = true\nlevels = [\"1280x720\", \"1920x1080\"]"), "own.toml").has_value());
}
