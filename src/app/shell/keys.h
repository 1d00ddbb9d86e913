// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/view.h"

namespace impasto::app {

/// Every key, as a sheet over the window.
Drawing layoutKeys(const View& view, QSizeF size);

} // namespace impasto::app
