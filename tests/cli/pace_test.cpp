// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/outcome.h"

#include <impasto/logs/import.h>
#include <nlohmann/json.hpp>

using namespace impasto;
using support::cli;
using support::dataFile;

namespace {

/// 80 fps, GPU 12.4 ms, CPU 7 ms, as a log.
std::string uncapped(const support::TemporaryFolder& folder) {
    return folder.write("uncapped.csv", logs::writeCsv(support::flatCapture(12.5, 3000, 7, 12.4))).string();
}

} // namespace

TEST(PaceCliTest, EveryRuleStandsBesideTheOthersWithItsBands) {
    const support::TemporaryFolder folder;
    const auto log = uncapped(folder);
    const auto text = cli("pace " + log + " --range 48-144 --target 60 --floor 45");
    ASSERT_EQ(text.code, 0) << text.err;
    for (const char* words : {"the target", "headroom", "inside the variable range", "on time, worst part", "latency"})
        EXPECT_NE(text.out.find(words), std::string::npos) << text.out;
    const auto made = cli("pace " + log + " --range 48-144 --target 60 --json");
    const auto json = nlohmann::json::parse(made.out);
    EXPECT_EQ(json["schema"], 1);
    EXPECT_TRUE(json["cpu_and_gpu_work"]);
    const auto& first = json["caps"][0];
    EXPECT_TRUE(first["against_the_panel"].is_null());
    EXPECT_LE(first["predicted"]["average_fps"]["low"], first["predicted"]["average_fps"]["high"]);
    EXPECT_TRUE(first["holds"]);
    const auto& held = first["applied_in"];
    EXPECT_LT(held["engine"]["latency_ms"], held["present"]["latency_ms"]);
    EXPECT_LT(held["present"]["latency_ms"], held["compositor"]["latency_ms"]);
    EXPECT_NE(text.out.find("applied in driver"), std::string::npos);
}

TEST(PaceCliTest, WhatCapsDrawWhereALogTellsPower) {
    const support::TemporaryFolder folder;
    const auto file = folder.path("pocket.csv").string(), machine = dataFile("machines/curlew-pocket.toml").string();
    ASSERT_EQ(cli(fmt::format("simulate --machine {} --game {} --seconds 40 -o {}", machine,
                              dataFile("games/rainmarket.toml").string(), file))
                  .code,
              0);
    const auto text = cli("pace " + file + " --machine " + machine + " --target 30");
    EXPECT_NE(text.out.find("battery lasts"), std::string::npos) << text.out << text.err;
    EXPECT_NE(text.out.find("of the whole machine"), std::string::npos);
    const auto json = nlohmann::json::parse(cli("pace " + file + " --machine " + machine + " --target 30 --json").out);
    EXPECT_EQ(json["power_of"], "machine");
    for (const auto& cap : json["caps"]) {
        if (!cap["applies"]) continue;
        const auto& p = cap["predicted"];
        EXPECT_LT(p["power_w"]["low"], p["power_w"]["high"]);
        EXPECT_NEAR(p["battery_h"]["middle"].get<double>() * p["power_w"]["middle"].get<double>(), 40, 0.01) << "Wh";
    }
    const auto asked = nlohmann::json::parse(
        cli("pace " + file + " --machine " + machine + " --target 30 --json --most-power-w 12 --least-battery-h 3")
            .out);
    for (const auto& cap : asked["caps"])
        if (cap["applies"]) {
            EXPECT_EQ(cap["asked"]["most_power_w"]["asked"], 12);
            EXPECT_EQ(cap["asked"]["most_power_w"]["expected"], cap["predicted"]["power_w"]["middle"]);
            EXPECT_EQ(cap["asked"]["least_battery_h"]["expected"], cap["predicted"]["battery_h"]["middle"]);
        }
    EXPECT_NE(cli("pace " + file + " --most-power-w 12").out.find("power at most 12 W: "), std::string::npos);
    EXPECT_EQ(cli("pace " + file + " --most-power-w 0").code, 2);
    EXPECT_EQ(cli("pace " + file + " --steering pad").code, 0);
    EXPECT_EQ(cli("pace " + file + " --steering feet").code, 2);
    const auto none = nlohmann::json::parse(cli("pace " + uncapped(folder) + " --target 60 --json").out);
    EXPECT_TRUE(none["power_of"].is_null());
    EXPECT_FALSE(none["caps"][0]["predicted"].contains("power_w")) << "nothing is invented";
}

TEST(PaceCliTest, PlansWithInventedFramesNameBothRates) {
    const support::TemporaryFolder folder;
    const auto made = cli("generate " + uncapped(folder) + " --range 48-144 --target 60 --shown 130 --built-in --json");
    ASSERT_EQ(made.code, 0) << made.err;
    const auto json = nlohmann::json::parse(made.out);
    ASSERT_EQ(json["plans"].size(), 12U);
    EXPECT_TRUE(json["plans"][0]["plan"]["generation"]["adaptive_to_fps"].is_null());
    const auto& adaptive = json["plans"][3]["plan"];
    EXPECT_EQ(adaptive["generation"]["adaptive_to_fps"], 130);
    EXPECT_TRUE(adaptive["generation"]["multiplier"].is_null() && adaptive["cap_fps"].is_null());
    EXPECT_FALSE(json["costs_measured"]);
    EXPECT_EQ(json["plans"][0]["plan"]["cap_fps"], 70);
    EXPECT_NEAR(json["plans"][0]["shown_fps"]["middle"].get<double>(),
                2 * json["plans"][0]["base_fps"]["middle"].get<double>(), 2);
    EXPECT_NE(cli("generate " + uncapped(folder)).out.find("base"), std::string::npos);
}

TEST(PaceCliTest, AHeadsetsRatesAndFoveation) {
    const support::TemporaryFolder folder;
    const auto file = folder.path("worn.csv").string();
    ASSERT_EQ(cli(fmt::format("simulate --machine {} --game {} --seconds 20 -o {}",
                              dataFile("machines/plover-headset.toml").string(),
                              dataFile("games/saltmarsh-courier.toml").string(), file))
                  .code,
              0);
    const auto made =
        cli("headset " + file + " --machine " + dataFile("machines/plover-headset.toml").string() + " --json");
    ASSERT_EQ(made.code, 0) << made.err;
    const auto json = nlohmann::json::parse(made.out);
    ASSERT_EQ(json["rates"].size(), 4U);
    EXPECT_GE(json["rates"][0]["on_time_share"], json["rates"][3]["on_time_share"]) << "72 Hz is easier than 120";
    EXPECT_TRUE(json["foveation"].is_object());
    EXPECT_NE(cli("headset " + file + " --machine " + dataFile("machines/plover-headset.toml").string())
                  .out.find("Stop when you feel unwell"),
              std::string::npos);
}

TEST(PaceCliTest, WhatIsWrongIsSaid) {
    const support::TemporaryFolder folder;
    const auto log = uncapped(folder);
    EXPECT_EQ(cli("pace " + log + " --range 144-48").code, 1);
    EXPECT_EQ(cli("pace " + log + " --range wide").code, 1);
    EXPECT_EQ(cli("pace " + log + " --panel big --refresh 60").code, 1);
    EXPECT_EQ(cli("pace " + log + " --style none").code, 2);
    EXPECT_EQ(cli("pace " + folder.path("none.csv").string()).code, 1);
    EXPECT_EQ(cli("headset " + log).code, 1) << "no headset is known";
    const auto frames = folder.write("frames.csv", logs::writeCsv(support::flatCapture(12.5, 3000)));
    EXPECT_NE(cli("generate " + frames.string()).out.find("no plan can be made"), std::string::npos);
    EXPECT_NE(cli("pace " + frames.string()).out.find("frame times only"), std::string::npos);
}
