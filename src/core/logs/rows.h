// SPDX-License-Identifier: GPL-3.0-or-later
// Lines cut into cells and their numbers read, several blocks at once while the rows of those before are taken: what
// costs most of an import, and needs nothing of the lines before.
#pragma once

#include <condition_variable>
#include <exception>
#include <impasto/logs/import.h>
#include <mutex>
#include <span>
#include <thread>

#include "lines.h"

namespace impasto::logs {

/// The columns whose cells a dialect takes as numbers or times, in order.
std::vector<std::size_t> columnsRead(const Dialect& dialect);

/// A line with its cells, and the numbers in those that are read; NaN where a cell holds none.
struct CutLine {
    Line line;
    bool comment; // or blank: neither cells nor numbers
    std::span<const std::string_view> cells;
    std::span<const double> numbers; // by columnsRead
};

/// A line in its block. Small: it goes from one core to another.
struct RowEntry {
    std::uint32_t begin, length, from; // in the text, and of its cells
    bool ended, tooLong, comment;
};

/// Lines of one block that follow one another, whole, neither headings nor comments.
class CutRows {
  public:
    CutRows(std::size_t firstLine, std::span<const RowEntry> entries, std::span<const std::string_view> cells,
            const double* numbers, std::size_t columns)
        : m_firstLine(firstLine), m_entries(entries), m_cells(cells), m_numbers(numbers), m_columns(columns) {}
    [[nodiscard]] std::size_t size() const { return m_entries.size(); }
    /// From 0.
    [[nodiscard]] std::size_t lineOf(std::size_t row) const { return m_firstLine + row; }
    /// By columnsRead.
    [[nodiscard]] const double* numbersOf(std::size_t row) const { return m_numbers + row * m_columns; }
    /// Of a column that every row has; empty behind the last row's end.
    [[nodiscard]] std::string_view cell(std::size_t row, std::size_t column) const {
        const std::size_t at = m_entries[row].from + column;
        return at < m_cells.size() ? m_cells[at] : std::string_view();
    }

  private:
    std::size_t m_firstLine;
    std::span<const RowEntry> m_entries;
    std::span<const std::string_view> m_cells; // of the block
    const double* m_numbers;
    std::size_t m_columns;
};

class Rows {
  public:
    /// Cuts the lines as the dialect says, and reads the columns that it takes.
    Rows(Lines lines, const Dialect& dialect);
    /// The next line, headings and comments too; good until the next call. What cutting throws is thrown here.
    std::optional<CutLine> next();
    /// The number of the next line, from 0.
    [[nodiscard]] std::size_t lineNumber() const { return m_number; }
    /// Those of the lines that next() would give that are whole and have so many cells, which stays the same from call
    /// to call; good until the next one. What cutting throws is thrown here.
    CutRows together(std::size_t cells);
    /// Passes by the first of them.
    void skip(std::size_t rows);

  private:
    enum class State { Empty, Filled, Taken, Cut };
    struct Block {
        State state = State::Empty;
        std::exception_ptr thrown;
        std::string text;
        std::vector<RowEntry> entries;
        std::vector<std::string_view> cells; // the first `used` of them; what stands behind is written over
        std::size_t used = 0;
        std::vector<double> numbers;
        double* numbersOf(std::size_t line, std::size_t columns);
    };
    bool advance();
    void fill(Block& block);
    Block* waiting();
    void take(Block& block, std::unique_lock<std::mutex>& lock);
    void help(const std::stop_token& stop);
    void cut(Block& block) const;
    void cutLine(Block& block, std::string_view text, double* numbers) const;
    std::string_view* cutPlainLine(std::string_view text, std::string_view* cells, double* numbers) const;

    Lines m_lines;
    char m_delimiter;
    bool m_decimalComma, m_units;
    std::vector<std::size_t> m_columns; // that are numbers
    std::vector<Block> m_blocks;        // a ring, filled in order
    const Block* m_current = nullptr;   // the one whose lines are given
    std::size_t m_block = 0;            // of it, or of the next one
    std::size_t m_at = 0;               // the next line
    std::size_t m_wholeTo = 0;          // lines before it are known to go together
    std::size_t m_number = 0;           // of lines given
    std::mutex m_mutex;                 // of the blocks' states, and of m_block
    std::condition_variable_any m_changed;
    std::vector<std::jthread> m_helpers;
};

} // namespace impasto::logs
