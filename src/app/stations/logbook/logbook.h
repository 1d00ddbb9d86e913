// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

namespace impasto::app {

struct LogbookState {
    std::size_t first = 0;           // of the sessions that are shown
    std::optional<SessionId> picked; // what the column speaks of; none: the open one
};

Drawing layoutLogbook(const View& view, QSizeF size);
Drawing layoutLogbookColumn(const View& view, QSizeF size);
Station logbookStation();

} // namespace impasto::app
