// SPDX-License-Identifier: GPL-3.0-or-later
// The begin of a log cut into cells with the delimiter and decimal mark that fit best. Private to logs.
#pragma once

#include <impasto/logs/import.h>

#include "clock.h"

namespace impasto::logs {

struct Row {
    std::size_t line;
    std::string_view text;
};

/// The sample read with one delimiter and decimal mark.
struct Table {
    char delimiter = ',';
    bool decimalComma = false;
    std::size_t columns = 0;
    std::size_t firstDataLine = 0;
    std::vector<std::string> header;         // lowered; empty when there is none
    std::vector<std::string> heading;        // as written
    std::vector<std::vector<double>> values; // per column; NaN where a cell is not a number
    std::vector<Clock> clocks;               // per column; used: its cells are dates or clock times
    std::vector<std::size_t> missing;        // per column: cells that say that there is none
    bool unitsBehind = false;                // numbers have their unit behind them, in some column
    std::size_t rows = 0;
    double score = 0.0; // numeric cells a row, in rows of the common width
};

/// The rows from which a dialect is guessed; the fault that keeps the text from being one.
Result<std::vector<Row>> sampleOf(std::string_view text);
Table readAs(const std::vector<Row>& sample, char delimiter, bool decimalComma);
/// As said, or with what gives most numbers.
Table tableIn(const std::vector<Row>& sample, const std::optional<CellRule>& cells);

} // namespace impasto::logs
