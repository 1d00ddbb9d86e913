// SPDX-License-Identifier: GPL-3.0-or-later
// Frame logs in JSON (RFC 8259): the largest table in the document, whatever it is called.
#include <algorithm>
#include <impasto/base/text.h>
#include <map>
#include <nlohmann/json.hpp>

#include "head.h"

namespace impasto::logs {
namespace {

using Json = nlohmann::ordered_json;

constexpr std::size_t fewestRows = 3, deepest = 32;

/// Cells by row and column.
struct Table {
    std::vector<std::string> heading;
    std::vector<std::vector<const Json*>> columns; // a missing cell is null
    std::size_t rows = 0;
    [[nodiscard]] std::size_t cells() const { return rows * columns.size(); }
};

std::string cellOf(const Json* value) {
    if (value == nullptr || value->is_null()) return {};
    if (value->is_boolean()) return value->get<bool>() ? "1" : "0";
    if (value->is_number()) return shortestText(value->get<double>());
    if (!value->is_string()) return {};
    std::string text = value->get<std::string>();
    std::replace_if(
        text.begin(), text.end(), [](char c) { return c == '\t' || c == '\n' || c == '\r' || c == '"' || c == '\0'; },
        ' ');
    return text;
}

/// One object's values, those of objects inside with both names.
void flatten(const Json& object, const std::string& prefix, std::size_t depth,
             std::vector<std::pair<std::string, const Json*>>& out) {
    for (const auto& [key, value] : object.items())
        if (value.is_object() && depth < 4)
            flatten(value, prefix + key + ".", depth + 1, out);
        else if (!value.is_structured())
            out.emplace_back(prefix + key, &value);
}

Table ofObjects(const Json& list) {
    Table table;
    std::map<std::string, std::size_t> known;
    for (const auto& item : list) {
        if (!item.is_object()) continue;
        std::vector<std::pair<std::string, const Json*>> values;
        flatten(item, {}, 0, values);
        for (const auto& [name, value] : values) {
            const auto [it, isNew] = known.try_emplace(name, table.columns.size());
            if (isNew) {
                if (table.columns.size() == 200) continue; // no table of frames has so many
                table.heading.push_back(name);
                table.columns.emplace_back();
            }
            if (it->second >= table.columns.size()) continue;
            auto& column = table.columns[it->second];
            if (column.size() > table.rows) continue; // the same name twice
            column.resize(table.rows, nullptr);
            column.push_back(value);
        }
        ++table.rows;
    }
    for (auto& column : table.columns) column.resize(table.rows, nullptr);
    return table;
}

Table ofLists(const Json& list) {
    Table table;
    for (const auto& item : list) {
        if (!item.is_array() || item.size() > 200) continue;
        for (std::size_t c = 0; c < item.size(); ++c) {
            if (c == table.columns.size()) table.columns.emplace_back();
            table.columns[c].resize(table.rows, nullptr);
            table.columns[c].push_back(&item[c]);
        }
        ++table.rows;
    }
    for (auto& column : table.columns) column.resize(table.rows, nullptr);
    return table;
}

bool isColumn(const Json& value) {
    return value.is_array() && value.size() >= fewestRows && value.front().is_primitive();
}

/// Lists of one length beside each other, the longest ones.
Table ofColumns(const Json& object) {
    Table table;
    for (const auto& [key, value] : object.items())
        if (isColumn(value)) table.rows = std::max(table.rows, value.size());
    for (const auto& [key, value] : object.items()) {
        if (!isColumn(value) || value.size() != table.rows) continue;
        table.heading.push_back(key);
        auto& column = table.columns.emplace_back();
        for (const auto& item : value) column.push_back(&item);
    }
    return table;
}

Table largestIn(const Json& document) {
    Table best;
    const auto offer = [&best](Table table) {
        if (table.rows >= fewestRows && table.cells() > best.cells()) best = std::move(table);
    };
    std::vector<std::pair<const Json*, std::size_t>> open{{&document, 0}};
    while (!open.empty()) {
        const auto [value, depth] = open.back();
        open.pop_back();
        if (value->is_object()) offer(ofColumns(*value));
        if (value->is_array() && !value->empty()) {
            if (value->front().is_object()) offer(ofObjects(*value));
            if (value->front().is_array()) offer(ofLists(*value));
            if (value->front().is_number()) {
                Table one;
                one.rows = value->size();
                auto& column = one.columns.emplace_back();
                for (const auto& item : *value) column.push_back(&item);
                offer(std::move(one));
            }
        }
        if (value->is_structured() && depth < deepest)
            for (const auto& inner : *value)
                if (inner.is_structured()) open.emplace_back(&inner, depth + 1);
    }
    return best;
}

std::string textOf(const Table& table) {
    std::string out;
    for (std::size_t c = 0; c < table.heading.size(); ++c) {
        const Json name = table.heading[c];
        out += (c == 0 ? "" : "\t") + cellOf(&name);
    }
    if (!table.heading.empty()) out += '\n';
    for (std::size_t r = 0; r < table.rows; ++r) {
        for (std::size_t c = 0; c < table.columns.size(); ++c)
            out += (c == 0 ? "" : "\t") + cellOf(table.columns[c][r]);
        out += '\n';
    }
    return out;
}

/// One document a line; a last line that was cut is left out.
Json documentsOfLines(std::string_view text) {
    Json all = Json::array();
    Lines lines(text);
    while (const auto line = lines.next()) {
        if (trimmed(line->text).empty()) continue;
        Json one = Json::parse(line->text, nullptr, false);
        if (one.is_discarded()) return line->ended ? Json() : all;
        all.push_back(std::move(one));
    }
    return all;
}

/// A document that was cut: up to the last whole item of a list, with what is open closed. Empty where there is none.
std::string mended(std::string_view text) {
    std::size_t end = 0, closers = 0;
    std::string open, closing; // what is open, by its closing bracket
    bool quoted = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (quoted && c == '\\') ++i;
        if (c == '"') quoted = !quoted;
        if (quoted) continue;
        if (c == '{' || c == '[') open += c == '{' ? '}' : ']';
        if ((c == '}' || c == ']') && !open.empty()) open.pop_back();
        if (c == ',' && !open.empty() && open.back() == ']') {
            end = i;
            closers = open.size();
            closing.assign(open, 0, std::min<std::size_t>(open.size(), deepest));
        }
    }
    if (closers == 0 || closers > deepest) return {};
    return std::string(text.substr(0, end)).append(closing.rbegin(), closing.rend());
}

} // namespace

std::optional<std::string> tableOfJson(std::string_view text) {
    if (text.substr(0, 3) == "\xef\xbb\xbf") text.remove_prefix(3);
    Json document = Json::parse(text, nullptr, false);
    if (document.is_discarded()) document = documentsOfLines(text);
    if (document.empty()) document = Json::parse(mended(text), nullptr, false);
    const Table table = largestIn(document);
    if (table.rows < fewestRows) return std::nullopt;
    return textOf(table);
}

} // namespace impasto::logs
