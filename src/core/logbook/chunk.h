// SPDX-License-Identifier: GPL-3.0-or-later
// Columns as blobs: bytes of equal weight together, then zstd level 1 with its checksum.
#pragma once

#include <span>
#include <string>
#include <vector>

namespace impasto::logbook {

inline constexpr std::size_t chunkRows = 65536;

/// Columns are stored as 64-bit values whatever they lie in; both work through one chunk's memory at a time.
std::string packed(std::span<const double> values);
std::string packed(std::span<const float> values);
/// Appends the chunk; false, and nothing is appended, when the blob is damaged or holds another number of rows.
bool unpack(std::string_view blob, std::size_t rows, std::vector<double>& to);
bool unpack(std::string_view blob, std::size_t rows, std::vector<float>& to);

} // namespace impasto::logbook
