// SPDX-License-Identifier: GPL-3.0-or-later
// The write-ahead log beside a logbook. SQLite leaves out what stands behind a damaged page of it without a word.
#pragma once

#include <cstddef>
#include <filesystem>

namespace impasto::logbook {

/// Transactions in FILE-wal that SQLite will not see, since a frame of theirs or before them fails its checksum; 0
/// where there is no log, or its frames are sound up to its end. A frame that another generation of the log left behind
/// (its salts differ) does not count. Format and checksum: SQLite, "WAL-mode File Format".
std::size_t lostTransactions(const std::filesystem::path& file);

} // namespace impasto::logbook
