// SPDX-License-Identifier: GPL-3.0-or-later
// JSON of a logbook, which may come from a stranger: its size and depth are looked at before it is taken apart. Keys
// that this version does not know are passed over; the rows that hold them stay as they are, and edits hand theirs on.
#pragma once

#include <nlohmann/json.hpp>

namespace impasto::logbook {

/// Throws std::invalid_argument, and what the parser throws.
inline nlohmann::ordered_json parsedJson(std::string_view text) {
    constexpr std::size_t mostBytes = std::size_t{1} << 24U;
    constexpr int deepest = 32;
    if (text.size() > mostBytes) throw std::invalid_argument("a text that is too long");
    int depth = 0;
    bool quoted = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (c == '"') quoted = !quoted;
        if (quoted) {
            i += c == '\\' ? 1 : 0;
            continue;
        }
        depth += c == '[' || c == '{' ? 1 : c == ']' || c == '}' ? -1 : 0;
        if (depth > deepest) throw std::invalid_argument("lists in lists too deep");
    }
    return nlohmann::ordered_json::parse(text);
}

} // namespace impasto::logbook
