// SPDX-License-Identifier: GPL-3.0-or-later
// Columns as blobs: bytes of equal weight together, then zstd level 1 with its checksum.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace impasto::logbook {

inline constexpr std::size_t chunkRows = 65536;

std::string packed(std::span<const double> values);
/// Nothing when the blob is damaged or holds another number of rows.
std::optional<std::vector<double>> unpacked(std::string_view blob, std::size_t rows);

} // namespace impasto::logbook
