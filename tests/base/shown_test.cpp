// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>
#include <impasto/base/shown.h>

using namespace impasto;

TEST(ShownTest, WhatIsHarmlessPassesAsItIs) {
    for (const char* text : {"", "frame_ms", "Mühle \u00b5s \u4f60\u597d", "\U0001f3ae", "a\u200bb"})
        EXPECT_EQ(shown(text), text);
}

TEST(ShownTest, ControlsEscapesAndTurnedDirectionsAreVisible) {
    EXPECT_EQ(shown("\x1b[2Jgone"), "\u241b[2Jgone");
    EXPECT_EQ(shown(std::string_view("a\0b\x7f", 4)), "a\u2400b\u2421");
    EXPECT_EQ(shown("a\nb\tc"), "a\u240ab\u2409c");
    EXPECT_EQ(shown("a\nb\tc", true), "a\nb\u2409c");
    EXPECT_EQ(shown("x\u202egnp.exe"), "x\ufffdgnp.exe");
    for (const char* mark : {"\u0085", "\u009b", "\u061c", "\u200e", "\u200f", "\u2028", "\u202a", "\u2066", "\u2069"})
        EXPECT_EQ(shown(mark), "\ufffd");
}

TEST(ShownTest, WhatIsNoUtf8IsReplacedByteForByte) {
    EXPECT_EQ(shown("a\xff\xfe"
                    "b"),
              "a\ufffd\ufffdb");
    EXPECT_EQ(shown("\xe2\x82"), "\ufffd\ufffd") << "a character that is cut";
    EXPECT_EQ(shown("\xc0\xaf"), "\ufffd\ufffd") << "a longer form than need be";
    EXPECT_EQ(shown("\xed\xa0\x80"), "\ufffd\ufffd\ufffd") << "half of a pair";
}
