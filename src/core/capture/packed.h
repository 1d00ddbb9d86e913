// SPDX-License-Identifier: GPL-3.0-or-later
// What a file's bytes hold as UTF-8 text: gzip (RFC 1952) and Zstandard (RFC 8878) unpacked, UTF-16 with its mark
// turned into UTF-8 (RFC 2781).
#pragma once

#include <impasto/base/error.h>
#include <string_view>

namespace impasto::capture {

struct Unpacked {
    std::string storage; // empty where the bytes were plain
    std::string how;     // "gzip", "UTF-16", "zstd, UTF-16"; empty: plain
    [[nodiscard]] std::string_view text(std::string_view bytes) const { return how.empty() ? bytes : storage; }
};
/// A packed file that ends early gives what could be unpacked. Errors: NotText (nothing could), FileTooLarge.
Result<Unpacked> unpacked(std::string_view bytes, std::size_t limit = std::size_t{1} << 31U);

} // namespace impasto::capture
