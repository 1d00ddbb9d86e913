// SPDX-License-Identifier: GPL-3.0-or-later
// Panels, refresh, resolutions and ratios: definitions and exact arithmetic, no measurements.
#pragma once

#include <impasto/base/quantity.h>
#include <optional>
#include <string>
#include <vector>

namespace impasto::display {

struct Resolution {
    int widthPx = 0;
    int heightPx = 0;
    friend auto operator<=>(const Resolution&, const Resolution&) = default;
};

Megapixels megapixelsOf(Resolution resolution);
/// "2560x1440" with a real multiplication sign is a matter of wording; this is the plain key text.
std::string keyText(Resolution resolution);
std::optional<Resolution> parseResolution(std::string_view text);

/// So much of it per axis, to the nearest pixel.
Resolution scaled(Resolution resolution, double perAxis);
/// The largest ratio per axis that is usually upscaled to so many lines: 2.0 at 2160, 1.5 at 1440, 1.3 below (common
/// practice, no source).
double usualRatio(Resolution output);

/// The rates a variable-refresh panel follows.
struct RefreshRange {
    Hertz lowest;
    Hertz highest;
    friend bool operator==(const RefreshRange&, const RefreshRange&) = default;
};

struct Panel {
    Resolution native;
    Hertz refresh;                        // the highest fixed rate, as set now
    std::optional<RefreshRange> variable; // nothing for a fixed panel
    std::vector<Hertz> modes = {};        // rates it can be set to; empty: refresh alone
    bool headset = false;                 // worn: a runtime paces the frames and fills in for late ones
    friend bool operator==(const Panel&, const Panel&) = default;
};

/// Rates that show every frame for a whole number of refreshes: refresh / 1, / 2, ... down to `lowest`.
std::vector<Fps> evenCaps(Hertz refresh, Fps lowest);
/// A rate at which one frame lasts `limiterError` longer than the panel's shortest refresh: 1000 / (1000 / top +
/// error).
Fps windowCap(const RefreshRange& range, Milliseconds limiterError);

} // namespace impasto::display
