// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

namespace impasto::app {

struct PaceState {
    std::size_t firstFrame = 0;    // of the ten
    std::optional<double> dragged; // the cap under the hand, fps
    bool frames = false;           // they are shown instead of the caps, where there is no room for both
};

Drawing layoutPace(const View& view, QSizeF size);
Drawing layoutPaceColumn(const View& view, QSizeF size);
/// Cap by pixel in the picture.
Scale paceCapScale(const View& view, QSizeF size);
/// The slowest frame after the ten that are shown, or the slowest of all.
void nextWorstFrame(Studio& studio);
Station paceStation();

} // namespace impasto::app
