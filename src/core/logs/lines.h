// SPDX-License-Identifier: GPL-3.0-or-later
// Lines and cells of a text, without copying it where it lies in memory as a whole.
#pragma once

#include <algorithm>
#include <cstring>
#include <impasto/base/error.h>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include "source.h"

namespace impasto::logs {

struct Line {
    std::size_t number;    // from 0
    std::string_view text; // good until the next line is asked for, where the text comes from a source
    bool ended;            // had its line end
    bool tooLong;          // text is cut at the limit
};

/// Lines that are longer are cut behind so many bytes.
inline constexpr std::size_t longestLine = std::size_t{1} << 20U;

/// The line at the begin of a text that is not empty, up to `end` (its line end; nullptr: to the end of the text); the
/// text then goes on behind it.
inline Line takeLine(std::string_view& rest, const char* end, std::size_t number) {
    const std::size_t length = end != nullptr ? static_cast<std::size_t>(end - rest.data()) : rest.size();
    std::string_view text(rest.data(), std::min(length, longestLine));
    rest = {rest.data() + std::min(rest.size(), length + 1), rest.size() - std::min(rest.size(), length + 1)};
    if (!text.empty() && text.back() == '\r') text = {text.data(), text.size() - 1};
    return {number, text, end != nullptr, length > longestLine};
}
inline const char* lineEnd(std::string_view text) {
    return text.empty() ? nullptr : static_cast<const char*>(std::memchr(text.data(), '\n', text.size()));
}

class Lines {
  public:
    /// All of a text.
    explicit Lines(std::string_view text);
    /// Text that was read of a source before, and what the source still gives. Both outlive this.
    Lines(std::string_view begin, Source& rest);
    std::optional<Line> next();
    /// Instead: whole lines of about so many bytes, the first of which is what next() would give. Lines that are too
    /// long are cut behind the limit. False at the end.
    bool block(std::size_t bytes, std::string& out);
    [[nodiscard]] std::size_t linesRead() const { return m_number; } // by next()

  private:
    bool refill();

    std::string_view m_rest;
    Source* m_source = nullptr;
    std::string m_buffer; // a line over two blocks
    std::size_t m_number = 0;
};

/// Blank, or begins with '#' or "//".
bool isComment(std::string_view line);
/// Cells between delimiters, quotes respected; runs of spaces count as one where the delimiter is a space.
std::vector<std::string_view> cellsOf(std::string_view line, char delimiter);
/// The same behind those that are there.
void splitCells(std::string_view line, char delimiter, std::vector<std::string_view>& cells);
/// The cells at the columns, joined by " / "; those that a row lacks are left out.
std::string joinedCells(std::span<const std::string_view> cells, const std::vector<std::size_t>& columns);
/// A refusal of the whole text at a line (from 0) and a column (from 1: a cell, or a byte where no cells are known).
Error refusal(ErrorCode code, std::string what, std::size_t line, std::size_t column);
/// LineTooLong at the line, where it is.
std::optional<Error> faultOfLength(const Line& line);
/// NoFrames behind so many lines.
Error noFrames(std::size_t linesRead);
/// EmptyFile, or NotText for UTF-16 and binary content.
std::optional<Error> faultOfText(std::string_view text);

} // namespace impasto::logs
