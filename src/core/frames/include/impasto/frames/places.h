// SPDX-License-Identifier: GPL-3.0-or-later
// Runs of one route laid over each other place by place, so that what the route does is not taken for chance: how much
// a run's own frames leave its average open, and where one run is slower than the others were at the same place.
#pragma once

#include <impasto/frames/doubt.h>
#include <impasto/frames/examine.h>

namespace impasto::frames {

using Captures = std::vector<const capture::Capture*>; // not null; outlive the call they are given to

/// The standard error that the noise of each run's frames leaves its average, fps, in the order of the runs: from what
/// is left of the rates at the same places (pieces of about a second, of equal share of each part's time) when the
/// places' means and the runs' means are taken out (two-way analysis of variance; Fisher 1925), with the correlation of
/// neighbouring pieces. Empty under two runs, or where their parts differ.
std::vector<double> errorsWithoutRoute(const Captures& runs);

/// Puts those errors in place of the averages' own, where they are smaller: one doubt a run, or none at all.
void takeRouteOut(std::vector<RunDoubt>& doubt, const Captures& runs);

/// Of each run, whether a stretch is slower than the others at the same place: two pieces in a row by 3% and
/// four deviations of what pieces differ, and those beside them by half of that; nothing under three runs, or where
/// their parts differ.
std::vector<Examined> sags(const Captures& runs);

} // namespace impasto::frames
