// SPDX-License-Identifier: GPL-3.0-or-later
// What a run measured besides its frame times: the lanes, what was shown, latency, and the machine meanwhile.
#pragma once

#include <impasto/capture/capture.h>
#include <impasto/stats/compare.h>
#include <map>
#include <span>

namespace impasto::frames {

/// Over the finite values of a run.
struct Measured {
    double mean = 0, least = 0, most = 0;
};
/// By key with the unit in it: "cpu_work_ms", "gpu_work_ms", "latency_ms", "shown_fps" (where frames were invented),
/// and every sensor under its own key. What the log does not tell is missing.
using AllMeasured = std::map<std::string, Measured, std::less<>>;
AllMeasured measuredOf(const capture::Capture& capture);

/// The sensors that half of the runs tell at least, the one whose means lie furthest apart first: in steps of 3 points
/// or degrees, or 2% (common practice, no source).
std::vector<capture::Sensor> sensorsApart(std::span<const AllMeasured* const> runs);

struct MeasuredComparison {
    std::string key;
    stats::Comparison comparison; // of the runs' means; margin 2% of the mean before
};
/// What all runs of both sides measured, by key.
std::vector<MeasuredComparison> compareMeasured(std::span<const AllMeasured> before,
                                                std::span<const AllMeasured> after);

} // namespace impasto::frames
