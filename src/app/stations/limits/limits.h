// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

namespace impasto::app {

/// Where the eye is at Limits.
struct LimitsState {
    bool ladder = false;    // in a window that is too low for both: the ladder in place of the parts
    std::size_t faster = 1; // of limits::fasterBy, what is asked of chips
};
Drawing layoutLimits(const View& view, QSizeF size);
/// The ladder from there to the sheet's foot; false where there is none, or no room.
bool layoutLadder(Sheet& sheet, const View& view, double top);
Drawing layoutLimitsColumn(const View& view, QSizeF size);
Station limitsStation();

} // namespace impasto::app
