// SPDX-License-Identifier: GPL-3.0-or-later
// What is written down: the result, and a note.
#pragma once

#include <cstdint>
#include <impasto/document/basis.h>
#include <optional>

namespace impasto::document {

struct Edit;

struct KeptResult {
    std::int64_t atSeconds = 0; // since 1970, UTC
    Basis basis;
    std::size_t met = 0, goals = 0; // 0 of 0: not said, in logbooks from before it was
    std::size_t open = 0;           // neither met nor missed after the last look
    [[nodiscard]] bool held() const { return met == goals; }
    [[nodiscard]] bool missed() const { return met + open < goals; }
    friend bool operator==(const KeptResult&, const KeptResult&) = default;
};

inline constexpr std::size_t mostNoteBytes = 200000;

struct Record {
    std::optional<KeptResult> kept;
    std::string note;
    friend bool operator==(const Record&, const Record&) = default;
};

Edit keepResult(KeptResult kept);
Edit writeNote(std::string note); // errors: OutOfRange beyond mostNoteBytes

} // namespace impasto::document
