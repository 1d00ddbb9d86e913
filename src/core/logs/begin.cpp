// SPDX-License-Identifier: GPL-3.0-or-later
#include "begin.h"

#include <algorithm>
#include <utility>

#include "heading.h"
#include "nature.h"

namespace impasto::logs {
namespace {

/// A clock or a counter of frames falls all the way, and no clock rises.
bool standsNewestFirst(const Table& table) {
    bool falls = false;
    for (std::size_t c = 0; c < table.values.size(); ++c) {
        const std::string_view header =
            c < table.header.size() ? std::string_view(table.header[c]) : std::string_view();
        const bool left = hasWord(header, "left") || hasWord(header, "remain") || hasWord(header, "countdown");
        if (left || saysFrameTime(header) || saysOtherFigure(header, table.clocks[c].used)) continue;
        const auto nature = natureOf(table.values[c], table.missing[c]);
        if (nature.cumulative) return false;
        falls = falls || nature.falls;
    }
    return falls;
}

} // namespace

Result<Begin> beginOf(std::string_view text, const std::optional<CellRule>& cells) {
    auto sample = sampleOf(text);
    if (!sample) return tl::unexpected(sample.error());
    Table table = tableIn(*sample, cells);
    if (const std::size_t rows = sample->size(); table.rows > 0) {
        *sample = firstRecording(std::move(*sample), table);
        if (sample->size() < rows) table = readAs(*sample, table.delimiter, table.decimalComma);
    }
    if (table.rows == 0) return fail(ErrorCode::NoFrames, {}, {{}, sample->back().line + 2, 1, {}}, Kept::Nothing);
    auto columns = programColumnsOf(table.header);
    auto invented = inventedIn(*sample, table);
    std::string program;
    Table all = table;
    if (columns.empty() && !invented) { // whose rows take turns and are of other kinds, or make no sense together
        const auto kind = kindColumn(*sample, table);
        const auto split = kind ? std::optional(Split{*kind}) : splitColumn(*sample, table);
        if (split) columns.push_back(split->column);
        if (split) program = split->frames;
    }
    const auto read = [&](const std::vector<Row>& rows) { return readAs(rows, all.delimiter, all.decimalComma); };
    if (!columns.empty()) *sample = ofOneProgram(*sample, table, columns, program);
    if (!columns.empty()) table = read(*sample);
    table.firstDataLine = all.firstDataLine; // rows of others may come first
    Table rendered = invented ? read(renderedOf(*sample, table, *invented)) : Table();
    const bool newestFirst = standsNewestFirst(table);
    if (newestFirst)
        for (Table* turned : {&table, &all, &rendered})
            for (auto& column : turned->values) std::reverse(column.begin(), column.end());
    return Begin{std::move(table),    std::move(all),      std::move(columns), std::move(program),
                 std::move(invented), std::move(rendered), newestFirst};
}

} // namespace impasto::logs
