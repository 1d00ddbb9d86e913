// SPDX-License-Identifier: GPL-3.0-or-later
// TOML 1.0, by dotted paths ("graphics.shadows").
#include "place.h"

#include <toml++/toml.h>

namespace impasto::config {
namespace {

/// The byte at a line and column (both from 1; columns count characters).
std::size_t byteAt(std::string_view text, toml::source_position position) {
    std::size_t at = text.starts_with("\xEF\xBB\xBF") ? 3 : 0;
    for (toml::source_index line = 1; line < position.line; ++line) {
        const auto end = text.find('\n', at);
        if (end == std::string_view::npos) return text.size();
        at = end + 1;
    }
    for (toml::source_index column = 1; column < position.column && at < text.size(); ++column) {
        ++at;
        while (at < text.size() && (static_cast<unsigned char>(text[at]) & 0xC0U) == 0x80U) ++at;
    }
    return at;
}

std::string readable(std::string_view raw, const toml::node& node) {
    if (const auto* text = node.as_string()) return text->get();
    return std::string(raw);
}

} // namespace

Result<Place> findToml(std::string_view text, const std::string& key) {
    try {
        const toml::table root = toml::parse(text);
        const auto node = root.at_path(key);
        if (!node || node.is_table() || node.is_array()) return fail(ErrorCode::NotInFile, key);
        const auto source = node.node()->source();
        const std::size_t begin = byteAt(text, source.begin), end = byteAt(text, source.end);
        if (end <= begin) return fail(ErrorCode::NotInFile, key);
        const auto raw = text.substr(begin, end - begin);
        return Place{begin, end, readable(raw, *node.node()), Place::Writing::Toml, node.is_string() ? '"' : '\0'};
    } catch (const toml::parse_error& e) {
        return fail(ErrorCode::BadSyntax, std::string(e.description()),
                    {{}, e.source().begin.line, e.source().begin.column, {}});
    }
}

} // namespace impasto::config
