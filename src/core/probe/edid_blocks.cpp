// SPDX-License-Identifier: GPL-3.0-or-later
#include "edid_blocks.h"

#include <array>

namespace impasto::probe {
namespace {

/// Timings that follow one another in CTA-861-G, table 3, by their codes; interlaced and doubled ones are left out.
struct VicRow {
    unsigned first;
    int width, height;
    std::array<double, 8> rates; // ends with 0
};
constexpr double ntsc = 60000.0 / 1001;
constexpr VicRow vicRows[] = {{1, 640, 480, {ntsc}},
                              {2, 720, 480, {ntsc, ntsc}},
                              {4, 1280, 720, {60}},
                              {16, 1920, 1080, {60}},
                              {17, 720, 576, {50, 50}},
                              {19, 1280, 720, {50}},
                              {31, 1920, 1080, {50, 24, 25, 30}},
                              {41, 1280, 720, {100}},
                              {47, 1280, 720, {120}},
                              {60, 1280, 720, {24, 25, 30}},
                              {63, 1920, 1080, {120, 100}},
                              {65, 1280, 720, {24, 25, 30, 50, 60, 100, 120}},
                              {72, 1920, 1080, {24, 25, 30, 50, 60, 100, 120}},
                              {79, 1680, 720, {24, 25, 30, 50, 60, 100, 120}},
                              {86, 2560, 1080, {24, 25, 30, 50, 60, 100, 120}},
                              {93, 3840, 2160, {24, 25, 30, 50, 60}},
                              {98, 4096, 2160, {24, 25, 30, 50, 60}},
                              {103, 3840, 2160, {24, 25, 30, 50, 60}},
                              {108, 1280, 720, {48, 48}},
                              {110, 1680, 720, {48}},
                              {111, 1920, 1080, {48, 48}},
                              {113, 2560, 1080, {48}},
                              {114, 3840, 2160, {48}},
                              {115, 4096, 2160, {48}},
                              {116, 3840, 2160, {48, 100, 120, 100, 120}},
                              {121, 5120, 2160, {24, 25, 30, 48, 50, 60, 100}},
                              {193, 5120, 2160, {120}},
                              {194, 7680, 4320, {24, 25, 30, 48, 50, 60, 100, 120}},
                              {202, 7680, 4320, {24, 25, 30, 48, 50, 60, 100, 120}},
                              {210, 10240, 4320, {24, 25, 30, 48, 50, 60, 100, 120}},
                              {218, 4096, 2160, {100, 120}}};

std::optional<PanelMode> modeOfVic(unsigned vic) {
    for (const auto& row : vicRows)
        for (std::size_t i = 0; i < row.rates.size() && row.rates[i] > 0; ++i)
            if (row.first + i == vic) return PanelMode{{row.width, row.height}, Hertz(row.rates[i])};
    return std::nullopt;
}

/// The range that a sink follows over HDMI (its forum's block or capability structure), from its first byte after the
/// number of the organisation.
void readVrr(const Bytes& payload, Found& found) {
    const unsigned low = payload.at(5) & 0x3fU, high = ((payload.at(5) & 0xc0U) << 2U) + payload.at(6);
    if (low > 0) found.vrr = display::RefreshRange{Hertz(low), Hertz(high)}; // a high of 0: as its fastest timing
}

void readDataBlock(const Bytes& block, unsigned tag, Found& found) {
    constexpr unsigned video = 2, vendor = 3, extended = 7;
    if (tag == video) {
        for (std::size_t i = 0; i < block.size(); ++i) {
            const unsigned code = block.at(i);
            const bool marked = code >= 129 && code <= 192; // as native
            if (const auto mode = modeOfVic(marked ? code - 128 : code)) found.modes.push_back(*mode);
        }
    } else if (tag == vendor && block.triple(0) == 0xc45dd8) {
        readVrr(block.from(3, 64), found);
    } else if (tag == extended && block.at(0) == 0x79) { // the same in a block of its own
        readVrr(block.from(3, 64), found);
    }
}

/// Type I counts the pixel clock in 10 kHz, type VII in 1 kHz.
void readLongTimings(const Bytes& block, double unitHz, Found& found) {
    for (std::size_t at = 0; at + 20 <= block.size(); at += 20) {
        const auto t = block.from(at, 20);
        const double clock = (t.triple(0) + 1.0) * unitHz;
        const int width = static_cast<int>(t.word(4)) + 1, height = static_cast<int>(t.word(12)) + 1;
        const double total = (width + t.word(6) + 1.0) * (height + t.word(14) + 1.0);
        if ((t.at(3) & 0x10U) != 0) continue; // interlaced
        const PanelMode mode{{width, height}, Hertz(clock / total)};
        found.modes.push_back(mode);
        if ((t.at(3) & 0x80U) != 0 && !found.preferred) found.preferred = mode;
    }
}

void readDisplayIdBlock(const Bytes& block, unsigned tag, Found& found) {
    switch (tag) {
    case 0x03:
        return readLongTimings(block, 10000, found);
    case 0x22:
        return readLongTimings(block, 1000, found);
    case 0x24: // by a formula
        for (std::size_t at = 0; at + 6 <= block.size(); at += 6)
            found.modes.push_back({{static_cast<int>(block.word(at + 1)) + 1, static_cast<int>(block.word(at + 3)) + 1},
                                   Hertz(block.at(at + 5) + 1.0)});
        return;
    case 0x25: { // the highest byte says whether it follows without a break
        const double high = block.at(7) + 256.0 * (block.at(8) & 3U);
        if ((block.at(8) & 0x80U) != 0 && block.at(6) > 0 && block.at(6) < high)
            found.seamless = display::RefreshRange{Hertz(block.at(6)), Hertz(high)};
        return;
    }
    case 0x2b: {
        const double low = block.at(2), high = 1 + block.at(3) + 256.0 * (block.at(4) & 3U);
        if (low > 0 && low < high && !found.adaptive) found.adaptive = display::RefreshRange{Hertz(low), Hertz(high)};
        return;
    }
    default:
        return;
    }
}

} // namespace

std::optional<PanelMode> detailedTiming(const Bytes& t) {
    const double clock = 10000.0 * t.word(0);
    if (clock == 0 || (t.at(17) & 0x80U) != 0) return std::nullopt;
    const unsigned width = t.at(2) + ((t.at(4) & 0xf0U) << 4U), blankX = t.at(3) + ((t.at(4) & 0x0fU) << 8U);
    const unsigned height = t.at(5) + ((t.at(7) & 0xf0U) << 4U), blankY = t.at(6) + ((t.at(7) & 0x0fU) << 8U);
    if (width == 0 || height == 0) return std::nullopt;
    return PanelMode{{static_cast<int>(width), static_cast<int>(height)},
                     Hertz(clock / (1.0 * (width + blankX) * (height + blankY)))};
}

void readCta(const Bytes& block, Found& found) {
    const std::size_t timings = block.at(2); // where the data blocks end; 0: there is neither
    for (std::size_t at = 4; at < timings && at < 127;) {
        const std::size_t length = block.at(at) & 0x1fU;
        readDataBlock(block.from(at + 1, std::min(length, 127 - at - 1)), block.at(at) >> 5U, found);
        at += 1 + length;
    }
    if (timings < 4) return;
    for (std::size_t at = timings; at + 18 <= 127; at += 18)
        if (const auto mode = detailedTiming(block.from(at, 18))) found.modes.push_back(*mode);
}

void readDisplayId(const Bytes& block, Found& found) {
    const std::size_t end = std::min<std::size_t>(5 + block.at(2), 127);
    for (std::size_t at = 5; at + 3 <= end;) {
        const std::size_t length = block.at(at + 2);
        if (block.at(at) == 0 && length == 0) break; // filled up
        readDisplayIdBlock(block.from(at + 3, std::min(length, end - at - 3)), block.at(at), found);
        at += 3 + length;
    }
}

} // namespace impasto::probe
