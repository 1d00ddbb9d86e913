// SPDX-License-Identifier: GPL-3.0-or-later
#include "begin.h"

#include <utility>

namespace impasto::logs {

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
    Table all = table;
    if (columns.empty() && !invented) { // whose rows take turns and are of other kinds, or make no sense together
        auto split = kindColumn(*sample, table);
        if (!split) split = splitColumn(*sample, table);
        if (split) columns.push_back(*split);
    }
    const auto read = [&](const std::vector<Row>& rows) { return readAs(rows, all.delimiter, all.decimalComma); };
    if (!columns.empty()) *sample = ofOneProgram(*sample, table, columns);
    if (!columns.empty()) table = read(*sample);
    Table rendered = invented ? read(renderedOf(*sample, table, *invented)) : Table();
    return Begin{std::move(table), std::move(all), std::move(columns), std::move(invented), std::move(rendered)};
}

} // namespace impasto::logs
