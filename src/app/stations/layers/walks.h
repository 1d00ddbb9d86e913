// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/layers/layers.h"

#include <impasto/results/walk.h>

namespace impasto::app {

/// The walk whose next run is a step from a set that was run; nullptr where that is not what comes next.
const results::Walking* stepOf(const View& view);
/// The way that is taken, to be pressed; gives where it goes on.
double walkRow(Sheet& sheet, const View& view, double x, double y, double w);
/// All of them, in the column's place.
Drawing layoutWalks(const View& view, QSizeF size);
std::vector<Hand> walkHands();
Key walkKey();

} // namespace impasto::app
