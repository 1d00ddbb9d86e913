// SPDX-License-Identifier: GPL-3.0-or-later
// A picture for the clipboard or a file: as it is painted, as lines and text, and its figures as tab-separated text,
// all from the same shapes.
#pragma once

#include "pictures/sheet.h"

#include <QtGui/QImage>

class QMimeData;

namespace impasto::app {

/// The texts of a drawing, line by line from the top; texts on one line are cells from left to right.
QString tableOf(const Drawing& drawing);
/// The drawing as a document of the standard SVG Tiny 1.2, with text as text.
QByteArray svgOf(const Drawing& drawing, const Theme& theme, QSizeF size, const QString& title);
/// The caller owns it: an image, the same as SVG, and the table as text.
QMimeData* copyOf(const QString& table, const QImage& image, const QByteArray& svg);

} // namespace impasto::app
