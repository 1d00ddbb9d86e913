// SPDX-License-Identifier: GPL-3.0-or-later
#include "table.h"

#include <algorithm>
#include <cmath>
#include <impasto/base/text.h>

#include "head.h"
#include "heading.h"
#include "number.h"

namespace impasto::logs {
namespace {

constexpr std::size_t sampleRows = 2000;
constexpr std::string_view delimiters = "\t;,| ";

/// "16,7" alone in a line reads as two whole-number columns: the second then has a fixed number of digits.
bool isOneDecimalCommaColumn(const std::vector<Row>& sample) {
    std::size_t digits = 0, rows = 0;
    bool rises = true;
    double last = -1.0;
    for (const auto& row : sample) {
        const auto cells = cellsOf(row.text, ',');
        const bool words = std::none_of(cells.begin(), cells.end(), [](auto cell) { return parseDouble(cell); });
        if (words && rows == 0) {
            if (cells.size() != 1) return false; // its heading says how many columns there are
            continue;
        }
        if (cells.size() != 2) return false;
        const auto a = parseDouble(cells[0]), b = parseDouble(cells[1]);
        if (!a || !b) return false;
        const auto fraction = trimmed(cells[1]);
        if (!std::all_of(fraction.begin(), fraction.end(), [](char c) { return c >= '0' && c <= '9'; })) return false;
        if (*a != std::floor(*a) || (digits != 0 && fraction.size() != digits)) return false;
        digits = fraction.size();
        rises = rises && *a > last;
        last = *a;
        ++rows;
    }
    return rows > 2 && digits >= 2 && !rises;
}

/// What stands in the cells of a column: a word that is the same in every row, units behind numbers.
struct InEveryRow {
    std::string_view cell = {};
    bool word = true;
    std::size_t rows = 0;
    std::map<std::string, std::vector<std::size_t>> units = {}; // rows of each

    void add(std::string_view text, bool number) {
        text = trimmed(text);
        if (rows == 0) cell = text;
        word = word && !number && text == cell && !text.empty();
        if (const auto behind = number ? unitBehind(text) : std::string_view(); !behind.empty())
            units[lowered(behind)].push_back(rows);
        ++rows;
    }
    /// Of nearly all rows.
    [[nodiscard]] std::string unit() const {
        for (const auto& [name, of] : units)
            if (10 * of.size() >= 9 * rows) return name;
        return {};
    }
};

/// A number with a unit is none where the others of its column have none, or another: it may be of a summary.
void sortOutUnits(Table& table, const std::vector<InEveryRow>& columns) {
    for (std::size_t c = 0; c < columns.size(); ++c) {
        const auto usual = columns[c].unit();
        table.unitsBehind = table.unitsBehind || !usual.empty();
        for (const auto& [unit, rows] : columns[c].units)
            for (const auto row : rows)
                if (unit != usual) table.values[c][row] = std::nan("");
    }
}

/// "FPS: 61.2", "time 16.2 ms": a word before a number in every row is its heading where no line of headings stands
/// above, and a unit behind it is the unit of a heading that names none.
void nameByRows(Table& table, const std::vector<InEveryRow>& columns) {
    const auto unitAt = [&](std::size_t c) {
        const auto& each = columns[c];
        if (const auto unit = each.unit(); !unit.empty()) return unit;
        const bool beside = c + 1 < columns.size() && columns[c + 1].word && table.header.empty();
        const auto word = beside ? lowered(columns[c + 1].cell) : std::string();
        return unitInHeader(word) || !unitBehind("1" + word).empty() ? word : std::string();
    };
    std::vector<std::string> units, labels(columns.size());
    for (std::size_t c = 0; c < columns.size(); ++c) units.push_back(unitAt(c));
    for (std::size_t c = 1; c < columns.size() && table.header.empty(); ++c) {
        if (columns[c].word || !columns[c - 1].word) continue;
        auto label = columns[c - 1].cell;
        while (!label.empty() && (label.back() == ':' || label.back() == '=')) label.remove_suffix(1);
        const auto said = lowered(label);
        const bool ofThisOne = c < 2 || unitAt(c - 2) != said; // "16.2 ms 61"
        if (ofThisOne && (saysTime(said) || saysOtherFigure(said, false))) labels[c] = said;
    }
    const auto any = [](const auto& texts) {
        return std::any_of(texts.begin(), texts.end(), [](const std::string& text) { return !text.empty(); });
    };
    if (!any(units) && !any(labels)) return;
    for (auto* names : {&table.header, &table.heading}) {
        if (names->empty()) *names = labels;
        names->resize(std::max(names->size(), columns.size()));
        for (std::size_t c = 0; c < columns.size(); ++c)
            if (auto& name = (*names)[c]; !units[c].empty() && !unitInHeader(lowered(name)))
                name += name.empty() ? units[c] : " (" + units[c] + ")";
    }
}

Table bestTable(const std::vector<Row>& sample) {
    const bool quoted = std::any_of(sample.begin(), sample.end(),
                                    [](const Row& row) { return row.text.find('"') != std::string_view::npos; });
    Table best;
    for (const char delimiter : delimiters)
        for (const bool comma : {false, true}) {
            if (comma && delimiter == ',' && !quoted) continue; // a cell with a comma has to be quoted then
            Table table = readAs(sample, delimiter, comma);
            if (table.score > best.score + 1e-9) best = std::move(table);
        }
    if (best.delimiter == ',' && best.columns == 2 && isOneDecimalCommaColumn(sample))
        best = readAs(sample, '\t', true);
    return best;
}
} // namespace

Table readAs(const std::vector<Row>& sample, char delimiter, bool decimalComma) {
    Table table{delimiter, decimalComma, 0, 0, {}, {}, {}, {}, {}, false, 0, 0.0};
    std::map<std::size_t, std::size_t> widths;
    for (const auto& row : sample) ++widths[cellsOf(row.text, delimiter).size()];
    for (const auto& [width, count] : widths)
        if (count > widths[table.columns]) table.columns = width;
    table.values.resize(table.columns);
    table.clocks.resize(table.columns);
    table.missing.resize(table.columns);
    std::vector<std::string_view> before;
    std::vector<InEveryRow> inEvery(table.columns);
    std::size_t numeric = 0;
    for (const auto& row : sample) {
        const auto cells = cellsOf(row.text, delimiter);
        if (cells.size() != table.columns) continue;
        std::vector<double> numbers;
        std::size_t good = 0;
        for (std::size_t c = 0; c < cells.size(); ++c) {
            const auto value = parseTime(cells[c], decimalComma, true, table.clocks[c]);
            numbers.push_back(value.value_or(std::nan("")));
            good += value.has_value() ? 1 : 0;
        }
        if (table.rows == 0 && good == 0) {
            before = cells;
            continue;
        }
        if (table.rows == 0) table.firstDataLine = row.line;
        for (std::size_t c = 0; c < numbers.size(); ++c) {
            table.values[c].push_back(numbers[c]);
            table.missing[c] += std::isnan(numbers[c]) && saysNothing(cells[c]) ? 1U : 0U;
            inEvery[c].add(cells[c], !std::isnan(numbers[c]));
        }
        numeric += good;
        ++table.rows;
    }
    for (const auto cell : before) {
        table.heading.emplace_back(trimmed(cell));
        table.header.push_back(lowered(table.heading.back()));
    }
    sortOutUnits(table, inEvery);
    nameByRows(table, inEvery);
    table.score = static_cast<double>(numeric) / static_cast<double>(std::max<std::size_t>(1, sample.size()));
    return table;
}

Result<std::vector<Row>> sampleOf(std::string_view text) {
    if (auto fault = faultOfText(text)) return tl::unexpected(*fault);
    std::vector<Row> sample;
    Lines lines(text);
    while (sample.size() < sampleRows) {
        const auto line = lines.next();
        if (!line) break;
        if (const auto fault = faultOfLength(*line)) return tl::unexpected(*fault);
        if (!isComment(line->text) && (line->ended || sample.empty())) sample.push_back({line->number, line->text});
    }
    if (sample.empty()) return tl::unexpected(noFrames(lines.linesRead()));
    return sample;
}

Table tableIn(const std::vector<Row>& sample, const std::optional<CellRule>& cells) {
    return cells ? readAs(sample, cells->delimiter, cells->decimalComma) : bestTable(sample);
}

std::optional<Dialect> guessTable(std::string_view begin, const std::optional<CellRule>& cells) {
    const auto sample = sampleOf(begin);
    if (!sample) return std::nullopt;
    const Table table = tableIn(*sample, cells);
    if (table.rows == 0 && !cells) return std::nullopt;
    Dialect d;
    d.delimiter = table.delimiter;
    d.decimalComma = table.decimalComma;
    d.unitsBehind = table.unitsBehind;
    d.firstDataLine =
        table.rows == 0 ? sample->front().line : table.firstDataLine; // said by hand: it is shown as it is
    d.columns = table.columns;
    return d;
}

} // namespace impasto::logs
