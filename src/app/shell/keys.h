// SPDX-License-Identifier: GPL-3.0-or-later
// The plain keys that are the same at every station, and the sheet that shows all keys.
#pragma once

#include "stations/station.h"

namespace impasto::app {

const std::vector<Key>& shellKeys();
Drawing layoutKeys(const View& view, QSizeF size);

} // namespace impasto::app
