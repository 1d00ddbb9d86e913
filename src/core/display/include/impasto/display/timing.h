// SPDX-License-Identifier: GPL-3.0-or-later
// What a mode asks of the cable: VESA CVT 1.2, reduced blanking version 2, which has the fewest pixels that are not
// seen; a panel may ask for more.
#pragma once

#include <impasto/display/display.h>

namespace impasto::display {

struct Timing {
    int lineWidthPx = 0, linesAFrame = 0; // with what is not seen
    double pixelClockMHz = 0;
    Hertz refresh{0};
};
Timing reducedBlanking(Resolution resolution, Hertz refresh);

/// Gbit/s of three colours of so many bits, uncompressed, before the link's own coding.
double gbitPerSecond(const Timing& timing, int bitsAColour);
/// Of a panel's native resolution at its highest rate; nothing where they are not known, or it is worn: its runtime
/// may compress.
std::optional<Timing> bestTimingOf(const Panel& panel);

} // namespace impasto::display
