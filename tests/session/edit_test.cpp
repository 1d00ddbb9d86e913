// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

using namespace impasto;
using namespace impasto::session;
using namespace impasto::support;

TEST(EditTest, BadValuesAreRefusedWithTheirName) {
    const Edits none;
    struct Case {
        Edit edit;
        ErrorCode code;
        const char* key;
    };
    run::Brief highFloor;
    highFloor.lowestLow = Fps(90);
    run::Brief muchPicture;
    muchPicture.pictureFloor = 1.5;
    const auto game = smallGame();
    const Case cases[] = {{setTarget(Fps(5)), ErrorCode::OutOfRange, "target"},
                          {setTarget(Fps(5000)), ErrorCode::OutOfRange, "target"},
                          {setBrief(highFloor), ErrorCode::OutOfRange, "floor"},
                          {setBrief(muchPicture), ErrorCode::OutOfRange, "picture"},
                          {setShares({0.1, 0.9, 0.9}), ErrorCode::OutOfRange, "usable share"},
                          {setRoute(game, "nowhere"), ErrorCode::UnknownName, "route"},
                          {setBaseline(game, {{"heavy", "none"}}), ErrorCode::UnknownName, "heavy"},
                          {changeChoice(game, {}, "nothing", "low", {}), ErrorCode::UnknownName, "nothing"}};
    for (const auto& c : cases) {
        const auto result = c.edit.apply(none);
        ASSERT_FALSE(result.has_value()) << c.key;
        EXPECT_EQ(static_cast<int>(result.error().code), static_cast<int>(c.code)) << c.key;
        EXPECT_EQ(result.error().where.key, c.key);
        EXPECT_EQ(result.error().kept, Kept::AllAsBefore);
    }
}

TEST(EditTest, ALowerTargetTakesTheFloorWithIt) {
    run::Brief brief;
    brief.lowestLow = Fps(50);
    const auto e = setBrief(brief).apply({});
    EXPECT_EQ(setTarget(Fps(40)).apply(*e)->brief->lowestLow, Fps(40));
    EXPECT_EQ(setTarget(Fps(55)).apply(*e)->brief->lowestLow, Fps(50));
}

TEST(EditTest, NamesReadBack) {
    for (int i = 0; i <= static_cast<int>(EditName::SetTitle); ++i) {
        const auto name = static_cast<EditName>(i);
        EXPECT_EQ(editNameOf(keyOf(name)), name);
        EXPECT_FALSE(report::Wording().edit(name).empty());
    }
}
