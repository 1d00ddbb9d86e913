// SPDX-License-Identifier: GPL-3.0-or-later
// Lines cut into cells and their numbers read, several blocks at once: what costs most of an import, and needs nothing
// of the lines before.
#pragma once

#include <impasto/logs/import.h>
#include <span>

#include "lines.h"

namespace impasto::logs {

/// A line with its cells, and the numbers in those that are read; NaN where a cell holds none, or is not read.
struct CutLine {
    Line line;
    std::span<const std::string_view> cells;
    std::span<const double> numbers; // as many as cells
};

class Rows {
  public:
    /// Cuts the lines as the dialect says, and reads the columns that it takes.
    Rows(Lines lines, const Dialect& dialect);
    /// The next line, headings and comments too; good until the next call.
    std::optional<CutLine> next();

  private:
    struct Block {
        struct Entry {
            Line line;
            std::size_t from; // of its cells
        };
        std::string text;
        std::vector<Entry> entries;
        std::vector<std::string_view> cells;
        std::vector<double> numbers;
    };
    bool refill();
    void cut(Block& block) const;

    Lines m_lines;
    char m_delimiter;
    bool m_decimalComma;
    std::vector<std::size_t> m_columns; // that are numbers
    std::vector<Block> m_blocks;
    std::size_t m_filled = 0;          // of the blocks
    std::size_t m_block = 0, m_at = 0; // the next line
    std::size_t m_number = 0;          // of lines given
};

} // namespace impasto::logs
