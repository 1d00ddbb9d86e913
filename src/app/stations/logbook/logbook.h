// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

namespace impasto::app {

struct LogbookState {
    std::size_t first = 0; // of the other sessions that are shown
};

Drawing layoutLogbook(const View& view, QSizeF size);
Drawing layoutLogbookColumn(const View& view, QSizeF size);
Station logbookStation();

} // namespace impasto::app
