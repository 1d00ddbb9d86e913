// SPDX-License-Identifier: GPL-3.0-or-later
// The command line as a user meets it: results on stdout, errors on stderr, exit codes 0, 1 and 2.
#include "cli/outcome.h"

#include <impasto/logs/import.h>

using namespace impasto;
using namespace impasto::support;

namespace {

std::string demoArguments() {
    return fmt::format("--machine {} --game {}", dataFile("machines/thornbury-tower.toml").string(),
                       dataFile("games/tin-harbour.toml").string());
}

} // namespace

TEST(CliTest, HelpIsEverywhere) {
    for (const char* command : {"", "summarize", "compare", "limits", "machine", "simulate", "tune", "plan", "fit",
                                "choose", "front", "ways", "why-not", "apply", "rig", "rig draw", "rig describe"}) {
        const auto help = cli(std::string(command) + " --help");
        EXPECT_EQ(help.code, 0) << command;
        EXPECT_NE(help.out.find("--help"), std::string::npos) << command;
    }
}

TEST(CliTest, SimulateThenSummarize) {
    const TemporaryFolder folder;
    const auto file = folder.path("run.csv");
    const auto made =
        cli(fmt::format("simulate {} --set workers=few --cap 60 --seed 4 -o {}", demoArguments(), file.string()));
    ASSERT_EQ(made.code, 0) << made.err;
    const auto capture = logs::readLog(file);
    ASSERT_TRUE(capture.has_value());
    EXPECT_EQ(capture->notes.at("seed"), "4");
    EXPECT_NE(capture->notes.at("variant").find("workers=few"), std::string::npos);
    const auto text = cli(fmt::format("summarize {} --target 60 --school percentile", file.string()));
    EXPECT_EQ(text.code, 0);
    EXPECT_NE(text.out.find("lows: 99th percentile"), std::string::npos);
    const auto json = cli(fmt::format("summarize {} --target 60 --json", file.string()));
    for (const char* piece : {"\"schema\": 1", "\"own_doubt_95\": {", "\"capped-or-synced\"", "\"high\": "})
        EXPECT_NE(json.out.find(piece), std::string::npos) << piece;
    EXPECT_NE(text.out.find("look at                    capped or synced"), std::string::npos) << text.out;
    EXPECT_TRUE(json.err.empty());
}

TEST(CliTest, SimulateTakesAWholeOrder) {
    const TemporaryFolder folder;
    const auto pair = [](const char* machine, const char* game) {
        return fmt::format("--machine {} --game {} ", dataFile(fmt::format("machines/{}.toml", machine)).string(),
                           dataFile(fmt::format("games/{}.toml", game)).string());
    };
    const auto file = folder.path("run.csv").string();
    const auto simulated = [&](const std::string& arguments) {
        const auto made = cli("simulate " + arguments + " --force -o " + file);
        EXPECT_EQ(made.code, 0) << made.err;
        return *logs::readLog(file);
    };
    const auto two = simulated(pair("fenwick-duo", "rainmarket") +
                               "--preset medium --seconds 12 --cap 50 --limiter present --sync variable-tearing "
                               "--upscaler temporal --ratio 1.7 --sharpening 0.3 --generation external --multiplier 3 "
                               "--second-gpu --resolution 2560x1440 --seed 9");
    EXPECT_NEAR(capture::shownRate(two).value(), 150, 5);
    EXPECT_NE(cli("summarize " + file).out.find("shown, rendered or not"), std::string::npos);
    for (const char* piece :
         {"limiter=present", "upscaling.kind=temporal", "upscaling.ratio=1.7", "sharpening=0.3",
          "generation.kind=external", "generation.multiplier=3", "generation.second_gpu=true", "sync=variable-tearing"})
        EXPECT_NE(two.notes.at("variant").find(piece), std::string::npos) << two.notes.at("variant");
    const auto before = fileMark(file);
    const auto again = cli("simulate " + pair("fenwick-duo", "rainmarket") + "--seconds 5 --seed 10 -o " + file);
    EXPECT_EQ(again.code, 1) << "what is there is not written over";
    EXPECT_NE(again.err.find("--force"), std::string::npos) << again.err;
    EXPECT_EQ(fileMark(file), before);
    const auto quiet = simulated(pair("whinbush-laptop", "saltmarsh-courier") +
                                 "--fans quiet --plan saving --supply battery --warm-up 5 --seconds 10 --idle-cap 30");
    EXPECT_LE(*capture::trackMaximum(quiet, capture::Sensor::GpuClock), 60.1);
    const auto direct = simulated(pair("sedge-laptop", "lantern-orchard") + "--direct --fresh --seconds 10");
    const auto copied = simulated(pair("sedge-laptop", "lantern-orchard") + "--driver-updated --seconds 10");
    EXPECT_GT(direct.frames(), copied.frames());
    const auto pocket = simulated(pair("curlew-pocket", "tin-harbour") +
                                  "--refresh 70 --sync fixed --route \"Crane yard, five rounds\" --seconds 10");
    EXPECT_LE(capture::shownRate(pocket).value(), 70.5);
    for (const char* wrong :
         {"--refresh 75", "--preset none", "--route none", "--resolution big", "--direct", "--generation built-in"})
        EXPECT_EQ(cli("simulate " + pair("thornbury-tower", "tin-harbour") + wrong + " -o " + file).code, 1) << wrong;
    EXPECT_EQ(cli("simulate " + pair("thornbury-tower", "tin-harbour") + "--sync none-such -o " + file).code, 2);
}

TEST(CliTest, WhatIsNotKnownNotWrittenOrNotThereIsSaid) {
    const auto unknown = cli("frobnicate --json");
    EXPECT_EQ(unknown.code, 2);
    EXPECT_NE(unknown.err.find("frobnicate"), std::string::npos) << unknown.err;
    const auto log = testFile("logs/real-program-slow.csv").string();
    const auto full = cli("summarize " + log + " > /dev/full");
    EXPECT_EQ(full.code, 1);
    EXPECT_NE(full.err.find("stdout"), std::string::npos) << full.err;
    const auto file = cli("summarize " + log + " --json"), input = cli("summarize - --json < " + log);
    EXPECT_EQ(input.code, 0) << input.err;
    const auto figures = [](const std::string& json) {
        return json.substr(json.find("\"frames\""), json.find("\"name\"") - json.find("\"frames\""));
    };
    EXPECT_TRUE(!figures(file.out).empty() && figures(file.out) == figures(input.out));
    const auto nothing = cli("summarize - < /dev/null");
    EXPECT_EQ(nothing.code, 1);
    EXPECT_NE(nothing.err.find("stdin"), std::string::npos) << nothing.err;
    const auto longer = cli("simulate " + demoArguments() + " --seconds 3600 -o /dev/null");
    EXPECT_EQ(longer.code, 1) << "a route is played once";
    EXPECT_NE(longer.err.find("--seconds"), std::string::npos) << longer.err;
}

TEST(CliTest, AGuessIsPrintedAndCanBeCorrected) {
    const TemporaryFolder folder;
    std::string text; // no heading: the greater of two is taken for the frame, and said
    for (int i = 0; i < 300; ++i) text += fmt::format("16,{};33,{}\n", i % 9 + 1, i % 9 + 1);
    const auto file = folder.write("log.csv", text).string();
    const auto wide = cli("summarize " + file);
    EXPECT_NE(wide.out.find("29.9 fps"), std::string::npos) << wide.out << wide.err;
    const auto at = wide.out.find("delimiter=");
    ASSERT_NE(at, std::string::npos);
    std::string dialect = wide.out.substr(at, wide.out.find('\n', at) - at);
    const auto column = dialect.find("time_column=2");
    ASSERT_NE(column, std::string::npos) << dialect;
    dialect[column + 12] = '1';
    const auto narrow = cli("summarize " + file + " --dialect '" + dialect + "'");
    EXPECT_NE(narrow.out.find("60.6 fps"), std::string::npos) << narrow.out << narrow.err;
    dialect[column + 12] = '3';
    EXPECT_EQ(cli("summarize " + file + " --dialect '" + dialect + "'").code, 1) << "there is no third column";
    EXPECT_EQ(cli("summarize " + file + " --dialect nonsense").code, 1);
}

TEST(CliTest, CompareSaysOneOfThreeWords) {
    const TemporaryFolder folder;
    const auto run = [&](const char* name, const std::string& arguments) {
        const auto file = folder.path(name).string();
        EXPECT_EQ(cli("simulate " + demoArguments() + " " + arguments + " -o " + file).code, 0);
        return " " + file;
    };
    std::string many, few, alike;
    for (int i = 0; i < 4; ++i) {
        many += run(fmt::format("a{}", i).c_str(), fmt::format("--seed {}", 10 + i));
        few += run(fmt::format("b{}", i).c_str(), fmt::format("--seed {} --set workers=few", 20 + i));
        alike += run(fmt::format("c{}", i).c_str(), fmt::format("--seed {}", 30 + i));
    }
    const auto better = cli("compare" + many + " --vs" + few + " --target 60");
    ASSERT_EQ(better.code, 0) << better.err;
    EXPECT_NE(better.out.find("4 and 4 runs"), std::string::npos) << better.out;
    EXPECT_NE(better.out.find("differs"), std::string::npos) << better.out;
    const auto same = cli("compare" + many + " --vs" + alike);
    EXPECT_NE(same.out.find("no difference larger than"), std::string::npos) << same.out;
    const auto json = cli("compare" + many + " --vs" + few + " --json --school percentile");
    for (const char* piece : {"\"schema\": 1", "\"average_fps\"", "\"differs\"", "\"within_sd\"", "\"percentile\""})
        EXPECT_NE(json.out.find(piece), std::string::npos) << piece;
    const auto one = cli("compare" + run("one", "--seed 5") + " --vs" + few);
    EXPECT_NE(one.out.find("not enough runs"), std::string::npos) << one.out;
    EXPECT_EQ(cli("compare" + many).code, 2);
    EXPECT_EQ(cli("compare" + many + " --vs /no/such/file").code, 1);
}

TEST(CliTest, LimitsNamesWhatStandsBehind) {
    const TemporaryFolder folder;
    const auto machine = dataFile("machines/whinbush-laptop.toml").string();
    const auto log = folder.path("quiet.csv").string();
    ASSERT_EQ(cli(fmt::format("simulate --machine {} --game {} --fans quiet -o {}", machine,
                              dataFile("games/saltmarsh-courier.toml").string(), log))
                  .code,
              0);
    const auto text = cli("limits " + log + " --machine " + machine);
    EXPECT_EQ(text.code, 0) << text.err;
    for (const char* piece : {"GPU-limited, sure", "Behind it: heat of the CPU", "its clock fell from 100 to",
                              "turn the fans up and record again"})
        EXPECT_NE(text.out.find(piece), std::string::npos) << piece << "\n" << text.out;
    const auto json = cli("limits " + log + " --machine " + machine + " --json");
    for (const char* piece : {"\"schema\": 1", "\"limit\": \"heat\"", "\"sign\": \"clock-fell\"", "\"start_s\": 0.0",
                              "\"test\": \"fans-up\"", "\"change\": \"gpu-faster\""})
        EXPECT_NE(json.out.find(piece), std::string::npos) << piece << "\n" << json.out;
    EXPECT_EQ(cli("limits " + folder.path("none.csv").string()).code, 1);
    EXPECT_EQ(cli("limits").code, 2);
}

TEST(CliTest, TuneWalksTheWholePath) {
    const auto tuned =
        cli(fmt::format("tune {} --target 60 --floor 40 --style quiet --seed 3 --json", demoArguments()));
    ASSERT_EQ(tuned.code, 0) << tuned.err;
    for (const char* piece :
         {"\"limits\"", "\"costs\"", "\"choice\"", "\"cap_fps\"", "\"wishes\"", "\"state\": \"met\""})
        EXPECT_NE(tuned.out.find(piece), std::string::npos) << piece;
    EXPECT_EQ(tuned.out,
              cli(fmt::format("tune {} --target 60 --floor 40 --style quiet --seed 3 --json", demoArguments())).out)
        << "a seed gives the same answer";
    const auto text = cli(fmt::format("tune {} --target 60", demoArguments()));
    EXPECT_NE(text.out.find("What limits each part"), std::string::npos);
    EXPECT_NE(text.out.find("Before and after"), std::string::npos);
}

TEST(CliTest, BadInputIsOneAndBadUsageTwo) {
    const TemporaryFolder folder;
    const auto bad = folder.write("bad.csv", "frame_ms\n16\nx\n17\n16\n");
    const auto input = cli("summarize " + bad.string());
    EXPECT_EQ(input.code, 1);
    EXPECT_TRUE(input.out.empty());
    EXPECT_NE(input.err.find("line 3"), std::string::npos) << input.err;
    EXPECT_EQ(cli("summarize /no/such/file").code, 1);
    const auto huge = folder.write("huge.toml", "name = \"m\"\n" + std::string(10U << 20U, '#'));
    const auto tooLarge = cli(fmt::format("rig describe --machine {} --game {}", huge.string(), huge.string()));
    EXPECT_EQ(tooLarge.code, 1);
    EXPECT_NE(tooLarge.err.find("huge.toml"), std::string::npos) << tooLarge.err;
    EXPECT_EQ(cli(fmt::format("simulate {} --set workers=none -o {}", demoArguments(), folder.path("x").string())).code,
              1);
    EXPECT_EQ(cli(fmt::format("simulate {} --set workers -o {}", demoArguments(), folder.path("x").string())).code, 1);
    EXPECT_EQ(cli(fmt::format("simulate {} -o /no/folder/x", demoArguments())).code, 1);
    EXPECT_EQ(cli(fmt::format("tune {} --target 900", demoArguments())).code, 3) << "nothing fits";
    EXPECT_EQ(cli("").code, 2);
    EXPECT_EQ(cli("unknown").code, 2);
    EXPECT_EQ(cli("summarize").code, 2);
    EXPECT_EQ(cli(fmt::format("tune {} --target fast", demoArguments())).code, 2);
}

TEST(CliTest, HowMuchOfALogIsReadCanBeSaid) {
    const TemporaryFolder folder;
    std::string text = "frame_ms\n";
    for (int i = 0; i < 20000; ++i) text += fmt::format("{}.5\n", 16 + i % 3);
    const auto log = folder.write("log.csv", text).string();
    EXPECT_EQ(cli("summarize " + log).code, 0);
    const auto rows = cli("summarize --most-rows 5000 " + log);
    EXPECT_EQ(rows.code, 1);
    EXPECT_NE(rows.err.find("more than 5000 rows"), std::string::npos) << rows.err;
    const auto bytes = cli("summarize --most-gib 0.00001 " + log);
    EXPECT_EQ(bytes.code, 1);
    EXPECT_NE(bytes.err.find("bytes"), std::string::npos) << bytes.err;
    EXPECT_EQ(cli("summarize --most-rows 20001 --most-gib 0.001 " + log).code, 0);
}

TEST(CliTest, APracticePairIsDrawnDescribedAndTuned) {
    const TemporaryFolder folder;
    const auto drawn = cli(fmt::format("rig draw --seed 3 -o {}", folder.path("practice").string()));
    ASSERT_EQ(drawn.code, 0) << drawn.err;
    EXPECT_EQ(cli(fmt::format("rig draw --seed 3 -o {}", folder.path("practice").string())).code, 1);
    EXPECT_EQ(cli(fmt::format("rig draw --seed 3 --force -o {}", folder.path("practice").string())).code, 0);
    const auto pair = fmt::format("--machine {0}/practice-machine-3.toml --game {0}/practice-game-3.toml",
                                  folder.path("practice").string());
    const auto described = cli("rig describe " + pair);
    EXPECT_EQ(described.code, 0) << described.err;
    EXPECT_NE(described.out.find("Render scale"), std::string::npos);
    EXPECT_NE(described.out.find("part 1"), std::string::npos);
    const auto tuned = cli("tune " + pair + " --target 30");
    EXPECT_TRUE(tuned.code == 0 || tuned.code == 3) << tuned.err;
    EXPECT_NE(tuned.out.find("Before and after"), std::string::npos);
    EXPECT_EQ(cli("rig describe --machine none.toml --game none.toml").code, 1);
    EXPECT_EQ(cli("rig").code, 2);
}
