// SPDX-License-Identifier: GPL-3.0-or-later
// The blocks behind the first one, and what both kinds share.
#pragma once

#include <impasto/probe/edid.h>
#include <optional>

namespace impasto::probe {

/// Bytes that may end at any place: what lies behind is 0.
class Bytes {
  public:
    explicit Bytes(std::string_view bytes) : m_bytes(bytes) {}
    [[nodiscard]] unsigned at(std::size_t i) const {
        return i < m_bytes.size() ? static_cast<unsigned char>(m_bytes[i]) : 0U;
    }
    [[nodiscard]] unsigned word(std::size_t i) const { return at(i) + 256 * at(i + 1); } // little-endian
    [[nodiscard]] unsigned triple(std::size_t i) const { return word(i) + 65536 * at(i + 2); }
    [[nodiscard]] std::size_t size() const { return m_bytes.size(); }
    [[nodiscard]] Bytes from(std::size_t begin, std::size_t count) const {
        return Bytes(m_bytes.substr(std::min(begin, m_bytes.size()), count));
    }

  private:
    std::string_view m_bytes;
};

/// A detailed timing of 18 bytes; nothing for another descriptor, or an interlaced one.
std::optional<PanelMode> detailedTiming(const Bytes& at);

/// What the later blocks add. Of the ranges the one that says most plainly that the panel follows stands.
struct Found {
    std::vector<PanelMode> modes;
    std::optional<PanelMode> preferred;
    std::optional<display::RefreshRange> adaptive; // DisplayID's adaptive sync
    std::optional<display::RefreshRange> seamless; // DisplayID's dynamic range limits
    std::optional<display::RefreshRange> vrr;      // of a sink over HDMI
};
void readCta(const Bytes& block, Found& found);
void readDisplayId(const Bytes& block, Found& found);

} // namespace impasto::probe
