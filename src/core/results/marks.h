// SPDX-License-Identifier: GPL-3.0-or-later
// Marks of what decisions rest on. They stand in logbooks: their formulas do not change.
#pragma once

#include <impasto/base/fingerprint.h>
#include <impasto/document/session.h>

namespace impasto::results {

inline std::uint64_t markOf(const game::Values& values) {
    Fingerprint f;
    for (const auto& [id, level] : values) f.add(id).add(level);
    return f.value();
}

inline std::uint64_t markOf(std::span<const capture::Span> trims) {
    Fingerprint f;
    for (const auto& span : trims) f.add(span.fromMs).add(span.toMs);
    return f.value();
}

/// The mark of a text and what follows it, where the text is at hand by its mark alone (FNV-1a, as Fingerprint).
inline std::uint64_t markGoingOn(std::uint64_t markOfText, std::string_view next) {
    std::uint64_t hash = markOfText;
    const auto byte = [&hash](unsigned char b) { hash = (hash ^ b) * 0x100000001b3ULL; };
    for (const char c : next) byte(static_cast<unsigned char>(c));
    for (unsigned shift = 0; shift < 64; shift += 8) byte(static_cast<unsigned char>(next.size() >> shift));
    return hash;
}

inline std::uint64_t markOf(const document::Basis& basis) {
    Fingerprint f;
    for (const auto& [name, mark] : basis) f.add(name).add(mark);
    return f.value();
}

} // namespace impasto::results
