// SPDX-License-Identifier: GPL-3.0-or-later
// Every error has its four parts in words; the data of each code is provoked where it arises (see the other rooms'
// tests).
#include "support/support.h"

using namespace impasto;

TEST(ErrorsTest, EveryCodeHasItsWords) {
    const wording::Words w;
    for (std::size_t i = 0; i < errorCodeCount; ++i) {
        const Error error{static_cast<ErrorCode>(i), "THE-THING", {"file.csv", 12, 3, "a.key"}, Kept::AllAsBefore};
        const auto text = wording::error(w, error);
        EXPECT_FALSE(text.what.empty()) << i;
        EXPECT_EQ(text.what.find('{'), std::string::npos) << i;
        EXPECT_EQ(text.where, "Where: file.csv, line 12, column 3, a.key.") << i;
        EXPECT_EQ(text.kept, "Everything is as it was.") << i;
        EXPECT_EQ(text.advice.empty(), error.code == ErrorCode::Cancelled) << i;
    }
    for (const auto kept :
         {Kept::Nothing, Kept::AllAsBefore, Kept::SavedRevisions, Kept::FramesUntilHere, Kept::RestOfLogbook})
        EXPECT_FALSE(wording::error(w, {ErrorCode::Cancelled, {}, {}, kept}).kept.empty());
}

TEST(ErrorsTest, WordsStandInTheReadersLanguage) {
    const wording::Words w(
        [](const char* text) { return std::string(text) == "The file is empty." ? "Leer." : std::string(text); });
    EXPECT_EQ(wording::error(w, {ErrorCode::EmptyFile, {}, {}, Kept::Nothing}).what, "Leer.");
}

// Every part of every error is a whole template of the translator's: a text lengthened by a third and marked shows what
// went past it.
TEST(ErrorsTest, NoPartGoesPastTheTranslator) {
    const wording::Words w(wording::pseudo());
    for (std::size_t i = 0; i < errorCodeCount; ++i) {
        const Error error{static_cast<ErrorCode>(i), "THE-THING", {"file.csv", 12, 3, "a.key"}, Kept::AllAsBefore};
        const auto text = wording::error(w, error);
        for (const auto& part : {text.what, text.where, text.kept, text.advice})
            EXPECT_TRUE(part.empty() || (part.front() == '[' && part.back() == ']')) << i << " " << part;
        EXPECT_GT(text.what.size(), wording::error(wording::Words(), error).what.size()) << i;
    }
}
