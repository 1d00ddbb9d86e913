// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>

#include <fcntl.h>
#include <fstream>
#include <impasto/base/file.h>
#include <impasto/config/files.h>
#include <sys/stat.h>

#include "support/support.h"

namespace impasto::config {
namespace {

namespace fs = std::filesystem;

class ConfigFiles : public ::testing::Test {
  protected:
    void SetUp() override {
        fs::create_directories(home / "conf");
        put("conf/a.ini", "[g]\nshadows=2\nfog=on\n");
        put("conf/b.json", "{\"scale\": 0.5}");
        const auto parsed = game::parseGame(R"(
name = "Saltmarsh Courier"
[[config]]
id = "a"
format = "ini"
path = "~/conf/a.ini"
[[config]]
id = "b"
format = "json"
path = "~/conf/b.json"
[[config]]
id = "start"
format = "command"
[[setting]]
id = "shadows"
levels = ["low", "medium", "high"]
config = "a"
key = "g/shadows"
written = ["0", "1", "2"]
[[setting]]
id = "fog"
levels = ["off", "on"]
config = "a"
key = "g/fog"
[[setting]]
id = "scale"
levels = ["50%", "100%"]
scale = [0.5, 1]
config = "b"
key = "/scale"
written = ["0.5", "1"]
[[setting]]
id = "reeds"
levels = ["few", "many"]
config = "start"
key = "-reeds"
[[setting]]
id = "water"
levels = ["low", "high"]
)",
                                            "game.toml");
        ASSERT_TRUE(parsed) << parsed.error().what;
        game = *parsed;
        values = {{"shadows", "low"}, {"fog", "on"}, {"scale", "100%"}, {"reeds", "few"}, {"water", "low"}};
    }
    void put(const std::string& name, const std::string& text) const { std::ofstream(home / name) << text; }
    [[nodiscard]] std::string textOf(const std::string& name) const { return *readFile(home / name); }
    [[nodiscard]] std::size_t filesInFolder() const {
        return static_cast<std::size_t>(std::distance(fs::directory_iterator(home / "conf"), fs::directory_iterator()));
    }

    support::TemporaryFolder folder;
    const fs::path& home = folder.root();
    game::Game game;
    game::Values values;
};

TEST_F(ConfigFiles, PlanWriteAndTakeBack) {
    EXPECT_EQ(game::parseGame(game::toToml(game), "again.toml")->configs, game.configs);
    EXPECT_EQ(game::parseGame(game::toToml(game), "again.toml")->settings, game.settings);
    EXPECT_EQ(valuesInFiles(game, home), (game::Values{{"shadows", "high"}, {"fog", "on"}, {"scale", "50%"}}));
    const auto plan = planOf(game, values, home);
    ASSERT_TRUE(plan) << plan.error().what;
    ASSERT_EQ(plan->files.size(), 2u);
    EXPECT_EQ(plan->alike, 1u); // fog
    EXPECT_EQ(plan->unplaced, std::vector<std::string>{"water"});
    ASSERT_EQ(plan->byHand.size(), 1u);
    EXPECT_EQ(plan->byHand[0].text, "-reeds few");
    EXPECT_EQ(textOf("conf/a.ini"), "[g]\nshadows=2\nfog=on\n") << "a plan writes nothing";
    ::chmod((home / "conf/a.ini").c_str(), 0640);
    const auto written = write(*plan);
    ASSERT_TRUE(written);
    EXPECT_EQ(textOf("conf/a.ini"), "[g]\nshadows=0\nfog=on\n");
    EXPECT_EQ(textOf("conf/b.json"), "{\"scale\": 1}");
    EXPECT_EQ(textOf("conf/a.ini.before-1"), "[g]\nshadows=2\nfog=on\n");
    struct stat info {};
    ::stat((home / "conf/a.ini").c_str(), &info);
    EXPECT_EQ(info.st_mode & 0777U, 0640U);
    EXPECT_EQ(valuesInFiles(game, home), (game::Values{{"shadows", "low"}, {"fog", "on"}, {"scale", "100%"}}));
    ASSERT_TRUE(takeBack(*written));
    EXPECT_EQ(textOf("conf/a.ini"), "[g]\nshadows=2\nfog=on\n");
    EXPECT_EQ(textOf("conf/b.json"), "{\"scale\": 0.5}");
    // Once more: the first copy is never written over.
    put("conf/a.ini", "[g]\nshadows=1\nfog=on\n");
    ASSERT_TRUE(write(*planOf(game, values, home)));
    EXPECT_EQ(textOf("conf/a.ini.before-1"), "[g]\nshadows=2\nfog=on\n");
    EXPECT_EQ(textOf("conf/a.ini.before-2"), "[g]\nshadows=1\nfog=on\n");
}

TEST_F(ConfigFiles, ChangedMeanwhileIsNotWrittenOver) {
    const auto plan = planOf(game, values, home);
    put("conf/b.json", "{\"scale\": 0.7}");
    const auto files = filesInFolder();
    const auto written = write(*plan);
    ASSERT_FALSE(written);
    EXPECT_EQ(written.error().code, ErrorCode::ChangedMeanwhile);
    EXPECT_EQ(written.error().where.file, (home / "conf/b.json").string());
    EXPECT_EQ(textOf("conf/a.ini"), "[g]\nshadows=2\nfog=on\n") << "all files or none";
    EXPECT_EQ(textOf("conf/b.json"), "{\"scale\": 0.7}");
    EXPECT_EQ(filesInFolder(), files) << "no copy of what was not changed";
    put("conf/b.json", "{\"scale\": 0.5}");
    const auto done = write(*planOf(game, values, home));
    put("conf/a.ini", "[g]\nshadows=1\nfog=on\n");
    EXPECT_EQ(takeBack(*done).error().code, ErrorCode::ChangedMeanwhile);
    EXPECT_EQ(textOf("conf/a.ini"), "[g]\nshadows=1\nfog=on\n");
}

TEST_F(ConfigFiles, FilesThatCannotBeChanged) {
    const auto planned = [this] { return planOf(game, values, home).error(); };
    ::chmod((home / "conf/a.ini").c_str(), 0444);
    EXPECT_EQ(planned().code, ErrorCode::CannotWrite);
    fs::remove(home / "conf/a.ini");
    EXPECT_EQ(planned().code, ErrorCode::CannotRead);
    EXPECT_EQ(planned().where.file, (home / "conf/a.ini").string());
    fs::create_directory(home / "conf/a.ini");
    EXPECT_EQ(planned().code, ErrorCode::CannotRead);
    fs::remove(home / "conf/a.ini");
    ::mkfifo((home / "conf/a.ini").c_str(), 0600);
    EXPECT_EQ(planned().code, ErrorCode::CannotRead);
    fs::remove(home / "conf/a.ini");
    put("outside.ini", "[g]\nshadows=2\nfog=on\n");
    fs::create_symlink(home / "outside.ini", home / "conf/a.ini");
    EXPECT_EQ(planned().code, ErrorCode::LinkedElsewhere);
    EXPECT_EQ(textOf("outside.ini"), "[g]\nshadows=2\nfog=on\n");
    fs::remove(home / "conf/a.ini");
    put("conf/real.ini", "[g]\nshadows=2\nfog=on\n");
    fs::create_symlink("real.ini", home / "conf/a.ini");
    ASSERT_TRUE(write(*planOf(game, values, home)));
    EXPECT_TRUE(fs::is_symlink(home / "conf/a.ini")) << "the link stays, its file is changed";
    EXPECT_EQ(textOf("conf/real.ini"), "[g]\nshadows=0\nfog=on\n");
    put("conf/real.ini", "[g]\nfog=on\n");
    EXPECT_EQ(planned().code, ErrorCode::NotInFile);
    EXPECT_EQ(planned().where.file, (home / "conf/real.ini").string());
}

TEST_F(ConfigFiles, VanishedBetweenLookAndWrite) {
    const auto plan = planOf(game, values, home);
    fs::remove(home / "conf/b.json");
    EXPECT_EQ(write(*plan).error().code, ErrorCode::CannotRead);
    EXPECT_EQ(textOf("conf/a.ini"), "[g]\nshadows=2\nfog=on\n");
}

TEST_F(ConfigFiles, DescriptionsWithFaults) {
    const auto code = [](const std::string& text) {
        const auto parsed = game::parseGame("name = \"x\"\n" + text, "g.toml");
        return parsed ? ErrorCode::Cancelled : parsed.error().code;
    };
    const std::string setting = "[[setting]]\nid = \"a\"\nlevels = [\"x\", \"y\"]\n";
    EXPECT_EQ(code("[[config]]\nformat = \"ini\"\npath = \"rel.ini\"\n" + setting), ErrorCode::BadValue);
    EXPECT_EQ(code("[[config]]\nformat = \"yaml\"\npath = \"/a\"\n" + setting), ErrorCode::BadValue);
    EXPECT_EQ(code("[[config]]\nformat = \"ini\"\n" + setting), ErrorCode::MissingKey);
    EXPECT_EQ(code(setting + "key = \"g/a\"\nconfig = \"b\"\n"), ErrorCode::UnknownName);
    EXPECT_EQ(code("[[config]]\nformat = \"ini\"\npath = \"/a\"\n" + setting + "key = \"g/a\"\nwritten = [\"1\"]\n"),
              ErrorCode::BadValue);
    EXPECT_EQ(code("[[config]]\nformat = \"ini\"\npath = \"/a\"\n" + setting + "key = \"g/a\"\n"), ErrorCode::Cancelled)
        << "the one config needs no name";
}

} // namespace
} // namespace impasto::config
