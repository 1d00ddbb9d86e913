// SPDX-License-Identifier: GPL-3.0-or-later
// What a panel says of itself: VESA E-EDID 1.4 with CTA-861-G and DisplayID 1.3 and 2.0 extensions. Only what a frame
// rate needs is read: names, timings, and the range that it follows.
#pragma once

#include <impasto/base/error.h>
#include <impasto/display/display.h>

namespace impasto::probe {

struct PanelMode {
    display::Resolution resolution;
    Hertz refresh; // of whole frames; interlaced timings are left out
    friend bool operator==(const PanelMode&, const PanelMode&) = default;
};

struct Edid {
    std::string name;                             // empty: it says none
    display::Resolution native;                   // of the preferred timing; 0x0: none
    std::vector<PanelMode> modes;                 // each once, the preferred one first
    std::optional<display::RefreshRange> follows; // the rates that it says it follows frame by frame
};

inline constexpr std::size_t mostEdidBytes = 32768;

/// Blocks whose checksum is wrong are passed over; of those after the first nothing is needed. Errors: BadValue where
/// the first block is no EDID.
Result<Edid> parseEdid(std::string_view bytes);
/// The rates at the native resolution, in 0.01 Hz, ascending, those within 0.2 Hz as one.
std::vector<Hertz> nativeRates(const Edid& edid);

} // namespace impasto::probe
