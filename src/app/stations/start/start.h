// SPDX-License-Identifier: GPL-3.0-or-later
// Before anything is there: three ways to start.
#pragma once

#include "stations/view.h"

namespace impasto::app {

Drawing layoutStart(const View& view, QSizeF size);
Drawing layoutStartColumn(const View& view, QSizeF size);

} // namespace impasto::app
