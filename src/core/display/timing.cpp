// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/display/timing.h>

#include <algorithm>
#include <cmath>

namespace impasto::display {

Timing reducedBlanking(Resolution resolution, Hertz refresh) {
    constexpr int blankedPx = 80, leastLines = 1 + 8 + 6; // front porch, sync, back porch
    constexpr double blankedUs = 460, clockStepMHz = 0.001;
    const double lineUs = (1e6 / refresh.value() - blankedUs) / resolution.heightPx;
    const int blanked = static_cast<int>(std::floor(blankedUs / lineUs)) + 1;
    Timing out{resolution.widthPx + blankedPx, resolution.heightPx + std::max(blanked, leastLines), 0, refresh};
    const double clockMHz = refresh.value() * out.linesAFrame * out.lineWidthPx / 1e6;
    out.pixelClockMHz = std::floor(clockMHz / clockStepMHz) * clockStepMHz;
    return out;
}

double gbitPerSecond(const Timing& timing, int bitsAColour) {
    constexpr int colours = 3;
    return timing.pixelClockMHz * colours * bitsAColour / 1000;
}

std::optional<Timing> bestTimingOf(const Panel& panel) {
    Hertz highest = panel.refresh;
    for (const auto mode : panel.modes) highest = std::max(highest, mode);
    constexpr Hertz most(2000); // above it no time is left for what is blanked
    if (panel.headset || panel.native.widthPx <= 0 || panel.native.heightPx <= 0 || !(highest.value() > 0) ||
        highest > most)
        return std::nullopt;
    return reducedBlanking(panel.native, highest);
}

} // namespace impasto::display
