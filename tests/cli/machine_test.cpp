// SPDX-License-Identifier: GPL-3.0-or-later
// This machine from the command line, on trees of files.
#include "cli/outcome.h"
#include "probe/tree.h"

using namespace impasto;
using namespace impasto::support;

TEST(CliMachineTest, WhatItReadsIsPrintedWrittenAndJson) {
    const TemporaryFolder folder, out;
    laptopIn(folder);
    const auto root = folder.root().string();
    const auto text = cli("machine --checklist --root " + root);
    EXPECT_EQ(text.code, 0) << text.err;
    for (const char* piece : {"Whinbush laptop", "GPU: Marl 9, 6.0 GiB", "second GPU: Gorse inside",
                              "Not read:", "to do: Link, No copy route", "does not apply: CPU, Hibernates"})
        EXPECT_NE(text.out.find(piece), std::string::npos) << piece << "\n" << text.out;
    const auto file = out.path("machine.toml");
    EXPECT_EQ(cli(fmt::format("machine --root {} -o {}", root, file.string())).code, 0);
    const auto written = machine::parseMachine(textOf(file), "m");
    ASSERT_TRUE(written.has_value());
    EXPECT_EQ(written->gpu, "Marl 9");
    EXPECT_TRUE(written->copyRoute);
    // It is not written over without being told.
    EXPECT_EQ(cli(fmt::format("machine --root {} -o {}", root, file.string())).code, 1);
    EXPECT_EQ(cli(fmt::format("machine --root {} -o {} --force", root, file.string())).code, 0);
    const auto json = cli("machine --json --checklist --root " + root);
    for (const char* piece : {"\"schema\": 1", "\"cores\": 6", "\"copy_route\": true", "\"power.mains\": \"no\"",
                              "\"not_read\": [", "\"standing\": \"to-do\""})
        EXPECT_NE(json.out.find(piece), std::string::npos) << piece << "\n" << json.out;
    // And it serves as any description does.
    const auto log = out.write("run.csv", "frame_ms\n16.6\n16.7\n16.8\n16.6\n16.7\n");
    EXPECT_EQ(cli(fmt::format("limits {} --machine {}", log.string(), file.string())).code, 0);
}

TEST(CliMachineTest, WhereThereIsNoSystemNothingIsMadeUp) {
    const TemporaryFolder folder;
    const auto none = cli("machine --root " + folder.root().string());
    EXPECT_EQ(none.code, 1);
    EXPECT_TRUE(none.out.empty());
    EXPECT_NE(none.err.find(folder.root().string()), std::string::npos);
}

TEST(CliMachineTest, ADecidingRunChangesTheVerdict) {
    const TemporaryFolder folder;
    const auto log = [&](const std::string& name, double ms) {
        std::string text = "frame_ms\n";
        for (int i = 0; i < 900; ++i) text += fmt::format("{:.2f}\n", ms + (i % 7) * 0.2);
        return folder.write(name, text).string();
    };
    const auto before = log("before.csv", 20), after = log("after.csv", 14);
    EXPECT_NE(cli("limits " + before).out.find("Unclear"), std::string::npos);
    const auto decided = cli(fmt::format("limits {} --decided-by {} --test lower-resolution", before, after));
    EXPECT_EQ(decided.code, 0) << decided.err;
    EXPECT_NE(decided.out.find("GPU-limited"), std::string::npos) << decided.out;
    EXPECT_NE(decided.out.find("lower render scale, fps: "), std::string::npos) << decided.out;
    EXPECT_EQ(cli(fmt::format("limits {} --decided-by {}", before, after)).code, 1)
        << "it is not said what was changed";
    EXPECT_EQ(cli(fmt::format("limits {} --decided-by {} --test magic", before, after)).code, 2);
    const auto json = cli(fmt::format("limits {} --decided-by {} --test lower-resolution --json", before, after));
    EXPECT_NE(json.out.find("\"answer\": \"yes\""), std::string::npos) << json.out;
    EXPECT_EQ(json.out.find("findings"), std::string::npos) << "nothing was held against them";
    const auto same = cli(fmt::format("limits {} --vs {} --json", before, before));
    EXPECT_NE(same.out.find("\"finding\": \"not-applied\""), std::string::npos) << same.out;
    EXPECT_NE(cli(fmt::format("limits {} --vs {}", before, before)).out.find("seems not to be applied. 50% sure"),
              std::string::npos);
    EXPECT_NE(cli(fmt::format("limits {} --vs {}", before, after)).out.find("Nothing stands out"), std::string::npos);
}
