// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/display/display.h>

#include <charconv>
#include <cmath>

namespace impasto::display {

Megapixels megapixelsOf(Resolution resolution) {
    return Megapixels(static_cast<double>(resolution.widthPx) * resolution.heightPx * 1e-6);
}

std::string keyText(Resolution resolution) {
    return fmt::format("{}x{}", resolution.widthPx, resolution.heightPx);
}

std::optional<Resolution> parseResolution(std::string_view text) {
    const auto cross = text.find('x');
    if (cross == std::string_view::npos) return std::nullopt;
    Resolution out;
    const auto whole = [](std::string_view part, int& value) {
        const auto [end, code] = std::from_chars(part.data(), part.data() + part.size(), value);
        return code == std::errc() && end == part.data() + part.size() && value > 0 && value <= 65536;
    };
    if (!whole(text.substr(0, cross), out.widthPx) || !whole(text.substr(cross + 1), out.heightPx)) return std::nullopt;
    return out;
}

Resolution scaled(Resolution resolution, double perAxis) {
    const auto side = [perAxis](int px) { return static_cast<int>(std::lround(px * perAxis)); };
    return {side(resolution.widthPx), side(resolution.heightPx)};
}

double usualRatio(Resolution output) {
    return output.heightPx >= 2160 ? 2.0 : output.heightPx >= 1440 ? 1.5 : 1.3;
}

std::vector<Fps> evenCaps(Hertz refresh, Fps lowest) {
    std::vector<Fps> caps;
    for (int k = 1; refresh.value() / k >= lowest.value() - 1e-9; ++k) caps.emplace_back(refresh.value() / k);
    return caps;
}

Fps windowCap(const RefreshRange& range, Milliseconds limiterError) {
    return rateOf(Milliseconds(1000.0 / range.highest.value()) + limiterError);
}

} // namespace impasto::display
