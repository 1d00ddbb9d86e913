// SPDX-License-Identifier: GPL-3.0-or-later
// The chosen run drawn large over another, its distribution standing on the same axis and open into its tail.
#pragma once

#include "stations/runs/runs.h"

namespace impasto::app {

/// A top of the frame time axis that suits the run and shows the budget.
double commonTopMs(const View& view, const results::RunFigures& figures);
/// Where the picture starts, below the rows; nothing where there is no room for it.
std::optional<double> runPictureTop(const View& view, QSizeF size);
/// A table of rates in the place of the run's picture, as steps.
void drawRates(Sheet& sheet, const View& view, const run::Run& run, double top);
void drawRunPicture(Sheet& sheet, const View& view, const run::Run& run, double top);

} // namespace impasto::app
