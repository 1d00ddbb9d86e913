// SPDX-License-Identifier: GPL-3.0-or-later
#include "number.h"

#include <algorithm>
#include <array>
#include <impasto/base/text.h>

namespace impasto::logs {
namespace {

/// What stands between groups of three digits at the begin of a text, in bytes: a point or a comma, whichever is not
/// the decimal mark, an apostrophe, a blank, one that does not break, or a narrow one; 0: none.
std::size_t groupMark(std::string_view text, char decimal) {
    for (const std::string_view mark : {"\xc2\xa0", "\xe2\x80\xaf", "\xe2\x80\x99"})
        if (text.substr(0, mark.size()) == mark) return mark.size();
    constexpr std::string_view single = ".,' ";
    return !text.empty() && text.front() != decimal && single.find(text.front()) != std::string_view::npos ? 1 : 0;
}

/// "1.234,5" as "1234,5"; the text as it is where its digits do not stand in groups. One group alone, "1.234", may as
/// well be a fraction: it stays, but for marks that are none of fractions.
std::string_view ungrouped(std::string_view cell, char decimal, std::array<char, 64>& buffer) {
    const auto digit = [](char c) { return c >= '0' && c <= '9'; };
    std::size_t at = !cell.empty() && cell.front() == '-' ? 1 : 0, out = 0, groups = 0;
    const std::size_t sign = at;
    while (at < cell.size() && digit(cell[at])) ++at;
    if (at == sign || at > sign + 3) return cell;
    out = static_cast<std::size_t>(std::copy_n(cell.begin(), at, buffer.begin()) - buffer.begin());
    const std::string_view mark = cell.substr(at, groupMark(cell.substr(at), decimal));
    while (!mark.empty() && cell.substr(at, mark.size()) == mark) {
        const auto group = cell.substr(at + mark.size(), 3);
        if (group.size() < 3 || !std::all_of(group.begin(), group.end(), digit)) return cell;
        std::copy(group.begin(), group.end(), buffer.begin() + static_cast<std::ptrdiff_t>(out));
        out += 3;
        at += mark.size() + 3;
        ++groups;
    }
    const bool fraction = at < cell.size() && cell[at] == decimal;
    if (groups == 0 || (at < cell.size() && !fraction)) return cell;
    if (!fraction && groups == 1 && mark.size() == 1 && mark != "'") return cell;
    for (; at < cell.size(); ++at) buffer[out++] = cell[at];
    return {buffer.data(), out};
}

std::string_view unquoted(std::string_view cell) {
    cell = trimmed(cell);
    const bool quoted = cell.size() > 2 && cell.front() == '"' && cell.back() == '"';
    return quoted ? trimmed(cell.substr(1, cell.size() - 2)) : cell;
}

} // namespace

std::string_view unitBehind(std::string_view cell) {
    constexpr std::array<std::string_view, 7> units{"ms",
                                                    "%",
                                                    "fps",
                                                    "w",
                                                    "\xc2\xb0"
                                                    "c",
                                                    "mhz",
                                                    "mib"};
    cell = unquoted(cell);
    const auto digit = cell.find_last_of("0123456789");
    if (digit == std::string_view::npos || digit + 1 == cell.size() || cell.size() - digit > 6) return {};
    const auto behind = trimmed(cell.substr(digit + 1));
    return std::find(units.begin(), units.end(), lowered(behind)) == units.end() ? std::string_view() : behind;
}

std::optional<double> parseNumber(std::string_view cell, bool decimalComma, bool units) {
    if (const auto plain = parseDouble(cell, decimalComma)) return plain;
    cell = unquoted(cell);
    if (const auto unit = units ? unitBehind(cell) : std::string_view(); !unit.empty()) {
        cell = trimmed(cell.substr(0, cell.size() - unit.size()));
        if (const auto plain = parseDouble(cell, decimalComma)) return plain;
    }
    std::array<char, 64> buffer;
    if (cell.size() > buffer.size()) return std::nullopt;
    const auto together = ungrouped(cell, decimalComma ? ',' : '.', buffer);
    return together.data() == cell.data() ? std::nullopt : parseDouble(together, decimalComma);
}

} // namespace impasto::logs
