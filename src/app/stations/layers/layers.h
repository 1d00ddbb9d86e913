// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

namespace impasto::app {

struct LayersState {
    QString openSetting; // whose levels are fanned out
    bool walksOpen = false;
};

/// Where the target does not fit: which goal gives way, at the foot of the easel; its height, 0 where it is not shown.
double waysHeight(const View& view, QSizeF size);
void drawWays(Sheet& sheet, const View& view);
Drawing layoutLayers(const View& view, QSizeF size);
Drawing layoutLayersColumn(const View& view, QSizeF size);
/// The frame scale, so that a drag can be read back into a budget.
Scale layersScale(const View& view, QSizeF size);
/// What every measured level costs, tab-separated: setting, level, ms and its half width on CPU and GPU, MiB, picture.
QString layersTable(const View& view);
Station layersStation();

} // namespace impasto::app
