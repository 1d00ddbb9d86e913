// SPDX-License-Identifier: GPL-3.0-or-later
// Whole small files, read in blocks (a mapped file that another program cuts would kill the reader).
#pragma once

#include <cstddef>
#include <filesystem>
#include <impasto/base/error.h>
#include <string>

namespace impasto {

/// The bytes of a plain file; a pipe, a device or a folder is refused at once. Errors: CannotRead (the system's
/// reason), FileTooLarge above `limit` bytes.
Result<std::string> readFile(const std::filesystem::path& path, std::size_t limit = std::size_t{1} << 31U);
enum class Existing { Replace, Keep };
/// Writes beside the target under a name that nobody can guess and renames over it, so that a reader sees the old or
/// the new bytes, never a part. The new file has the rights of the old one. Errors: CannotWrite, DiskFull; AlreadyThere
/// where an existing file is kept. The old file stays then.
Result<void> writeFileAtomically(const std::filesystem::path& path, std::string_view bytes,
                                 Existing existing = Existing::Replace);
/// Whether the file lies on another machine, as the kind of its file system tells: of one that is mounted by a program
/// (FUSE) that is not known, and false.
bool onNetwork(const std::filesystem::path& path);
/// Brings a folder's names to the disk, so that a file that was made or renamed in it lasts.
void syncFolderOf(const std::filesystem::path& file);

} // namespace impasto
