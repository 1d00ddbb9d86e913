// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

using namespace impasto;
using namespace impasto::game;

TEST(GameTest, ShippedGamesParseAndWriteBackEqual) {
    std::size_t games = 0;
    for (const auto& entry : std::filesystem::directory_iterator(support::dataFile("games"))) {
        ++games;
        const std::string file = entry.path().filename().string();
        const Game g = support::gameNamed(file);
        const auto back = parseGame(toToml(g), "again");
        ASSERT_TRUE(back.has_value()) << file << wording::error(wording::Words(), back.error()).all();
        EXPECT_EQ(back->settings, g.settings) << file;
        EXPECT_EQ(back->presets, g.presets) << file;
        EXPECT_EQ(back->rules, g.rules) << file;
        EXPECT_EQ(back->routes, g.routes) << file;
        EXPECT_EQ(back->upscalers, g.upscalers) << file;
        EXPECT_EQ(back->generatesFrames, g.generatesFrames) << file;
    }
    EXPECT_EQ(games, 6U);
}

TEST(GameTest, APresetMayRestOnAnother) {
    const Game g = support::gameNamed("rainmarket.toml");
    EXPECT_EQ(g.preset("low")->values.at("render_scale"), "77%");
    EXPECT_EQ(g.preset("low")->values.at("texture_filter"), "4x");
    EXPECT_EQ(g.preset("medium")->values.at("texture_filter"), "16x") << "from the one it rests on";
    EXPECT_EQ(g.preset("traced")->values.at("crowd"), "many");
}

TEST(GameTest, TheUsualSettingsParse) {
    const auto usual = parseGame(support::textOf(support::dataFile("usual_settings.toml")), "usual");
    ASSERT_TRUE(usual.has_value());
    EXPECT_GE(usual->settings.size(), 8U);
    EXPECT_EQ(usual->presets.front().name, "as now");
}

TEST(GameTest, FaultsNameTheLineAndKey) {
    struct Case {
        const char* text;
        ErrorCode code;
        const char* key;
    };
    const std::string setting = "[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\n";
    const Case cases[] = {
        {"name = \"x\"\n", ErrorCode::MissingKey, "setting"},
        {"name = \"x\"\n[[setting]]\nid = \"Bad Id\"\nlevels = [\"a\", \"b\"]\n", ErrorCode::BadValue, "setting[0].id"},
        {"name = \"x\"\n[[setting]]\nid = \"s\"\nlevels = [\"a\"]\n", ErrorCode::BadValue, "setting[0].levels"},
        {"name = \"x\"\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"a\"]\n", ErrorCode::DuplicateName,
         "setting[0].levels"},
        {"name = \"x\"\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\npicture = [0.5]\n", ErrorCode::BadValue,
         "setting[0].picture"},
        {"name = \"x\"\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\nweight = 900\n", ErrorCode::OutOfRange,
         "setting[0].weight"},
        {"name = \"x\"\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\npays = [\"moon\"]\n", ErrorCode::BadValue,
         "setting[0].pays"},
        {"name = \"x\"\npresets = [\"p\"]\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\n[preset.p]\ns = \"c\"\n",
         ErrorCode::UnknownName, "preset.p.s"},
        {"name = \"x\"\npresets = [\"p\"]\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\n", ErrorCode::MissingKey,
         "preset.p.s"},
        {"name = \"x\"\npresets = [\"p\"]\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\n[preset.p]\nrests_on = "
         "\"q\"\n[preset.q]\nrests_on = \"r\"\n[preset.r]\nrests_on = \"q\"\n",
         ErrorCode::BadValue, "preset.r.rests_on"},
        {"name = \"x\"\npresets = [\"p\"]\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\n[preset.p]\nrests_on = "
         "\"p\"\n",
         ErrorCode::BadValue, "preset.p.rests_on"},
        {"name = \"x\"\npresets = [\"p\"]\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\n[preset.p]\nrests_on = "
         "\"high\"\n",
         ErrorCode::UnknownName, "preset.p.rests_on"},
        {"name = \"x\"\nupscalers = [\"magic\"]\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\n",
         ErrorCode::BadValue, "upscalers"},
        {"name = \"x\"\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\nscale = [0.5, 1]\nupscaler = [\"magic\", "
         "\"none\"]\n",
         ErrorCode::UnknownName, "setting[0].upscaler"},
        {"name = \"x\"\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\nupscaler = [\"spatial\", \"none\"]\n",
         ErrorCode::BadValue, "setting[0].upscaler"},
        {"name = \"x\"\ngenerates_frames = 1\n[[setting]]\nid = \"s\"\nlevels = [\"a\", \"b\"]\n", ErrorCode::BadValue,
         "generates_frames"},
    };
    for (const auto& c : cases) {
        const auto bad = parseGame(c.text, "g.toml");
        ASSERT_FALSE(bad.has_value()) << c.text;
        EXPECT_EQ(static_cast<int>(bad.error().code), static_cast<int>(c.code)) << c.text;
        EXPECT_EQ(bad.error().where.key, c.key) << c.text;
        EXPECT_EQ(bad.error().where.file, "g.toml");
    }
}

TEST(GameTest, PictureIsAWeightedMean) {
    const Game g = support::smallGame();
    EXPECT_DOUBLE_EQ(pictureValue(g, {{"heavy", "high"}, {"crowd", "many"}, {"taste", "off"}}), 1.0);
    EXPECT_DOUBLE_EQ(pictureValue(g, {{"heavy", "low"}, {"crowd", "many"}}), (2 * 0.5 + 1) / 3);
    EXPECT_FALSE(checkValues(g, {{"heavy", "none"}}).has_value());
    EXPECT_EQ(checkValues(g, {{"nothing", "low"}}).error().where.key, "nothing");
}
