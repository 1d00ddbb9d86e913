// SPDX-License-Identifier: GPL-3.0-or-later
// Several recordings in one log, row by row in turn, told apart by what is in them and not by a heading. Private to
// logs.
#pragma once

#include "table.h"

namespace impasto::logs {

/// A column that tells rows apart.
struct Split {
    std::size_t column = 0;
    std::string frames = {}; // what it says of frames; empty: the rows of what it says most often are the frames
};

/// A column of few different words or numbers that takes turns, where the rows of each make sense alone and all
/// together do not: time stamps fall between them but never in one of them; the frame times of each fill the time by
/// themselves; or the steps of the time stamps are even in the fullest and uneven in all. Or words name what happens
/// in each frame: the times of one of them repeat the steps of its stamps while all together take longer, or all
/// follow at once on one. Or each of them counts the same frames for itself: the longest are the frames.
std::optional<Split> splitColumn(const std::vector<Row>& sample, const Table& table);

/// A column whose words say what kind a row is of: in turn with the frames stand rows of slower sensors, or events. The
/// rows of every word but the fullest fill other cells, and hold no frame.
std::optional<std::size_t> kindColumn(const std::vector<Row>& sample, const Table& table);

/// Columns whose heading names a program, a process or a swap chain, and no figure of one.
std::vector<std::size_t> programColumnsOf(const std::vector<std::string>& header);

/// The rows before the data and those of a program; of the one with the most where it is empty.
std::vector<Row> ofOneProgram(const std::vector<Row>& sample, const Table& table,
                              const std::vector<std::size_t>& columns, std::string program);

/// A column that tells frames invented between two rendered ones from these, and what it says of them.
struct Invented {
    std::size_t column = 0;
    std::vector<std::string> cells;
};
/// By words in the cells ("generated"), or a heading that says so over yes and no.
std::optional<Invented> inventedIn(const std::vector<Row>& sample, const Table& table);
/// The rows before the data, and those of rendered frames.
std::vector<Row> renderedOf(const std::vector<Row>& sample, const Table& table, const Invented& invented);

/// The rows before a clock that falls back to where it began: what follows is another recording.
std::vector<Row> firstRecording(std::vector<Row> sample, const Table& table);

} // namespace impasto::logs
