// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/exports/json.h>
#include <impasto/wording/layers.h>
#include <impasto/wording/limits.h>
#include <impasto/wording/logs.h>
#include <impasto/wording/pace.h>
#include <impasto/wording/proof.h>
#include <impasto/wording/runs.h>

using namespace impasto;
using namespace impasto::support;

TEST(WordingTest, AVerdictNamesItsFigures) {
    limits::PartVerdict v;
    v.part = "the landing";
    v.periodMs = 18.7;
    v.cpu = limits::LaneFigures{12.4, 12, 13, 0.1, 0.98};
    v.gpu = limits::LaneFigures{18.72, 18, 20, 0.1, 0.84};
    v.brake = limits::Brake::Gpu;
    v.sure = 0.95;
    const wording::Words w;
    EXPECT_EQ(wording::bottleneck(w, v), "GPU-limited, sure");
    EXPECT_EQ(
        wording::bottleneckEvidence(w, v, Fps(60)),
        "The GPU takes 18.7 ms of a 18.7 ms frame, the CPU 12.4 ms. GPU 2.05 ms over the budget, 4.72 ms over its "
        "safe limit of 14.0 ms.");
    v.cpu.reset();
    v.gpu.reset();
    v.brake = limits::Brake::CannotTell;
    EXPECT_EQ(wording::bottleneck(w, v), "Unclear: this log does not separate CPU from GPU");
}

TEST(WordingTest, WhatIsOpenIsNotCalledNotHeld) {
    const wording::Words w;
    proof::Proof proof;
    proof.wishes.resize(2);
    proof.wishes[0].state = proof.wishes[1].state = proof::WishState::Met;
    EXPECT_EQ(wording::saveAs(w, &proof), "Save the result");
    proof.wishes[1].state = proof::WishState::NotEnoughRuns;
    EXPECT_EQ(wording::saveAs(w, &proof), "Save as not proven");
    proof.wishes[0].state = proof::WishState::NotMet;
    EXPECT_EQ(wording::saveAs(w, &proof), "Save as not held");
    document::KeptResult kept;
    kept.goals = 2;
    kept.met = 1;
    EXPECT_EQ(wording::savedAs(w, kept), "Saved as not held");
    kept.open = 1;
    EXPECT_EQ(wording::savedAs(w, kept), "Saved as not proven");
    kept.met = 2;
    kept.open = 0;
    EXPECT_EQ(wording::savedAs(w, kept), "The result is saved");
}

TEST(WordingTest, AnOrderByHandSaysWhatToSetAndPlay) {
    auto store = demoStore();
    run::Order order;
    order.variant = store.session().baselineVariant();
    order.variant.values["shadows"] = "low";
    order.route = store.session().edits->subject.route;
    order.seconds = 75;
    order.purpose = run::Purpose::Cost;
    const wording::Words w;
    EXPECT_EQ(wording::purpose(w, store.session(), order), "test run, Shadows low");
    const auto steps = wording::orderSteps(w, store.session(), order);
    ASSERT_EQ(steps.size(), 7U);
    EXPECT_EQ(steps[0], "Use the baseline settings, except Shadows: low.");
    EXPECT_EQ(steps[5], "Play \"Ferry landing at dusk\", 75 seconds, with the log running; then stop it.");
}

TEST(WordingTest, EveryWhyOfAWalkedSessionHasItsParts) {
    Walk walk = walkedDemo(path::Action::RecordProof);
    const auto& r = walk.results();
    const wording::Words w;
    const auto& figures = *r.of<results::RunFigures>(results::idsOf<results::BaselineRuns>(r).front());
    const auto* shadows = walk.store.session().game()->setting("shadows");
    for (const auto& why :
         {wording::whyAverage(w, figures.summary, 4), wording::whyLow(w, figures.summary, stats::LowRule::TimeShare, 1),
          wording::whyCost(w, *shadows, "low", r.get<results::Costs>()->lanes.back()),
          wording::whyChoice(w, *results::proposalOf(r)),
          wording::whyCap(w, r.get<results::CapView>()->offers.front(), {})}) {
        for (const auto* part : {&why.title, &why.formula, &why.inputs, &why.sure, &why.change}) {
            EXPECT_FALSE(part->empty()) << why.title;
            EXPECT_EQ(part->find("{}"), std::string::npos) << *part;
        }
    }
}

TEST(JsonTest, UndefinedIsNullAndAllSchoolsAreThere) {
    const std::vector<double> frames{16, 17};
    const std::vector<exports::SummarizedLog> logs{{"a\xff.csv",
                                                    {},
                                                    {},
                                                    {},
                                                    *frames::summarize(frames),
                                                    {},
                                                    {{frames::Finding::TooShort, true, 0.02}},
                                                    {{0, 12.5}}}};
    const std::string json = exports::summariesJson(logs, {});
    for (const char* piece :
         {"\"schema\": 1", "\"target_fps\": null", "\"on_time_share\": null", "\"percentile\"", "\"worst-mean\"",
          "\"time-share\"", "\"average_fps\"", "\"own_doubt_95\": null", "\"too-short\"", "\"proposed_trims_ms\""})
        EXPECT_NE(json.find(piece), std::string::npos) << piece;
    EXPECT_EQ(json.find("nan"), std::string::npos);
    EXPECT_EQ(json.find("inf"), std::string::npos);
    document::SessionStore empty{document::Session{}};
    results::ResultsCache cache;
    const std::string tune = exports::tuneJson(empty.session(), results::compute(empty.session(), cache, {}));
    EXPECT_NE(tune.find("\"proof\": null"), std::string::npos);
}

TEST(WordingTest, TheJsonOfATuningSaysHowFarItHasCome) {
    support::Walk walk(support::demoStore());
    ASSERT_TRUE(walk.until(path::Action::RecordCosts));
    const std::string before = exports::tuneJson(walk.store.session(), walk.results());
    EXPECT_NE(before.find("\"test_runs\": 0"), std::string::npos);
    EXPECT_EQ(before.find("\"next\": null"), std::string::npos) << "one more is asked for";
    ASSERT_TRUE(walk.step());
    for (const auto& set : results::setsOf(walk.store.session(), walk.results()))
        if (set.holds(walk.store.session().facts->runs.back().id)) {
            EXPECT_EQ(wording::setName(wording::Words(), walk.store.session(), set).name, "Test set");
        }
    ASSERT_TRUE(walk.until(path::Action::RecordCheck));
    const std::string after = exports::tuneJson(walk.store.session(), walk.results());
    EXPECT_NE(after.find("\"next\": null"), std::string::npos);
    EXPECT_NE(after.find("\"frame_times_only\": false"), std::string::npos);
    EXPECT_EQ(after.find("\"chance_that_a_run_holds\": null"), std::string::npos);
}

TEST(WordingTest, HowALogWasReadIsSaidInWords) {
    const wording::Words w;
    logs::Dialect d;
    d.columns = 3;
    d.timeColumn = 1;
    d.firstDataLine = 4;
    EXPECT_EQ(wording::dialect(w, d),
              "Frame times in ms, column 2 of 3. Cells separated by commas; frames from line 5.");
    d.meaning = logs::TimeMeaning::Cumulative;
    d.unit = logs::TimeUnit::Microseconds;
    d.delimiter = ';';
    d.decimalComma = true;
    d.gpuColumn = 2;
    EXPECT_EQ(wording::dialect(w, d),
              "Time stamps in \u00b5s, column 2 of 3. GPU work in ms, column 3. Cells separated by "
              "semicolons, decimal comma; frames from line 5.");
}

TEST(WordingTest, TheMachineMeanwhileIsSaidWhereItWasRead) {
    const wording::Words w;
    auto c = flatCapture(16, 10);
    EXPECT_EQ(wording::meanwhile(w, c), "");
    c.tracks.push_back({capture::Sensor::GpuLoad, {0, 500}, {90, 99}});
    c.tracks.push_back({capture::Sensor::GpuClock, {0, 500}, {62, 64}});
    EXPECT_EQ(wording::meanwhile(w, c), "GPU 94% busy, clock 63%.");
    c.tracks.push_back({capture::Sensor::SystemPower, {0}, {17.4F}});
    EXPECT_EQ(wording::meanwhile(w, c), "GPU 94% busy, clock 63%. Machine 17 W.");
}
