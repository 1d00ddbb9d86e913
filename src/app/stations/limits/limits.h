// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

namespace impasto::app {

Drawing layoutLimits(const View& view, QSizeF size);
Drawing layoutLimitsColumn(const View& view, QSizeF size);
Station limitsStation();

} // namespace impasto::app
