// SPDX-License-Identifier: GPL-3.0-or-later
// No two texts of a picture overlap, and none leaves it.
#pragma once

#include "app/harness.h"

namespace impasto::app {

void expectTidy(const Drawing& drawing, QSizeF size, const std::string& where);
/// Every station and every bar, at the window's sizes.
void expectAllTidy(Driven& d, const std::string& when);
/// The pictures of the window that are in sight.
std::vector<Picture*> picturesInSight(const Driven& d);

} // namespace impasto::app
