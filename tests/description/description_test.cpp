// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/description/description.h>

using namespace impasto;
using description::Document;

TEST(DescriptionTest, SyntaxErrorsNameLineAndColumn) {
    const auto bad = Document::parse("a = 1\nb = = 2\n", "x.toml");
    ASSERT_FALSE(bad.has_value());
    EXPECT_EQ(bad.error().code, ErrorCode::BadSyntax);
    EXPECT_EQ(bad.error().where.line, 2U);
    EXPECT_EQ(bad.error().where.file, "x.toml");
    EXPECT_EQ(Document::parse("a = \"\xff\"", "x").error().code, ErrorCode::NotText);
}

TEST(DescriptionTest, TheFirstFaultIsKept) {
    const auto document = Document::parse("name = 3\nsize = 99\n[sub]\nx = \"y\"\n", "x.toml");
    ASSERT_TRUE(document.has_value());
    const auto root = document->root();
    EXPECT_EQ(root.number("size", 0, 10), 0);
    EXPECT_EQ(root.text("name"), "");
    const auto fault = document->check();
    ASSERT_FALSE(fault.has_value());
    EXPECT_EQ(fault.error().code, ErrorCode::OutOfRange);
    EXPECT_EQ(fault.error().where.line, 2U);
    EXPECT_EQ(fault.error().where.key, "size");
}

TEST(DescriptionTest, KeysNobodyAsksForAreFound) {
    const auto document = Document::parse("[sub]\nx = 1\nspelled_wrong = 2\n", "x.toml");
    EXPECT_EQ(document->root().table("sub").number("x", 0, 2), 1);
    const auto fault = document->check();
    ASSERT_FALSE(fault.has_value());
    EXPECT_EQ(fault.error().where.key, "sub.spelled_wrong");
    EXPECT_EQ(fault.error().where.line, 3U);
}

TEST(DescriptionTest, WhatIsLeftIsNotLookedAt) {
    const auto document = Document::parse("[rig]\nx = 1\n[rig.deep]\ny = [1, {z = 2}]\n", "x.toml");
    document->root().leave("rig");
    EXPECT_TRUE(document->check().has_value());
}

TEST(DescriptionTest, QuotedTextReadsBack) {
    const std::string odd = "a \"quoted\" back\\slash\ttab\nline \x01";
    const auto document = Document::parse("t = " + description::quoted(odd), "x");
    ASSERT_TRUE(document.has_value());
    EXPECT_EQ(document->root().text("t"), odd);
}

TEST(DescriptionTest, WhatIsTooDeepOrTooMuchIsRefusedBeforeItIsTakenApart) {
    const auto faultOf = [](const std::string& text) {
        const auto parsed = Document::parse(text, "x.toml");
        return parsed ? std::string() : parsed.error().what;
    };
    const auto many = [](std::size_t n, const std::string& piece) {
        std::string out;
        for (std::size_t i = 0; i < n; ++i) out += piece;
        return out;
    };
    const std::string points = "more than 1000 points in a line";
    EXPECT_EQ(faultOf("a" + many(35000, ".a") + " = 1\n"), points);
    EXPECT_EQ(faultOf("[a" + many(35000, ".\"a\"") + "]\nx = 1\n"), points);
    EXPECT_EQ(faultOf("x = { a" + many(35000, " . a") + " = 1 }\n"), points);
    EXPECT_EQ(faultOf("x = { s = \"\"\"a\"b\"\"\", k" + many(35000, ".a") + " = 1 }\n"), points) << "behind a quote";
    EXPECT_EQ(faultOf("a" + many(990, ".a") + " = 1\n"), "") << "as deep as that is taken apart";
    EXPECT_NE(faultOf("x = " + many(40000, "[")), "");
    EXPECT_NE(faultOf("x = " + many(40000, "{a=") + "1"), "");
    std::string keys;
    for (int i = 0; i < 30000; ++i) keys += "k" + std::to_string(i) + " = 1\n";
    EXPECT_EQ(faultOf(keys), "more than 20000 keys");
    EXPECT_EQ(faultOf("x = [" + many(500, "0.5, ") + "]\n# " + many(100, "a.") + "\ny = \"" + many(100, ".=") + "\"\n"),
              "")
        << "lists, comments and texts as people write them";
}
