// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/logbook/edits_json.h>

using namespace impasto;
using namespace impasto::support;

TEST(EditsJsonTest, ReadsBackEqual) {
    Walk walk = walkedDemo(path::Action::Done);
    ASSERT_TRUE(walk.store.apply(document::writeNote("Wires \"shimmer\"\n\xe2\x82\xac")).has_value());
    ASSERT_TRUE(walk.store.apply(document::lockSetting("shadows", "low")).has_value());
    ASSERT_TRUE(
        walk.store.apply(document::trimRun(walk.store.session().facts->runs[2].id, {{0, 812.5}, {30000, 31000.25}}))
            .has_value());
    ASSERT_TRUE(walk.store.apply(document::setHitchRule({2.5, 6.25, 41})).has_value());
    ASSERT_TRUE(walk.store.apply(document::setFollowRest(4.5)).has_value());
    ASSERT_TRUE(walk.store.apply(document::setFollowSensors(false)).has_value());
    ASSERT_TRUE(walk.store.apply(document::hideRun(walk.store.session().facts->runs[3].id)).has_value());
    for (const auto& [key, text] : std::map<std::string, std::string>{{"resolution", "1280x720"},
                                                                      {"sync", "fixed"},
                                                                      {"limiter", "driver"},
                                                                      {"conditions.supply", "battery"},
                                                                      {"conditions.window", "borderless"},
                                                                      {"conditions.warm_up_seconds", "90"}})
        ASSERT_TRUE(walk.store.apply(document::setState(key, text)).has_value()) << key;
    ASSERT_TRUE(walk.store.apply(document::setPartColumn("scene")).has_value());
    ASSERT_TRUE(walk.store.apply(document::askStart(true)).has_value());
    ASSERT_TRUE(walk.store.apply(document::setScene(game::SceneKind::PrivateMatch)).has_value());
    ASSERT_TRUE(walk.store.apply(document::nameVariant({walk.ids()}, "copy route off")).has_value());
    run::Brief shown = *walk.store.session().edits->goal.brief;
    shown.shown = Fps(130);
    shown.steering = run::Steering::Pad;
    shown.bounds[run::Bound::Latency] = 32.5;
    shown.bounds[run::Bound::BatteryHours] = 2;
    ASSERT_TRUE(walk.store.apply(document::setBrief(shown)).has_value());
    pace::CapPlan plan{Fps(70), run::Sync::Variable, Hertz(144)};
    plan.generation = run::Generation{run::GenerationKind::External, 3, Fps(140), true};
    plan.limiter = run::LimiterPlace::Present;
    ASSERT_TRUE(walk.store.apply(document::chooseCap({pace::CapSchool::Generation, plan, {}})).has_value());
    ASSERT_TRUE(walk.store.apply(document::setUpkeep({12.5, 0.31, 0.25})).has_value());
    const document::EarlierRuns earlier{
        "Evening \"one\"",
        "a CPU, a GPU",
        "1.2",
        {{{{"shadows", "low"}}, {4.5, 8.25, 3000}}, {{{"shadows", "high"}}, {4.5, 0, 0}}}};
    ASSERT_TRUE(walk.store.apply(document::beginWith(earlier)).has_value());
    EXPECT_FALSE(walk.store.apply(document::setUpkeep({169, 0.31})).has_value()) << "a week has 168 hours";
    EXPECT_FALSE(walk.store.apply(document::setUpkeep({10, -1})).has_value());
    EXPECT_FALSE(walk.store.apply(document::setUpkeep({10, 0, 1.5})).has_value());
    EXPECT_EQ(walk.store.session().chosenVariant(true)->generation, plan.generation) << "and is ordered";
    EXPECT_EQ(walk.store.session().chosenVariant(true)->limiter, run::LimiterPlace::Present);
    EXPECT_EQ(walk.store.session().chosenVariant(false)->limiter, run::LimiterPlace::Driver) << "as while measuring";
    for (const auto& step : walk.store.steps()) {
        const auto back = logbook::editsFromJson(logbook::toJson(*step.after));
        ASSERT_TRUE(back.has_value()) << back.error().what;
        EXPECT_EQ(*back, *step.after);
    }
    EXPECT_EQ(*logbook::editsFromJson(logbook::toJson({})), document::Edits{});
}

TEST(EditsJsonTest, LogbooksFromBeforeTrimsAndHitchRulesHaveTheUsualOnes) {
    std::string old = logbook::toJson({});
    for (const std::string key :
         {",\"trims\":{}", ",\"state\":{}",
          ",\"hitch_rule\":{\"ratio\":1.75,\"excess_ms\":4.0,\"neighbours\":31,\"outright_ms\":8.0}"}) {
        const auto at = old.find(key);
        ASSERT_NE(at, std::string::npos) << old;
        old.erase(at, key.size());
    }
    EXPECT_EQ(*logbook::editsFromJson(old), document::Edits{});
}

TEST(EditsJsonTest, EarlierRunsThatAreNoneAreDamage) {
    document::Edits edits;
    edits.settings.earlier = {"x", {}, {}, {{{{"shadows", "low"}}, {4.5, 8.25, 3000}}}};
    const std::string good = logbook::toJson(edits);
    ASSERT_TRUE(logbook::editsFromJson(good).has_value());
    const std::string figure = "\"gpu_ms\":8.25";
    const auto at = good.find(figure);
    ASSERT_NE(at, std::string::npos) << good;
    for (const char* text : {"\"gpu_ms\":1e300", "\"gpu_ms\":-1", "\"gpu_ms\":\"8\"", "\"gpu\":8.25"}) {
        auto changed = good;
        EXPECT_FALSE(logbook::editsFromJson(changed.replace(at, figure.size(), text)).has_value()) << text;
    }
}

TEST(EditsJsonTest, AHitchRuleOutOfItsRangeIsDamage) {
    std::string bad = logbook::toJson({});
    const auto at = bad.find("\"ratio\":1.75");
    ASSERT_NE(at, std::string::npos);
    bad.replace(at, 12, "\"ratio\":0.10");
    EXPECT_FALSE(logbook::editsFromJson(bad).has_value());
}

TEST(EditsJsonTest, DamageIsAnError) {
    const std::string good = logbook::toJson({});
    EXPECT_EQ(logbook::editsFromJson("{").error().code, ErrorCode::DamagedLogbook);
    EXPECT_EQ(logbook::editsFromJson("{}").error().code, ErrorCode::DamagedLogbook);
    EXPECT_EQ(logbook::editsFromJson("[1,2]").error().code, ErrorCode::DamagedLogbook);
    for (std::size_t cut = 1; cut < good.size(); cut += 7)
        EXPECT_FALSE(logbook::editsFromJson(good.substr(0, cut)).has_value());
}

TEST(EditsJsonTest, WhatIsTooLongOrTooDeepIsDamageBeforeItIsTakenApart) {
    const auto codeOf = [](const std::string& text) {
        const auto read = logbook::editsFromJson(text);
        return read ? ErrorCode::Cancelled : read.error().code;
    };
    const std::string good = logbook::toJson({});
    EXPECT_EQ(codeOf(good), ErrorCode::Cancelled) << "it reads";
    EXPECT_EQ(codeOf(std::string(100000, '[')), ErrorCode::DamagedLogbook);
    const auto withNote = [&good](const std::string& note) {
        auto text = good;
        return text.insert(text.find("\"note\":\"\"") + 8, note);
    };
    EXPECT_EQ(codeOf(withNote(std::string(document::mostNoteBytes, 'x'))), ErrorCode::Cancelled);
    EXPECT_EQ(codeOf(withNote(std::string(document::mostNoteBytes + 1, 'x'))), ErrorCode::DamagedLogbook);
    EXPECT_EQ(codeOf(withNote(std::string(50000000, 'x'))), ErrorCode::DamagedLogbook);
    EXPECT_EQ(codeOf(withNote(std::string(100, '['))), ErrorCode::Cancelled) << "brackets in a text are no lists";
    auto later = good;
    later.insert(1, "\"of_a_later_version\":[1,2],");
    EXPECT_EQ(codeOf(later), ErrorCode::Cancelled) << "what is not known is passed over";
}

TEST(EditsJsonTest, WhatALaterVersionStoredIsHandedOn) {
    document::Edits edits;
    edits.goal.brief = run::Brief{};
    auto later = logbook::toJson(edits);
    const auto insert = [&later](const std::string& before, const std::string& text) {
        const auto at = later.find(before);
        ASSERT_NE(at, std::string::npos);
        later.insert(at + before.size(), text);
    };
    insert("{", "\"moods\":[1,{\"a\":\"b\"}],");
    insert("\"brief\":{", "\"hue\":\"warm\",");
    const auto read = logbook::editsFromJson(later);
    ASSERT_TRUE(read.has_value());
    const auto again = logbook::toJson(*read);
    EXPECT_NE(again.find("\"moods\":[1,{\"a\":\"b\"}]"), std::string::npos) << again;
    EXPECT_NE(again.find("\"hue\":\"warm\""), std::string::npos) << again;
    EXPECT_EQ(*logbook::editsFromJson(again), *read);
    // An edit of this version hands them on too; what they stood in takes them along.
    auto after = *document::writeNote("changed").apply(*read);
    EXPECT_NE(logbook::toJson(after).find("\"moods\""), std::string::npos);
    after.goal.brief.reset();
    EXPECT_EQ(logbook::toJson(after).find("\"hue\""), std::string::npos);
    // Nothing that is known is among them: the value of this version stands.
    auto same = *logbook::editsFromJson(logbook::toJson(after));
    same.runs.followRestS = 3;
    same.settings.walk = choose::WalkSchool::BothEnds;
    EXPECT_EQ(logbook::editsFromJson(logbook::toJson(same))->runs.followRestS, 3);
    EXPECT_EQ(logbook::editsFromJson(logbook::toJson(same))->settings.walk, choose::WalkSchool::BothEnds);
    EXPECT_TRUE(logbook::editsFromJson(logbook::toJson(document::Edits()))->unknown.empty());
}
