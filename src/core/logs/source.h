// SPDX-License-Identifier: GPL-3.0-or-later
// The bytes of a log as UTF-8 text, block by block: gzip (RFC 1952) and Zstandard (RFC 8878) unpacked, UTF-16 with its
// mark turned into UTF-8 (RFC 2781). Memory holds a few blocks, however long the log.
#pragma once

#include <filesystem>
#include <impasto/base/error.h>
#include <memory>
#include <string_view>
#include <variant>

namespace impasto::logs {

class Source {
  public:
    virtual ~Source() = default;
    /// The next block, good until the next call; empty at the end. Blocks but the last are large.
    virtual std::string_view next() = 0;
    /// Why it ended, where that was no end.
    [[nodiscard]] virtual std::optional<Error> fault() const = 0;
    /// Whether a packed log ended early or was damaged, and gave what came before.
    [[nodiscard]] virtual bool cut() const { return false; }
    /// Bytes read of those that lie on disk.
    [[nodiscard]] virtual std::size_t bytesRead() const = 0;
};

/// Where a log lies. A text outlives what reads it.
using Origin = std::variant<std::filesystem::path, std::string_view>;

struct Opened {
    std::unique_ptr<Source> source;
    std::string how;        // "gzip", "UTF-16", "zstd, UTF-16"; empty: plain
    std::size_t onDisk = 0; // bytes
    bool unchecked = false; // packed without a checksum of what is in it
};
/// Errors: CannotRead, EmptyFile. While reading: CannotRead, DamagedPacking (from the start), FileTooLarge
/// (unpacks to more than `limit` bytes). A packed log that ends early gives what could be unpacked.
Result<Opened> openSource(const Origin& origin, std::size_t limit = std::size_t{1} << 34U);

} // namespace impasto::logs
