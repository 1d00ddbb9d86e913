// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/text.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

namespace impasto {

std::string_view trimmed(std::string_view text) {
    const auto blank = [](char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\n'; };
    while (!text.empty() && blank(text.front())) text.remove_prefix(1);
    while (!text.empty() && blank(text.back())) text.remove_suffix(1);
    return text;
}

std::string lowered(std::string_view text) {
    std::string out(text);
    for (char& c : out)
        if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
    return out;
}

std::optional<double> parseDouble(std::string_view cell, bool decimalComma) {
    double plain = 0;
    const char* const end = cell.data() + cell.size();
    if (!cell.empty() && readDecimal(cell.data(), end, decimalComma ? ',' : '.', plain) == end) return plain;
    cell = trimmed(cell);
    if (cell.size() > 2 && cell.front() == '"' && cell.back() == '"') cell = trimmed(cell.substr(1, cell.size() - 2));
    if (!cell.empty() && cell.front() == '+') cell.remove_prefix(1);
    if (cell.empty() || cell.size() > 64) return std::nullopt;
    std::array<char, 64> buffer;
    if (decimalComma) {
        std::copy(cell.begin(), cell.end(), buffer.begin());
        std::replace(buffer.begin(), buffer.end(), ',', '.');
        cell = {buffer.data(), cell.size()};
    }
    double value = 0.0;
    const auto [last, code] = std::from_chars(cell.data(), cell.data() + cell.size(), value);
    if (code != std::errc() || last != cell.data() + cell.size() || !std::isfinite(value)) return std::nullopt;
    return value;
}

std::string shortestText(double value) {
    std::array<char, 40> buffer{};
    const auto [end, code] = std::to_chars(buffer.data(), buffer.data() + buffer.size(), value);
    return code == std::errc() ? std::string(buffer.data(), end) : std::string();
}

std::optional<std::size_t> firstInvalidUtf8(std::string_view text) {
    std::size_t i = 0;
    const auto byte = [&](std::size_t k) { return static_cast<unsigned char>(text[k]); };
    while (i < text.size()) {
        const unsigned char lead = byte(i);
        const std::size_t extra = lead < 0x80                   ? 0
                                  : lead >= 0xc2 && lead < 0xe0 ? 1
                                  : lead >= 0xe0 && lead < 0xf0 ? 2
                                  : lead >= 0xf0 && lead < 0xf5 ? 3
                                                                : 9;
        if (extra == 9 || i + extra >= text.size()) {
            if (extra == 0 && i < text.size()) {
                ++i;
                continue;
            }
            return i;
        }
        for (std::size_t k = 1; k <= extra; ++k)
            if ((byte(i + k) & 0xc0U) != 0x80U) return i;
        const bool overlong = (lead == 0xe0 && byte(i + 1) < 0xa0) || (lead == 0xf0 && byte(i + 1) < 0x90);
        const bool surrogate = lead == 0xed && byte(i + 1) >= 0xa0;
        const bool beyond = lead == 0xf4 && byte(i + 1) >= 0x90;
        if (overlong || surrogate || beyond) return i;
        i += extra + 1;
    }
    return std::nullopt;
}

std::string wordOf(std::string_view text) {
    std::string out;
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        if (byte <= 0x20 || c == '%' || c == '=' || c == '"' || byte == 0x7f)
            out += fmt::format("%{:02x}", byte);
        else
            out += c;
    }
    return out;
}

std::optional<std::string> textOfWord(std::string_view word) {
    const auto digit = [](char c) {
        if (c >= '0' && c <= '9') return c - '0';
        if (c >= 'a' && c <= 'f') return c - 'a' + 10;
        return c >= 'A' && c <= 'F' ? c - 'A' + 10 : -1;
    };
    std::string out;
    for (std::size_t i = 0; i < word.size(); ++i) {
        if (word[i] != '%') {
            out += word[i];
            continue;
        }
        if (i + 2 >= word.size()) return std::nullopt;
        const int high = digit(word[i + 1]), low = digit(word[i + 2]);
        if (high < 0 || low < 0) return std::nullopt;
        out += static_cast<char>(16 * high + low);
        i += 2;
    }
    return out;
}

} // namespace impasto
