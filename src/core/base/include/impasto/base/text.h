// SPDX-License-Identifier: GPL-3.0-or-later
// Numbers and lines, independent of the locale.
#pragma once

#include <array>
#include <bit>
#include <cstdint>
#include <cstring>
#include <optional>
#include <string>
#include <string_view>

namespace impasto {

std::string_view trimmed(std::string_view text);
std::string lowered(std::string_view text);
/// The whole of a trimmed cell as a finite double, by from_chars ("1e3", "-4.5"); nothing for anything else.
/// With decimalComma, "16,7" is read as 16.7.
std::optional<double> parseDouble(std::string_view cell, bool decimalComma = false);

/// The powers of ten that a double holds exactly, as far as they are needed.
inline constexpr std::array<double, 16> powersOfTen{1e0, 1e1, 1e2,  1e3,  1e4,  1e5,  1e6,  1e7,
                                                    1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15};

/// How many of the next eight bytes are digits before another one, put behind those that are there; 0 where fewer bytes
/// are left. Eight bytes are looked at as one number: those that are no digit have their highest bit set, and pairs,
/// fours and eights of digits are added up by a multiplication each.
inline std::size_t digitsAtOnce(const char* at, const char* end, std::uint64_t& digits) {
    if (std::endian::native != std::endian::little || end - at < 8) return 0;
    std::uint64_t bytes = 0;
    std::memcpy(&bytes, at, sizeof(bytes));
    bytes ^= 0x3030303030303030ULL;
    const std::uint64_t others = ((bytes + 0x7676767676767676ULL) | bytes) & 0x8080808080808080ULL;
    const auto count = static_cast<std::size_t>(std::countr_zero(others)) / 8;
    if (count == 0) return 0;
    bytes <<= 64 - 8 * count; // zeros before them
    bytes = (bytes * 10 + (bytes >> 8U)) & 0x00ff00ff00ff00ffULL;
    bytes = (bytes * 100 + (bytes >> 16U)) & 0x0000ffff0000ffffULL;
    bytes = (bytes * 10000 + (bytes >> 32U)) & 0xffffffffULL;
    static constexpr std::array<std::uint64_t, 9> shifts{1, 10, 100, 1000, 10000, 100000, 1000000, 10000000, 100000000};
    digits = digits * shifts[count] + bytes;
    return count;
}

/// Digits with at most one mark between them, up to 15, as far as they go from `at`; where they end, or `at` where
/// there are none. The digits as a whole number and the power of ten are exact, so that their quotient is rounded once,
/// as from_chars rounds (Clinger 1990). Inlined: nearly every cell of a log is one.
inline const char* readDecimal(const char* at, const char* end, char mark, double& value) {
    constexpr auto mostDigits = static_cast<std::ptrdiff_t>(powersOfTen.size()) - 1;
    std::uint64_t digits = 0; // of more than 19 it is wrong, and not used
    const auto readDigits = [&digits, end](const char* from) {
        for (; from != end; ++from) {
            const auto digit = static_cast<unsigned>(static_cast<unsigned char>(*from)) - '0';
            if (digit > 9) break;
            digits = 10 * digits + digit;
        }
        return from;
    };
    const char* stop = readDigits(at);
    const std::ptrdiff_t before = stop - at;
    std::ptrdiff_t behind = 0;
    if (stop != end && *stop == mark) {
        const char* const from = stop + 1;
        stop = readDigits(from + digitsAtOnce(from, end, digits));
        behind = stop - from;
        if (behind == 0) return at;
    }
    if (before == 0 || before + behind > mostDigits) return at;
    value = static_cast<double>(digits);
    if (behind > 0) value /= powersOfTen[static_cast<std::size_t>(behind)];
    return stop;
}
/// A double with the fewest digits that read back the same (to_chars).
std::string shortestText(double value);
/// Offset of the first byte that is not valid UTF-8, or nothing.
std::optional<std::size_t> firstInvalidUtf8(std::string_view text);

/// Spaces, quotes, %, = and control bytes as %20 and so on, so that a text is one word; and back. Nothing where a % is
/// followed by no two hexadecimal digits.
std::string wordOf(std::string_view text);
std::optional<std::string> textOfWord(std::string_view word);

} // namespace impasto
