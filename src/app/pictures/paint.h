// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "pictures/sheet.h"

class QPainter;

namespace impasto::app {

/// Draws the shapes, then the focus ring of `focus` where it is not null.
void paint(QPainter& painter, const Drawing& drawing, const Theme& theme, const Hot* focus);

} // namespace impasto::app
