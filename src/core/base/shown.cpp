// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/shown.h>

#include <impasto/base/text.h>

namespace impasto {
namespace {

constexpr std::string_view replacement = "\xef\xbf\xbd"; // U+FFFD

/// How many bytes of the front are one mark that may not pass as it is; 0: it may.
std::size_t harmful(std::string_view text) {
    const auto at = [text](std::size_t i) {
        return i < text.size() ? static_cast<unsigned char>(text[i]) : static_cast<unsigned char>(0);
    };
    if (at(0) == 0xc2 && at(1) >= 0x80 && at(1) < 0xa0) return 2; // U+0080 to U+009F
    if (at(0) == 0xd8 && at(1) == 0x9c) return 2;                 // U+061C
    if (at(0) == 0xe2 && at(1) == 0x80) {                         // U+200E, U+200F, U+2028 to U+202E
        const bool marks = at(2) == 0x8e || at(2) == 0x8f || (at(2) >= 0xa8 && at(2) <= 0xae);
        return marks ? 3 : 0;
    }
    return at(0) == 0xe2 && at(1) == 0x81 && at(2) >= 0xa6 && at(2) <= 0xa9 ? 3 : 0; // U+2066 to U+2069
}

/// Bytes of the front that are one character of UTF-8; 0 where it is none.
std::size_t characterLength(std::string_view text) {
    const auto lead = static_cast<unsigned char>(text.front());
    const std::size_t length = lead < 0x80 ? 1 : lead < 0xe0 ? 2 : lead < 0xf0 ? 3 : 4;
    return length <= text.size() && !firstInvalidUtf8(text.substr(0, length)) ? length : 0;
}

} // namespace

std::string shown(std::string_view text, bool lines) {
    std::string out;
    out.reserve(text.size());
    while (!text.empty()) {
        const auto c = static_cast<unsigned char>(text.front());
        std::size_t taken = 1;
        if (lines && c == '\n')
            out += '\n';
        else if (c < 0x20 || c == 0x7f)
            out.append("\xe2\x90").append(1, static_cast<char>(c == 0x7f ? 0xa1 : 0x80 + c));
        else if (const auto bytes = harmful(text); bytes > 0) {
            out += replacement;
            taken = bytes;
        } else if (const auto length = characterLength(text); length > 0) {
            out += text.substr(0, length);
            taken = length;
        } else
            out += replacement;
        text.remove_prefix(taken);
    }
    return out;
}

} // namespace impasto
