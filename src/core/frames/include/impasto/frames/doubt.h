// SPDX-License-Identifier: GPL-3.0-or-later
// How sure one run's own figures are, by drawing blocks of its frames again (local block bootstrap).
#pragma once

#include <impasto/base/context.h>
#include <impasto/run/run.h>
#include <impasto/stats/lows.h>
#include <impasto/stats/resample.h>

namespace impasto::frames {

struct RunDoubt {
    stats::Doubt average;                                           // fps
    std::array<stats::Doubt, 3> onePercentLow{}, tenthPercentLow{}; // fps, by stats::LowRule
    stats::Doubt median, p95, p99, p999;                            // ms; the first two after Woodruff (1952)
    double blockLength = 1;
};
/// Stretches of a run that lie at fixed places of the route: blocks are drawn again inside their own stretch only,
/// since heavy sections of the route are not random (local block bootstrap, Paparoditis and Politis 2002). Its parts,
/// cut into pieces of ten seconds or a little less; the first frame of each, ascending, 0 first.
std::vector<std::size_t> stretchesOf(const capture::Capture& capture);

/// Of one run's rates; nothing for fewer than 10 frames, or cancelled. Takes the slow frames alone from each resample;
/// beyond 100,000 frames whole cells of neighbours are drawn, so that its time goes with the number of cells.
std::optional<RunDoubt> doubtOf(std::span<const double> frameMs, const stats::Resampling& how = {},
                                std::span<const std::size_t> stretches = {}, const Context& context = {});
std::optional<RunDoubt> doubtOf(const capture::Capture& capture, const stats::Resampling& how = {},
                                const Context& context = {});

} // namespace impasto::frames
