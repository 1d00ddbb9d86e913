// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

namespace impasto::app {

/// The other sessions, in pages.
inline const QString sessionList = QStringLiteral("sessions");
Drawing layoutLogbook(const View& view, QSizeF size);
Drawing layoutLogbookColumn(const View& view, QSizeF size);
Station logbookStation();

} // namespace impasto::app
