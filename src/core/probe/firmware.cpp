// SPDX-License-Identifier: GPL-3.0-or-later
#include "firmware.h"

#include "edid_blocks.h"

#include <algorithm>

namespace impasto::probe {
namespace {

/// 0: not known; 0xffff: in the double word further behind.
std::optional<double> speedAt(const Bytes& s, std::size_t word, std::size_t extended) {
    if (s.size() < word + 2) return std::nullopt;
    const unsigned value = s.word(word);
    if (value == 0) return std::nullopt;
    if (value != 0xffff) return value;
    return s.size() < extended + 4 ? std::nullopt
                                   : std::optional(s.word(extended) + 65536.0 * (s.word(extended + 2) & 0x7fffU));
}

void slowest(std::optional<double>& of, std::optional<double> value) {
    if (value && *value > 0) of = of ? std::min(*of, *value) : *value;
}

} // namespace

std::optional<Modules> modulesIn(std::string_view table) {
    Modules out;
    bool any = false;
    for (std::size_t at = 0; at + 4 <= table.size();) {
        const Bytes head(table.substr(at));
        const unsigned type = head.at(0), length = head.at(1);
        if (length < 4 || at + length > table.size()) break;
        const auto s = head.from(0, length);
        if (type == 17 && length >= 0x15 && s.word(0x0c) != 0) {
            ++out.filled;
            slowest(out.ratedMts, speedAt(s, 0x15, 0x54));
            slowest(out.speedMts, speedAt(s, 0x20, 0x58));
        }
        any = true;
        if (type == 127) break; // the end
        // Its texts follow, and end with two zeros.
        const auto end = table.find(std::string_view("\0\0", 2), at + length);
        if (end == std::string_view::npos) break;
        at = end + 2;
    }
    return any ? std::optional(out) : std::nullopt;
}

} // namespace impasto::probe
