// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>
#include <impasto/run/run.h>

using namespace impasto;
using namespace impasto::run;

TEST(RunTest, EqualContentIsTheSameVariant) {
    const Variant a{{{"x", "1"}, {"y", "2"}}, {1920, 1080}, Fps(60), Sync::None};
    Variant b{{{"y", "2"}, {"x", "1"}}, {1920, 1080}, Fps(60), Sync::None};
    EXPECT_EQ(canonicalText(a), canonicalText(b));
    b.cap.reset();
    EXPECT_NE(canonicalText(a), canonicalText(b));
    EXPECT_EQ(canonicalText(b), "resolution=1920x1080;cap_fps=none;sync=none;x=1;y=2");
}

TEST(RunTest, KeysReadBack) {
    for (const auto s : allStyles) EXPECT_EQ(styleOf(keyOf(s)), s);
    for (const auto r : stats::allLowRules) EXPECT_EQ(stats::lowRuleOf(stats::keyOf(r)), r);
    for (const auto p : {Purpose::Baseline, Purpose::Cost, Purpose::Check, Purpose::ProofBefore, Purpose::ProofAfter})
        EXPECT_EQ(purposeOf(keyOf(p)), p);
    EXPECT_FALSE(styleOf("hasty"));
}
