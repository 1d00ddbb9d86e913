// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/report/json.h>

using namespace impasto;
using namespace impasto::support;

TEST(WordingTest, AVerdictNamesItsFigures) {
    limits::PartVerdict v;
    v.part = "the landing";
    v.periodMs = 18.7;
    v.cpu = limits::LaneFigures{12.4, 12, 13, 0.1};
    v.gpu = limits::LaneFigures{18.72, 18, 20, 0.1};
    v.brake = limits::Brake::Gpu;
    v.certainty = limits::Certainty::Sure;
    const report::Wording w;
    EXPECT_EQ(w.brakeTitle(v), "GPU limits, sure");
    EXPECT_EQ(
        w.brakeEvidence(v, Fps(60), {}),
        "GPU 18.7 ms of a 18.7 ms frame; the CPU needs 12.4. 2.05 ms over the budget, 4.72 over its usable 14.0.");
    v.cpu.reset();
    v.gpu.reset();
    v.brake = limits::Brake::CannotTell;
    EXPECT_EQ(w.brakeTitle(v), "Cannot tell CPU from GPU from this log");
}

TEST(WordingTest, AnOrderByHandSaysWhatToSetAndPlay) {
    auto store = demoStore();
    run::Order order;
    order.variant = store.session().baselineVariant();
    order.variant.values["shadows"] = "low";
    order.route = store.session().edits->route;
    order.seconds = 75;
    order.purpose = run::Purpose::Cost;
    const report::Wording w;
    EXPECT_EQ(w.purpose(store.session(), order), "cost, Shadows low");
    const auto steps = w.orderSteps(store.session(), order);
    ASSERT_EQ(steps.size(), 4U);
    EXPECT_EQ(steps[0], "Set the start values, but Shadows low.");
    EXPECT_EQ(steps[2], "Play \"Ferry landing at dusk\", 75 seconds, with the log running; then stop it.");
}

TEST(WordingTest, EveryWhyOfAWalkedSessionHasItsParts) {
    Walk walk(demoStore());
    ASSERT_TRUE(walk.until(session::Action::RecordProof));
    const auto& r = walk.results();
    const report::Wording w;
    const auto& figures = *r.figures(r.baselineRuns.front());
    const auto* shadows = walk.store.session().game()->setting("shadows");
    for (const auto& why : {w.whyAverage(figures.summary, 4), w.whyLow(figures.summary, run::LowSchool::TimeShare, 1),
                            w.whyCost(*shadows, "low", r.costs->lanes.back()), w.whyChoice(*r.proposal),
                            w.whyCap(r.cap->offers.front(), {})}) {
        for (const auto* part : {&why.title, &why.formula, &why.inputs, &why.sure, &why.change}) {
            EXPECT_FALSE(part->empty()) << why.title;
            EXPECT_EQ(part->find("{}"), std::string::npos) << *part;
        }
    }
}

TEST(JsonTest, UndefinedIsNullAndAllSchoolsAreThere) {
    const std::vector<double> frames{16, 17};
    const std::vector<report::SummarizedLog> logs{
        {"a\xff.csv", {}, {}, *stats::summarize(frames), {}, {{stats::Finding::TooShort, true, 0.02}}, {{0, 12.5}}}};
    const std::string json = report::summariesJson(logs, {});
    for (const char* piece :
         {"\"schema\": 1", "\"target_fps\": null", "\"within_budget_share\": null", "\"percentile\"", "\"worst-mean\"",
          "\"time-share\"", "\"average_fps\"", "\"own_doubt_95\": null", "\"too-short\"", "\"proposed_trims_ms\""})
        EXPECT_NE(json.find(piece), std::string::npos) << piece;
    EXPECT_EQ(json.find("nan"), std::string::npos);
    EXPECT_EQ(json.find("inf"), std::string::npos);
    session::SessionStore empty{session::Session{}};
    session::ResultsCache cache;
    const std::string tune = report::tuneJson(empty.session(), session::compute(empty.session(), cache, {}));
    EXPECT_NE(tune.find("\"proof\": null"), std::string::npos);
}

TEST(WordingTest, HowALogWasReadIsSaidInWords) {
    const report::Wording w;
    capture::Dialect d;
    d.columns = 3;
    d.timeColumn = 1;
    d.firstDataLine = 4;
    EXPECT_EQ(w.dialect(d), "Frame times in ms, column 2 of 3. Cells parted by commas; frames from line 5.");
    d.meaning = capture::TimeMeaning::Cumulative;
    d.unit = capture::TimeUnit::Microseconds;
    d.delimiter = ';';
    d.decimalComma = true;
    d.gpuColumn = 2;
    EXPECT_EQ(w.dialect(d), "Time stamps in \u00b5s, column 2 of 3. GPU work in ms, column 3. Cells parted by "
                            "semicolons, decimal comma; frames from line 5.");
}

TEST(WordingTest, TheMachineMeanwhileIsSaidWhereItWasRead) {
    const report::Wording w;
    auto c = flatCapture(16, 10);
    EXPECT_EQ(w.meanwhile(c), "");
    c.tracks.push_back({capture::Sensor::GpuLoad, {0, 500}, {90, 99}});
    c.tracks.push_back({capture::Sensor::GpuClock, {0, 500}, {62, 64}});
    EXPECT_EQ(w.meanwhile(c), "GPU 94% busy, clock 63%.");
    c.tracks.push_back({capture::Sensor::SystemPower, {0}, {17.4F}});
    EXPECT_EQ(w.meanwhile(c), "GPU 94% busy, clock 63%. Machine 17 W.");
}
