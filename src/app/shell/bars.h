// SPDX-License-Identifier: GPL-3.0-or-later
// The parts of the window that are always there: brief, path, ribbon, and the line for messages.
#pragma once

#include "stations/view.h"

namespace impasto::app {

Drawing layoutBriefBar(const View& view, QSizeF size);
Drawing layoutPath(const View& view, QSizeF size);
Drawing layoutRibbon(const View& view, QSizeF size);
/// A state that stands until it is over: nothing is saved.
Drawing layoutStanding(const View& view, QSizeF size);
Drawing layoutMessage(const View& view, QSizeF size);
/// Recorded time by pixel in the ribbon's plot; nothing without a run.
std::optional<Scale> ribbonTime(const View& view, QSizeF size);

} // namespace impasto::app
