// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

namespace impasto::app {

/// Runs that would decide what is not sure yet, and that this machine and game can make; the most wanted first.
std::vector<limits::DecidingTest> offeredTests(const View& view);
Drawing layoutLimits(const View& view, QSizeF size);
Drawing layoutLimitsColumn(const View& view, QSizeF size);
Station limitsStation();

} // namespace impasto::app
