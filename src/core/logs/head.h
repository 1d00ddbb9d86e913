// SPDX-License-Identifier: GPL-3.0-or-later
// The begin of a log, enough to find how it is to be read, and what still comes.
#pragma once

#include <impasto/logs/import.h>

#include "lines.h"

namespace impasto::logs {

/// The table of a JSON document, or of one document a line, as tab-separated text with a heading.
struct JsonTable {
    std::string text;
    std::string pointer;              // of its list in the document (RFC 6901)
    bool aLineEach = false;           // documents
    bool columns = false;             // lists beside each other
    std::vector<std::string> names;   // of objects, or of columns
    std::vector<std::uint32_t> items; // of each row in its list
    std::size_t container = 0;        // the list, as containers open
    bool heading = false;             // the first line holds the names
    bool lists = false;               // a row is a list
};

struct Head {
    Opened opened;
    std::string storage;                // where the text does not lie in memory already
    std::string_view text;              // whole lines but for the last; all of it where it is short
    std::optional<JsonTable> json = {}; // where it was one; its text is the storage
    std::string document = {};          // of JSON, where it is not too long to keep
    [[nodiscard]] Lines lines() const { return {text, *opened.source}; }
};
/// Errors: those of the source.
Result<std::unique_ptr<Head>> openHead(const Origin& origin, std::size_t mostBytes = std::size_t{1} << 34U);

/// The dialect of a text's begin; where several programs wrote it, its program is still open. Not `asked`: the
/// heading's unit stands, whatever the values look like.
Result<Dialect> guessColumns(std::string_view begin, const std::optional<CellRule>& cells = {}, bool asked = true);
/// Of a table that guessColumns refuses for its rates: how long a row lasts, where a clock stands beside them.
std::optional<double> rateStepMs(std::string_view begin, const std::optional<CellRule>& cells = {});
/// Delimiter, decimal mark and columns alone, with the first column as the time.
std::optional<Dialect> guessTable(std::string_view begin, const std::optional<CellRule>& cells = {});
/// The programs of the rest of the lines, most rows first.
std::vector<std::pair<std::string, std::size_t>> programsOf(Lines lines, const Dialect& dialect);
/// The one with the most rows; where there is but one, its columns are forgotten.
void chooseProgram(Dialect& dialect, const std::vector<std::pair<std::string, std::size_t>>& programs);
/// The cells before the first data line, as written; empty where they are not a heading.
std::vector<std::string> headingOf(std::string_view begin, const Dialect& dialect);
/// A mark of heading and delimiter, 0 without a heading.
std::uint64_t markOf(const std::vector<std::string>& heading);

/// How many lines are read between two looks at whether to go on.
inline constexpr std::size_t linesBetweenLooks = 4096;
/// Our own capture file, about `expected` rows. Errors: those of a log, BadValue, and Cancelled.
Result<capture::Capture> readOwn(Lines lines, std::size_t expected, const Context& context);

/// Nothing where it is none.
std::optional<JsonTable> tableOfJson(std::string_view text);
/// A name as a pointer holds it.
std::string inPointer(std::string_view name);
/// Where a cell of the table stands in the document; line and column from 1. Without the document no line.
Where placeInJson(const JsonTable& table, std::string_view document, std::size_t line, std::size_t column);

} // namespace impasto::logs
