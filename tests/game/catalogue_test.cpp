// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/game/catalogue.h>
#include <set>

using namespace impasto;
using namespace impasto::game;

TEST(CatalogueTest, TheShippedOneIsReadWholeAndNamesNothingTwice) {
    const auto kinds = parseCatalogue(support::textOf(support::dataFile("catalogue.toml")), "catalogue.toml");
    ASSERT_TRUE(kinds.has_value()) << kinds.error().what;
    EXPECT_EQ(kinds->size(), catalogue().size()) << "what is compiled in is the file";
    EXPECT_GE(kinds->size(), 40U);
    std::set<std::string> ids, words;
    for (const auto& kind : *kinds) {
        EXPECT_TRUE(ids.insert(kind.id).second) << kind.id;
        for (const auto& word : kind.words) EXPECT_TRUE(words.insert(word).second) << word;
        EXPECT_GT(kind.cpuShare + kind.gpuShare + kind.memoryShare, 0) << kind.id;
    }
}

TEST(CatalogueTest, TheLongestWordOfLabelOrIdNamesTheKind) {
    const auto kindNamed = [](const char* id, const char* label) {
        Setting s;
        s.id = id;
        s.label = label;
        const auto* kind = kindOf(s);
        return kind == nullptr ? std::string() : kind->id;
    };
    EXPECT_EQ(kindNamed("a", "Shadow quality"), "shadows");
    EXPECT_EQ(kindNamed("a", "Contact shadows"), "contact_shadows");
    EXPECT_EQ(kindNamed("a", "Texture Filter"), "filtering");
    EXPECT_EQ(kindNamed("textures", "Quality"), "textures");
    EXPECT_EQ(kindNamed("view_distance", "How far"), "view") << "ids are read with spaces for underscores";
    EXPECT_EQ(kindNamed("zz", "Quux"), "");
}

TEST(CatalogueTest, WhatItsPlayerSaysStandsAboveTheName) {
    Setting s;
    s.id = "a";
    s.label = "Bloom";
    EXPECT_LT(usualOf(s).cpuShare, 0.01);
    s.paysCpu = true;
    EXPECT_GE(usualOf(s).cpuShare, 0.05);
    s.label = "Quux"; // of which nothing is known
    s.paysCpu = false;
    EXPECT_GT(usualOf(s).gpuShare, 0);
    EXPECT_EQ(usualOf(s).gpuShare, usualOf(s).cpuShare);
}

TEST(CatalogueTest, AFaultIsSaidWithItsPlace) {
    const auto read = [](const char* text) { return parseCatalogue(text, "c.toml"); };
    EXPECT_EQ(read("[[kind]]\nid = \"a\"\nwords = [\"a\"]\ncpu = 2\ngpu = 0\npixels = 0\n").error().where.key,
              "kind[0].cpu");
    EXPECT_EQ(read("[[kind]]\nid = \"a\"\nwords = []\ncpu = 0\ngpu = 0\npixels = 0\n").error().code,
              ErrorCode::MissingKey);
    EXPECT_FALSE(read("[[kind]\n").has_value());
}
