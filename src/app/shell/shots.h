// SPDX-License-Identifier: GPL-3.0-or-later
// Pictures of every station, taken of the running window after performed steps.
#pragma once

#include "shell/window.h"

namespace impasto::app {

/// Runs events until nothing is under way; false after 120 s.
bool waitIdle(const Studio& studio);
/// Walks the demo from before its first run to a kept result and writes a PNG of each station to the folder. False when
/// a step did not come to rest or a file could not be written.
bool takeShots(Studio& studio, Window& window, const QString& folder, double scale);

} // namespace impasto::app
