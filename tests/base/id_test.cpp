// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>
#include <impasto/base/fingerprint.h>
#include <impasto/base/id.h>
#include <set>

using namespace impasto;

TEST(IdTest, HexReadsBack) {
    const IdBytes bytes = seededIdSource(3)();
    EXPECT_EQ(bytesFromHex(toHex(bytes)), bytes);
    EXPECT_FALSE(bytesFromHex("xyz"));
    EXPECT_FALSE(bytesFromHex(std::string(32, 'g')));
}

TEST(IdTest, SourcesNeverRepeat) {
    std::set<IdBytes> seen;
    const auto seeded = seededIdSource(1), system = systemIdSource();
    for (int i = 0; i < 500; ++i) {
        EXPECT_TRUE(seen.insert(seeded()).second);
        EXPECT_TRUE(seen.insert(system()).second);
    }
}

TEST(FingerprintTest, BordersBetweenTextsCount) {
    EXPECT_NE(Fingerprint().add("ab").add("c").value(), Fingerprint().add("a").add("bc").value());
    EXPECT_NE(Fingerprint().add(0.1).value(), Fingerprint().add(0.2).value());
}
