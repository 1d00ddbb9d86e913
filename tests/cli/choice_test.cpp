// SPDX-License-Identifier: GPL-3.0-or-later
// From logs and a table of what they were played with, or figures read off, to a choice and into the game's files.
#include "cli/outcome.h"

#include <cstdlib>
#include <impasto/logbook/logbook.h>
#include <nlohmann/json.hpp>

using namespace impasto;
using namespace impasto::support;

namespace {

const std::string& gameFile() {
    static const std::string file = dataFile("games/saltmarsh-courier.toml").string();
    return file;
}

/// Figures of a counter for a handful of sets: the more is lowered, the faster.
std::string tableOfFigures() {
    return "[[run]]\npreset = \"high\"\naverage_fps = 62\nleast_fps = 50\nmost_fps = 80\n"
           "[[run]]\naverage_fps = 84\nleast_fps = 70\nmost_fps = 100\nvalues = { render_scale = \"67%\" }\n"
           "[[run]]\naverage_fps = 70\nleast_fps = 58\nmost_fps = 90\nvalues = { shadows = \"low\", reeds = \"sparse\" "
           "}\n";
}

nlohmann::json jsonOf(const Outcome& outcome) {
    EXPECT_EQ(outcome.code, 0) << outcome.err;
    return nlohmann::json::parse(outcome.out, nullptr, false);
}

} // namespace

TEST(CliChoiceTest, FromFiguresThatWereReadOff) {
    const TemporaryFolder folder;
    const auto table = folder.write("runs.toml", tableOfFigures());
    const auto from = fmt::format(" --game {} --runs {} --target 60", gameFile(), table.string());
    const auto choice = jsonOf(cli("choose --json" + from));
    EXPECT_EQ(choice["schema"], 1);
    EXPECT_GT(choice["choice"]["picture_share"].get<double>(), 0.6);
    for (const auto& lane : choice["choice"]["lanes"])
        EXPECT_LE(lane["predicted_ms"].get<double>() + lane["margin_ms"].get<double>(),
                  1.001 * lane["safe_limit_ms"].get<double>());
    const auto fit = jsonOf(cli("fit --json" + from));
    EXPECT_TRUE(fit["measuring"]["frame_times_only"].get<bool>());
    EXPECT_EQ(fit["baseline"]["shadows"], "high");
    const auto front = jsonOf(cli("front --json" + from));
    ASSERT_GT(front["front"].size(), 3U);
    EXPECT_EQ(front["presets"].size(), 3U);
    for (std::size_t i = 1; i < front["front"].size(); ++i) {
        EXPECT_GT(front["front"][i]["holds_fps"], front["front"][i - 1]["holds_fps"]);
        EXPECT_LT(front["front"][i]["picture_share"], front["front"][i - 1]["picture_share"]);
    }
    const auto plan = jsonOf(cli("plan --json" + from));
    EXPECT_EQ(plan["measuring"]["test_runs"], 2);
    EXPECT_TRUE(plan["measuring"]["next"].is_object());
    EXPECT_GT(jsonOf(cli("ways --json" + from))["ways"].size(), 1U);
    const auto why = jsonOf(cli("why-not --json --setting shadows --level ultra" + from));
    EXPECT_EQ(why["to"], "ultra");
    EXPECT_EQ(why["swapped"]["values"]["shadows"], "ultra");
    const auto locked = jsonOf(cli("why-not --json --setting shadows --level ultra --lock shadows=low" + from));
    EXPECT_EQ(locked["barred"], "locked");
    for (const char* command : {"plan", "fit", "choose", "front", "ways", "why-not --setting fog --level off"})
        EXPECT_FALSE(cli(command + from).out.empty()) << command;
}

TEST(CliChoiceTest, FromLogsAsTheyWerePlayed) {
    const TemporaryFolder folder;
    const auto machine = dataFile("machines/thornbury-tower.toml").string();
    const auto simulate = [&](const std::string& more, const std::string& name) {
        const auto made = cli(fmt::format("simulate --machine {} --game {} {} -o {}", machine, gameFile(), more,
                                          folder.path(name).string()));
        EXPECT_EQ(made.code, 0) << made.err;
    };
    simulate("--seed 1", "base.csv");
    simulate("--seed 2 --set render_scale=50% --set shadows=low", "t1.csv");
    const auto table = folder.write("runs.toml", "[[run]]\nlog = \"base.csv\"\n[[run]]\nlog = \"t1.csv\"\nvalues = { "
                                                 "render_scale = \"50%\", shadows = \"low\" }\n");
    const auto fit = jsonOf(cli(
        fmt::format("fit --json --game {} --machine {} --runs {} --target 60", gameFile(), machine, table.string())));
    EXPECT_FALSE(fit["measuring"]["frame_times_only"].get<bool>());
    bool gpu = false;
    for (const auto& cost : fit["costs"])
        if (cost["lane"] == "gpu" && cost["setting"] == "render_scale" && cost["level"] == "50%") {
            gpu = true;
            EXPECT_LT(cost["difference_ms"].get<double>(), -2);
        }
    EXPECT_TRUE(gpu);
    const auto from = fmt::format(" --game {} --machine {} --runs {} --target 60", gameFile(), machine, table.string());
    const auto front = jsonOf(cli("front --json" + from));
    double before = 0; // what shows less draws no more
    for (auto i = front["front"].size(); i-- > 0;) {
        const auto& watts = front["front"][i]["power_w"];
        EXPECT_LT(watts["low"].get<double>(), watts["high"].get<double>());
        EXPECT_GE(watts["middle"].get<double>(), 0.9 * before) << "by the mean work, and not the worst part";
        before = watts["middle"].get<double>();
    }
    EXPECT_GT(before, 20);
    EXPECT_TRUE(front["presets"][0]["battery_h"].is_null()) << "a tower";
    EXPECT_NE(cli("front" + from).out.find(" W "), std::string::npos);
}

TEST(CliChoiceTest, FaultsNameFileLineAndKey) {
    const TemporaryFolder folder;
    const auto failing = [&](const std::string& text, const std::string& more = " --target 60") {
        const auto table = folder.write("runs.toml", text);
        const auto outcome = cli(fmt::format("choose --game {} --runs {}{}", gameFile(), table.string(), more));
        EXPECT_EQ(outcome.code, 1);
        EXPECT_TRUE(outcome.out.empty()) << outcome.out;
        return outcome.err;
    };
    EXPECT_NE(failing("").find("run is missing"), std::string::npos);
    EXPECT_NE(failing("[[run]]\naverage_fps = 60\nvalues = { shadow = \"low\" }\n").find("\"shadow\""),
              std::string::npos);
    EXPECT_NE(failing("[[run]]\naverage_fps = 60\nvalues = { shadows = \"lowest\" }\n").find("line 3"),
              std::string::npos);
    EXPECT_NE(failing("[[run]]\naverage_fps = 60\nleast_fps = 70\n").find("least_fps"), std::string::npos);
    EXPECT_NE(failing("[[run]]\nlog = \"none.csv\"\n").find("none.csv"), std::string::npos);
    EXPECT_NE(failing("[[run]]\naverage_fps = 60\n", "").find("--target"), std::string::npos);
    EXPECT_NE(failing("[[run]]\naverage_fps = 60\n", " --target 60 --lock shadows").find("setting=level"),
              std::string::npos);
    EXPECT_NE(failing("[[run]]\naverage_fps = 20\n", " --target 400").find("No combination"), std::string::npos);
    EXPECT_EQ(cli("choose --target 60").code, 1);
}

TEST(CliChoiceTest, ASessionOfALogbookAndItsFiles) {
    const TemporaryFolder folder;
    const auto config = folder.write("settings.ini", "[v]\nshadows=2\nfog=1 ; kept\n");
    const auto game =
        folder.write("game.toml", "name = \"Post Boat\"\n[[config]]\nformat = \"ini\"\npath = \"" + config.string() +
                                      "\"\n[[setting]]\nid = \"shadows\"\nlevels = [\"low\", \"high\"]\nkey = "
                                      "\"v/shadows\"\nwritten = [\"0\", \"2\"]\n"
                                      "[[setting]]\nid = \"fog\"\nlevels = [\"off\", \"on\"]\n");
    const auto dry =
        jsonOf(cli(fmt::format("apply --game {} --set shadows=low --set fog=off --dry-run --json", game.string())));
    EXPECT_EQ(dry["files"][0]["changes"][0]["from"], "2");
    EXPECT_TRUE(dry["files"][0]["copy"].is_null());
    EXPECT_EQ(dry["in_the_menu"][0], "fog");
    EXPECT_EQ(textOf(config), "[v]\nshadows=2\nfog=1 ; kept\n");
    const auto done = jsonOf(cli(fmt::format("apply --game {} --set shadows=low --json", game.string())));
    EXPECT_EQ(textOf(config), "[v]\nshadows=0\nfog=1 ; kept\n");
    EXPECT_EQ(textOf(done["files"][0]["copy"].get<std::string>()), "[v]\nshadows=2\nfog=1 ; kept\n");
    EXPECT_NE(
        cli(fmt::format("apply --game {} --set shadows=low", game.string())).out.find("No value in a file changes"),
        std::string::npos);
    EXPECT_EQ(cli(fmt::format("apply --game {} --set shadows=none", game.string())).code, 1);
    // A whole session, stored, is asked the same questions.
    const auto book = folder.path("book.impasto");
    {
        auto logbook = logbook::Logbook::open(book);
        ASSERT_TRUE(logbook.has_value());
        Walk walk = walkedDemo(path::Action::ChooseCap);
        const auto change = logbook::Logbook::wholeOf(walk.store);
        auto words = logbook::Logbook::wordsOf(change, walk.store, originals());
        words.whole = true;
        words.stepsFrom = 0;
        ASSERT_TRUE((*logbook)->store(change, words, 1780000000).has_value());
    }
    const auto choice = jsonOf(cli(fmt::format("choose --json --logbook {}", book.string())));
    EXPECT_EQ(choice["game"], "Saltmarsh Courier");
    EXPECT_EQ(choice["target_fps"], 60);
    const auto other =
        jsonOf(cli(fmt::format("choose --json --logbook {} --session 'Saltmarsh Courier' --target 80", book.string())));
    EXPECT_LT(other["choice"]["picture_share"], choice["choice"]["picture_share"]);
    EXPECT_EQ(cli(fmt::format("choose --logbook {} --session nobody", book.string())).code, 1);
    EXPECT_EQ(jsonOf(cli(fmt::format("apply --dry-run --json --logbook {}", book.string())))["files"].size(), 0U);
}

TEST(CliChoiceTest, AnswersBecomeWeights) {
    const TemporaryFolder folder;
    const auto out = folder.path("weighed.toml");
    const auto before = jsonOf(cli("matters --json --game " + gameFile()));
    ASSERT_TRUE(before["next"].is_array());
    const auto a = before["next"][0].get<std::string>(), b = before["next"][1].get<std::string>();
    const auto weightIn = [](const nlohmann::json& j, const std::string& id) {
        for (const auto& each : j["weights"])
            if (each["setting"] == id) return each["weight"].get<double>();
        return 0.0;
    };
    const auto after =
        jsonOf(cli(fmt::format("matters --json --game {} --missed {}:{} -o {}", gameFile(), b, a, out.string())));
    EXPECT_GT(weightIn(after, b), weightIn(before, b));
    EXPECT_LT(weightIn(after, a), weightIn(before, a));
    const auto again = jsonOf(cli("matters --json --game " + out.string())); // the description that was written
    EXPECT_NEAR(weightIn(again, b), weightIn(after, b), 0.006);
    EXPECT_EQ(cli(fmt::format("matters --game {} --missed {}:{} -o {}", gameFile(), b, a, out.string())).code, 1)
        << "what is there is kept";
    const auto unknown = cli(fmt::format("matters --game {} --missed {}:nothing", gameFile(), a));
    EXPECT_EQ(unknown.code, 1);
    EXPECT_NE(unknown.err.find("nothing"), std::string::npos);
    EXPECT_EQ(cli(fmt::format("matters --game {} --missed {}", gameFile(), a)).code, 1);
}

TEST(CliChoiceTest, TuningBeginsWithWhatASessionOfALogbookLearnt) {
    const TemporaryFolder folder;
    Walk walk = walkedDemo(path::Action::RecordCheck);
    ASSERT_TRUE(walk.store.apply(document::setName("Evening one")).has_value());
    const auto file = folder.path("log.impasto");
    {
        auto book = logbook::Logbook::open(file);
        ASSERT_TRUE(book.has_value());
        const auto change = logbook::Logbook::wholeOf(walk.store);
        auto words = logbook::Logbook::wordsOf(change, walk.store, originals());
        words.whole = true;
        words.stepsFrom = 0;
        ASSERT_TRUE((*book)->store(change, words, 0).has_value());
        (*book)->settle();
    }
    const auto arguments = [](const char* game) {
        return fmt::format("tune --machine {} --game {} --target 60 --seed 3 --json",
                           dataFile("machines/sedge-laptop.toml").string(), dataFile(game).string());
    };
    const auto tuned = cli(arguments("games/saltmarsh-courier.toml") + " --begin-with " + file.string());
    ASSERT_TRUE(tuned.code == 0 || tuned.code == 3) << tuned.err;
    const auto j = nlohmann::json::parse(tuned.out);
    EXPECT_EQ(j["measuring"]["earlier_runs"]["session"], "Evening one");
    EXPECT_GT(j["measuring"]["earlier_runs"]["runs"], 1);
    const auto other = cli(arguments("games/rainmarket.toml") + " --begin-with " + file.string());
    EXPECT_EQ(other.code, 1) << "of another game";
    EXPECT_NE(other.err.find("Rainmarket"), std::string::npos) << other.err;
    EXPECT_EQ(cli(arguments("games/saltmarsh-courier.toml") + " --begin-with /nowhere.impasto").code, 1);
}
