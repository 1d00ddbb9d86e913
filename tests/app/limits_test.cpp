// SPDX-License-Identifier: GPL-3.0-or-later
// What Limits says stands behind a bottleneck, and the run that would decide.
#include "app/tidy.h"

using namespace impasto;
using namespace impasto::app;

namespace {

bool says(const Drawing& drawing, const char* words) {
    return std::any_of(drawing.shapes.begin(), drawing.shapes.end(),
                       [words](const Shape& s) { return s.text.contains(QLatin1String(words)); });
}

} // namespace

TEST(LimitsStationTest, AHotLaptopIsToldAndTheFansUndoIt) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.startPractice();
    d.rest();
    ASSERT_TRUE(d.studio.openDescription(support::dataFile("machines/whinbush-laptop.toml")).has_value());
    d.rest();
    d.studio.apply(document::setState("conditions.fans", "quiet"));
    d.rest();
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordCosts));
    d.studio.go({"limits"});
    d.rest();
    EXPECT_TRUE(says(d.window->easel()->drawing(), "Behind it: heat of the GPU"));
    EXPECT_TRUE(says(d.window->easel()->drawing(), "turn the fans up"));
    expectTidy(d.window->easel()->drawing(), QSizeF(d.window->easel()->size()), "limits");
    d.studio.apply(document::setState("conditions.fans", "full"));
    d.rest();
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordCosts));
    EXPECT_FALSE(says(d.window->easel()->drawing(), "Behind it: heat")) << "what the test was for";
}
