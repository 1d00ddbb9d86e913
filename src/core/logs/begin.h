// SPDX-License-Identifier: GPL-3.0-or-later
// What a dialect is guessed from. Private to logs.
#pragma once

#include "split.h"

namespace impasto::logs {

/// The begin of a text as it is guessed from: rows of one program, and all; those of rendered frames where others stand
/// between them.
struct Begin {
    Table table, all;
    std::vector<std::size_t> programColumns;
    std::string program; // whose rows are the frames, where they show it; empty: the fullest one's
    std::optional<Invented> invented;
    Table rendered;
    bool newestFirst = false; // the rows of the text; those of the tables stand in the order of time
};
/// Errors: those of a text that holds no row.
Result<Begin> beginOf(std::string_view text, const std::optional<CellRule>& cells);

} // namespace impasto::logs
