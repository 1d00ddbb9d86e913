// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

namespace impasto::app {

Drawing layoutBrief(const View& view, QSizeF size);
Drawing layoutBriefColumn(const View& view, QSizeF size);
Station briefStation();

} // namespace impasto::app
