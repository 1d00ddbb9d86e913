// SPDX-License-Identifier: GPL-3.0-or-later
// A 64-bit mark of a value's content (FNV-1a), to tell whether a result's inputs changed. Not cryptographic.
#pragma once

#include <bit>
#include <cstdint>
#include <string_view>

namespace impasto {

class Fingerprint {
  public:
    Fingerprint() = default;
    /// Goes on from another mark, where the content is at hand by its mark alone.
    explicit Fingerprint(std::uint64_t before) : m_hash(before) {}
    Fingerprint& add(std::string_view text) {
        for (const char c : text) byte(static_cast<unsigned char>(c));
        return add(std::uint64_t{text.size()});
    }
    Fingerprint& add(std::uint64_t v) {
        for (int i = 0; i < 8; ++i) byte(static_cast<unsigned char>(v >> (8 * i)));
        return *this;
    }
    Fingerprint& add(double v) { return add(std::bit_cast<std::uint64_t>(v)); }
    [[nodiscard]] std::uint64_t value() const { return m_hash; }

  private:
    void byte(unsigned char b) { m_hash = (m_hash ^ b) * 0x100000001b3ULL; }
    std::uint64_t m_hash = 0xcbf29ce484222325ULL;
};

} // namespace impasto
