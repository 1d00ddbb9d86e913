// SPDX-License-Identifier: GPL-3.0-or-later
// Rows of frames that were invented between two rendered ones.
#include "split.h"

#include <algorithm>
#include <impasto/base/text.h>
#include <iterator>
#include <set>

#include "heading.h"
#include "lines.h"

namespace impasto::logs {
namespace {

/// What a column says, where that are few different words.
struct FewWords {
    std::set<std::string_view> words;
    std::string_view last;
    bool many = false;
};

/// Of every column, in one pass: a column of many words is soon left alone.
std::vector<FewWords> wordsIn(const std::vector<Row>& sample, const Table& table) {
    constexpr std::size_t most = 6;
    std::vector<FewWords> out(table.columns);
    for (const auto& row : sample) {
        if (row.line < table.firstDataLine) continue;
        const auto cells = cellsOf(row.text, table.delimiter);
        if (cells.size() != table.columns) continue;
        for (std::size_t c = 0; c < cells.size(); ++c) {
            auto& column = out[c];
            const auto word = trimmed(cells[c]);
            if (column.many || (word == column.last && !column.words.empty())) continue;
            column.words.insert(column.last = word);
            column.many = column.words.size() > most;
        }
    }
    return out;
}

/// Those of a column's words that say that a frame was invented; none where it says nothing of the kind.
std::vector<std::string> inventedAmong(const std::string& heading, const std::set<std::string_view>& words) {
    static const std::set<std::string> yes{"1", "true", "yes", "y"}, no{"", "0", "false", "no", "n", "-"};
    const auto says = [](std::string_view text, std::initializer_list<std::string_view> any) {
        return std::any_of(any.begin(), any.end(), [text](auto word) { return hasWord(text, word); });
    };
    const bool figure = unitInHeader(heading) || saysInventedCount(heading) ||
                        says(heading, {"frames", "count", "time", "fps", "load", "%"});
    const bool yesOrNo = std::all_of(words.begin(), words.end(), [](std::string_view word) {
        return yes.contains(lowered(word)) || no.contains(lowered(word));
    });
    const bool rendered = heading == "rendered" || says(heading, {"is rendered", "is_rendered"});
    std::vector<std::string> out;
    for (const auto word : words) {
        const bool is = !yesOrNo                ? saysInvented(lowered(word))
                        : figure                ? false
                        : saysInvented(heading) ? yes.contains(lowered(word))
                                                : rendered && no.contains(lowered(word));
        if (is) out.emplace_back(word);
    }
    return out;
}

} // namespace

std::optional<Invented> inventedIn(const std::vector<Row>& sample, const Table& table) {
    const auto columns = wordsIn(sample, table);
    for (std::size_t c = 0; c < columns.size(); ++c) {
        if (columns[c].many || columns[c].words.size() < 2) continue;
        Invented invented{c,
                          inventedAmong(c < table.header.size() ? table.header[c] : std::string(), columns[c].words)};
        if (!invented.cells.empty() && invented.cells.size() < columns[c].words.size()) return invented;
    }
    return std::nullopt;
}

std::vector<Row> renderedOf(const std::vector<Row>& sample, const Table& table, const Invented& invented) {
    std::vector<Row> out;
    std::copy_if(sample.begin(), sample.end(), std::back_inserter(out), [&](const Row& row) {
        const auto cells = cellsOf(row.text, table.delimiter);
        const auto cell = invented.column < cells.size() ? trimmed(cells[invented.column]) : std::string_view();
        return row.line < table.firstDataLine ||
               std::find(invented.cells.begin(), invented.cells.end(), cell) == invented.cells.end();
    });
    return out;
}

} // namespace impasto::logs
