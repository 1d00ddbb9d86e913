// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <charconv>
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <impasto/base/text.h>

using namespace impasto;

TEST(TextTest, NumbersReadWhole) {
    EXPECT_EQ(parseDouble(" 16.7 "), 16.7);
    EXPECT_EQ(parseDouble("+1e3"), 1000.0);
    EXPECT_EQ(parseDouble("\"16.7\""), 16.7);
    EXPECT_EQ(parseDouble("16,7", true), 16.7);
    for (const char* bad : {"", "abc", "1.2.3", "16,7", "nan", "inf", "1e999", "12 ms", "--1"})
        EXPECT_FALSE(parseDouble(bad)) << bad;
    EXPECT_FALSE(parseDouble(std::string(200, '1')));
}

TEST(TextTest, EveryDecimalIsTheNearestDouble) {
    RandomStream s(6, "decimals");
    const auto byLibrary = [](const std::string& text) {
        double value = 0;
        std::from_chars(text.data(), text.data() + text.size(), value);
        return value;
    };
    const auto digit = [&s] { return static_cast<char>('0' + static_cast<int>(10 * s.uniform())); };
    for (int i = 0; i < 200000; ++i) {
        const auto digits = 1 + static_cast<std::size_t>(19 * s.uniform());
        std::string text;
        for (std::size_t k = 0; k < digits; ++k) text += digit();
        if (i % 4 != 0) text.insert(static_cast<std::size_t>(s.uniform() * static_cast<double>(digits + 1)), ".");
        if (i % 7 == 0) text.insert(0, "-");
        const double wanted = byLibrary(text);
        ASSERT_EQ(parseDouble(text), wanted) << text;
        std::replace(text.begin(), text.end(), '.', ',');
        ASSERT_EQ(parseDouble(text, true), wanted) << text;
    }
    EXPECT_EQ(parseDouble("999999999999999"), 999999999999999.0);
    EXPECT_EQ(parseDouble("0.000000000000001"), 1e-15);
    EXPECT_FALSE(parseDouble("."));
    EXPECT_FALSE(parseDouble("1,5"));
    EXPECT_FALSE(parseDouble("1.5.", true));
}

/// A cell ends where its digits do, whatever stands behind it.
TEST(TextTest, DecimalsAreReadWhereTheyStand) {
    for (const std::string cell : {"7", "16.7", "0.123456", "123456.1234567", "1234567.12345678", "99.999999999999"})
        for (const std::string behind :
             {"", ",", ",8.25,1", "\r", ";1;2;3;4;5;6", ".5,1,2,3,4,5", "\xff\xff\xff\xff\xff\xff"}) {
            const std::string text = cell + behind;
            double value = 0;
            const char* const end = text.data() + text.size();
            EXPECT_EQ(readDecimal(text.data(), end, '.', value) - text.data(),
                      static_cast<std::ptrdiff_t>(cell == "7" && behind[0] == '.' ? 3 : cell.size()))
                << text;
            if (cell != "7" || behind[0] != '.') EXPECT_EQ(value, std::stod(cell)) << text;
        }
    for (const std::string none : {"", "x", ".5", "5.", "-1", "1234567890.1234567", "12345678901234567890"}) {
        double value = 0;
        EXPECT_EQ(readDecimal(none.data(), none.data() + none.size(), '.', value), none.data()) << none;
    }
}

TEST(TextTest, ShortestTextReadsBack) {
    for (const double v : {0.1, 1.0 / 3, 1e-300, 16.666666666666668, -2.5}) EXPECT_EQ(parseDouble(shortestText(v)), v);
}

TEST(TextTest, InvalidUtf8IsFound) {
    EXPECT_FALSE(firstInvalidUtf8("Größe µs 平"));
    EXPECT_EQ(firstInvalidUtf8("ab\xff"), 2U);
    EXPECT_EQ(firstInvalidUtf8("\xc0\x80"), 0U);         // overlong
    EXPECT_EQ(firstInvalidUtf8("x\xed\xa0\x80"), 1U);    // surrogate
    EXPECT_EQ(firstInvalidUtf8("\xf4\x90\x80\x80"), 0U); // beyond the last plane
    EXPECT_EQ(firstInvalidUtf8("cut \xe2\x82"), 4U);
}

TEST(TextTest, AnyTextIsOneWordAndBack) {
    for (const std::string text : {"", "very high %", "a=b", "line\nend", "\xc3\xa9t\xc3\xa9"}) {
        EXPECT_EQ(wordOf(text).find_first_of(" =\n"), std::string::npos);
        EXPECT_EQ(textOfWord(wordOf(text)), text);
    }
    EXPECT_EQ(wordOf("very high"), "very%20high");
    for (const char* bad : {"%", "a%2", "%zz"}) EXPECT_FALSE(textOfWord(bad)) << bad;
}
