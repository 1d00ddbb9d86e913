// SPDX-License-Identifier: GPL-3.0-or-later
#include "edid_blocks.h"

#include <cmath>
#include <impasto/base/shown.h>
#include <impasto/base/text.h>

namespace impasto::probe {
namespace {

constexpr std::size_t blockBytes = 128;

/// VESA E-EDID 1.4, table 3.18: bit 7 of byte 35 first. One without a width is interlaced and left out.
constexpr PanelMode established[] = {{{720, 400}, Hertz(70)},   {{720, 400}, Hertz(88)},  {{640, 480}, Hertz(60)},
                                     {{640, 480}, Hertz(67)},   {{640, 480}, Hertz(73)},  {{640, 480}, Hertz(75)},
                                     {{800, 600}, Hertz(56)},   {{800, 600}, Hertz(60)},  {{800, 600}, Hertz(72)},
                                     {{800, 600}, Hertz(75)},   {{832, 624}, Hertz(75)},  {{0, 0}, Hertz(0)},
                                     {{1024, 768}, Hertz(60)},  {{1024, 768}, Hertz(70)}, {{1024, 768}, Hertz(75)},
                                     {{1280, 1024}, Hertz(75)}, {{1152, 870}, Hertz(75)}};

void readEstablished(const Bytes& base, std::vector<PanelMode>& modes) {
    for (std::size_t i = 0; i < std::size(established); ++i)
        if ((base.at(35 + i / 8) & (0x80U >> (i % 8))) != 0 && established[i].resolution.widthPx > 0)
            modes.push_back(established[i]);
}

void readStandard(const Bytes& base, bool wide, std::vector<PanelMode>& modes) {
    for (std::size_t at = 38; at < 54; at += 2) {
        const unsigned x = base.at(at), y = base.at(at + 1);
        if ((x == 1 && y == 1) || x == 0) continue; // unused
        const int width = static_cast<int>(8 * (x + 31));
        const unsigned shape = y >> 6U;
        const int height = shape == 0   ? (wide ? width * 10 / 16 : width)
                           : shape == 1 ? width * 3 / 4
                           : shape == 2 ? width * 4 / 5
                                        : width * 9 / 16;
        modes.push_back({{width, height}, Hertz((y & 0x3fU) + 60.0)});
    }
}

std::string textOf(const Bytes& descriptor) {
    std::string text;
    for (std::size_t i = 5; i < 18 && descriptor.at(i) != '\n'; ++i) text += static_cast<char>(descriptor.at(i));
    return shown(trimmed(text));
}

/// Its offsets say what lies beyond a byte.
std::optional<display::RefreshRange> limitsOf(const Bytes& descriptor) {
    const unsigned beyond = descriptor.at(4) & 3U;
    const double low = descriptor.at(5) + (beyond == 3 ? 255.0 : 0.0);
    const double high = descriptor.at(6) + (beyond >= 2 ? 255.0 : 0.0);
    if (!(low > 0 && low < high)) return std::nullopt;
    return display::RefreshRange{Hertz(low), Hertz(high)};
}

bool sumsUp(std::string_view block) {
    unsigned sum = 0;
    for (const char c : block) sum += static_cast<unsigned char>(c);
    return sum % 256 == 0;
}

Hertz fastestOf(const std::vector<PanelMode>& modes) {
    Hertz fastest(0);
    for (const auto& mode : modes) fastest = std::max(fastest, mode.refresh);
    return fastest;
}

void addOnce(std::vector<PanelMode>& modes, const PanelMode& mode) {
    const auto same = [&](const PanelMode& m) {
        return m.resolution == mode.resolution && std::abs(m.refresh.value() - mode.refresh.value()) < 0.005;
    };
    const bool sane = mode.resolution.widthPx > 0 && mode.refresh.value() >= 10 && mode.refresh.value() <= 1000;
    if (sane && modes.size() < 1000 && std::none_of(modes.begin(), modes.end(), same)) modes.push_back(mode);
}

/// The plainest word of those that say it follows; the limits of the first block only where they stand for all rates
/// between, and are no single rate with its tolerance.
std::optional<display::RefreshRange> followedRange(const Found& found, std::optional<display::RefreshRange> limits,
                                                   Hertz fastest) {
    auto range = found.adaptive ? found.adaptive : found.seamless ? found.seamless : found.vrr;
    if (range && range->highest.value() == 0) range->highest = fastest;
    if (!range) range = limits;
    if (range && range->highest > fastest) range->highest = fastest;
    if (!range || range->highest.value() - range->lowest.value() < 10) return std::nullopt;
    return range;
}

} // namespace

Result<Edid> parseEdid(std::string_view bytes) {
    using namespace std::string_view_literals;
    const auto first = bytes.substr(0, blockBytes);
    if (bytes.size() < blockBytes || bytes.size() > mostEdidBytes ||
        first.substr(0, 8) != "\0\xff\xff\xff\xff\xff\xff\0"sv || !sumsUp(first))
        return fail(ErrorCode::BadValue, "an EDID", {}, Kept::Nothing);
    const Bytes base(first);
    const bool isNew = base.at(19) >= 4, wide = base.at(19) >= 3;
    Edid edid;
    Found found;
    std::optional<display::RefreshRange> limits;
    std::vector<PanelMode> detailed;
    for (std::size_t at = 54; at < 126; at += 18) {
        const auto descriptor = base.from(at, 18);
        if (const auto mode = detailedTiming(descriptor)) detailed.push_back(*mode);
        if (descriptor.word(0) != 0) continue;
        if (descriptor.at(3) == 0xfc) edid.name = textOf(descriptor);
        if (descriptor.at(3) == 0xfd && isNew && (base.at(24) & 1U) != 0) limits = limitsOf(descriptor);
    }
    for (std::size_t at = blockBytes; at + blockBytes <= bytes.size(); at += blockBytes) {
        const auto block = bytes.substr(at, blockBytes);
        if (!sumsUp(block)) continue;
        if (Bytes(block).at(0) == 0x02) readCta(Bytes(block), found);
        if (Bytes(block).at(0) == 0x70) readDisplayId(Bytes(block), found);
    }
    const auto preferred = found.preferred    ? found.preferred
                           : detailed.empty() ? std::optional<PanelMode>()
                                              : std::optional(detailed.front());
    if (preferred) addOnce(edid.modes, *preferred);
    for (const auto& mode : detailed) addOnce(edid.modes, mode);
    std::vector<PanelMode> more = found.modes;
    readStandard(base, wide, more);
    readEstablished(base, more);
    for (const auto& mode : more) addOnce(edid.modes, mode);
    if (preferred)
        edid.native = preferred->resolution;
    else if (!edid.modes.empty())
        edid.native = edid.modes.front().resolution;
    edid.follows = followedRange(found, limits, fastestOf(edid.modes));
    return edid;
}

std::vector<Hertz> nativeRates(const Edid& edid) {
    std::vector<double> rates;
    for (const auto& mode : edid.modes)
        if (mode.resolution == edid.native) rates.push_back(mode.refresh.value());
    std::sort(rates.begin(), rates.end());
    std::vector<Hertz> out;
    for (const double rate : rates) {
        const Hertz hz(std::round(rate * 100) / 100);
        if (!out.empty() && hz.value() - out.back().value() < 0.2)
            out.back() = hz;
        else
            out.push_back(hz);
    }
    return out;
}

} // namespace impasto::probe
