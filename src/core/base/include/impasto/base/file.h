// SPDX-License-Identifier: GPL-3.0-or-later
// Whole small files, read in blocks (a mapped file that another program cuts would kill the reader).
#pragma once

#include <cstddef>
#include <filesystem>
#include <impasto/base/error.h>
#include <string>

namespace impasto {

/// The file's bytes. Errors: CannotRead (missing, a directory, the system's reason), FileTooLarge above `limit` bytes.
Result<std::string> readFile(const std::filesystem::path& path, std::size_t limit = std::size_t{1} << 31U);
/// Writes beside the target and renames over it, so that a reader sees the old or the new bytes, never a part.
/// Errors: CannotWrite, DiskFull; the old file is kept.
Result<void> writeFileAtomically(const std::filesystem::path& path, std::string_view bytes);

} // namespace impasto
