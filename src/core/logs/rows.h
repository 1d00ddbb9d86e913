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

class Rows {
  public:
    /// Cuts the lines as the dialect says, and reads the columns that it takes.
    Rows(Lines lines, const Dialect& dialect);
    /// The next line, headings and comments too; good until the next call. What cutting throws is thrown here.
    std::optional<CutLine> next();

  private:
    enum class State { Empty, Filled, Taken, Cut };
    struct Block {
        struct Entry {                         // small: it goes from one core to another
            std::uint32_t begin, length, from; // in the text, and of its cells
            bool ended, tooLong, comment;
        };
        State state = State::Empty;
        std::exception_ptr thrown;
        std::string text;
        std::vector<Entry> entries;
        std::vector<std::string_view> cells;
        std::vector<double> numbers;
    };
    bool advance();
    void fill(Block& block);
    Block* waiting();
    void take(Block& block, std::unique_lock<std::mutex>& lock);
    void help(const std::stop_token& stop);
    void cut(Block& block) const;
    void cutLine(Block& block, std::string_view text, double* numbers) const;
    void cutPlainLine(Block& block, std::string_view text, double* numbers) const;

    Lines m_lines;
    char m_delimiter;
    bool m_decimalComma;
    std::vector<std::size_t> m_columns; // that are numbers
    std::vector<Block> m_blocks;        // a ring, filled in order
    const Block* m_current = nullptr;   // the one whose lines are given
    std::size_t m_block = 0;            // of it, or of the next one
    std::size_t m_at = 0;               // the next line
    std::size_t m_number = 0;           // of lines given
    std::mutex m_mutex;                 // of the blocks' states, and of m_block
    std::condition_variable_any m_changed;
    std::vector<std::jthread> m_helpers;
};

} // namespace impasto::logs
