// SPDX-License-Identifier: GPL-3.0-or-later
// Numbers and lines, independent of the locale.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace impasto {

std::string_view trimmed(std::string_view text);
std::string lowered(std::string_view text);
/// The whole of a trimmed cell as a finite double, by from_chars ("1e3", "-4.5"); nothing for anything else.
/// With decimalComma, "16,7" is read as 16.7.
std::optional<double> parseDouble(std::string_view cell, bool decimalComma = false);
/// A double with the fewest digits that read back the same (to_chars).
std::string shortestText(double value);
/// Offset of the first byte that is not valid UTF-8, or nothing.
std::optional<std::size_t> firstInvalidUtf8(std::string_view text);

/// Spaces, quotes, %, = and control bytes as %20 and so on, so that a text is one word; and back. Nothing where a % is
/// followed by no two hexadecimal digits.
std::string wordOf(std::string_view text);
std::optional<std::string> textOfWord(std::string_view word);

} // namespace impasto
