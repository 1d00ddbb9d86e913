// SPDX-License-Identifier: GPL-3.0-or-later
// Where a cell of a JSON document's table stands in the document.
#include <algorithm>
#include <fmt/format.h>
#include <impasto/base/text.h>

#include "head.h"

namespace impasto::logs {
namespace {

/// The line, from 1, on which an item of a list stands; nothing where the text has no such list.
std::optional<std::size_t> lineOfItem(std::string_view text, std::size_t container, std::size_t item) {
    std::size_t line = 1, containers = 0, depth = 0, listDepth = 0, items = 0;
    bool quoted = false, blank = true; // blank: the next item has not begun
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (c == '\n') ++line;
        if (quoted && c == '\\') {
            ++i;
            continue;
        }
        const bool inList = listDepth > 0 && depth == listDepth && !quoted;
        if (inList && blank && c != ' ' && c != '\t' && c != '\r' && c != '\n') {
            if (items == item) return line;
            blank = false;
        }
        if (c == '"') quoted = !quoted;
        if (quoted) continue;
        if (c == '{' || c == '[') {
            ++depth;
            if (containers++ == container) listDepth = depth;
        }
        if ((c == '}' || c == ']') && depth > 0) --depth;
        if (inList && c == ',') {
            ++items;
            blank = true;
        }
    }
    return std::nullopt;
}

/// The line, from 1, of a document among those that are not blank.
std::optional<std::size_t> lineOfDocument(std::string_view text, std::size_t document) {
    Lines lines(text);
    while (const auto line = lines.next())
        if (!trimmed(line->text).empty() && document-- == 0) return line->number + 1;
    return std::nullopt;
}

} // namespace

std::string inPointer(std::string_view name) {
    std::string out;
    for (const char c : name) out += c == '~' ? std::string("~0") : c == '/' ? std::string("~1") : std::string(1, c);
    return out;
}

Where placeInJson(const JsonTable& table, std::string_view document, std::size_t line, std::size_t column) {
    Where out;
    if (line <= (table.heading ? 1U : 0U) || column == 0) return out;
    const std::size_t row = line - 1 - (table.heading ? 1 : 0);
    const std::size_t item = table.columns ? row : row < table.items.size() ? table.items[row] : row;
    const auto name = column <= table.names.size() ? inPointer(table.names[column - 1]) : std::string();
    out.key = table.pointer;
    if (table.columns) {
        out.key += fmt::format("/{}/{}", name, item);
    } else {
        if (!table.aLineEach) out.key += fmt::format("/{}", item);
        if (!table.names.empty()) { // an object's inside an object has both names
            std::string inside = "/" + name;
            std::replace(inside.begin(), inside.end(), '.', '/');
            out.key += inside;
        } else if (table.lists) {
            out.key += fmt::format("/{}", column - 1);
        }
    }
    if (table.aLineEach && !document.empty()) out.line = lineOfDocument(document, item);
    // Of lists beside each other the list itself is not known.
    if (!table.aLineEach && !table.columns && !document.empty()) out.line = lineOfItem(document, table.container, item);
    return out;
}

} // namespace impasto::logs
