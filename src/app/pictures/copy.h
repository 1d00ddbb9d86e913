// SPDX-License-Identifier: GPL-3.0-or-later
// A picture for the clipboard: as it is painted, and its figures as tab-separated text, both from the same shapes.
#pragma once

#include "pictures/sheet.h"

#include <QtGui/QImage>

class QMimeData;

namespace impasto::app {

/// The texts of a drawing, line by line from the top; texts on one line are cells from left to right.
QString tableOf(const Drawing& drawing);
/// The caller owns it: an image and the table as text.
QMimeData* copyOf(const Drawing& drawing, const QImage& image);

} // namespace impasto::app
