// SPDX-License-Identifier: GPL-3.0-or-later
// Frame times over time as a curve: one point a frame where there is room, the highest and lowest of each pixel
// otherwise.
#pragma once

#include "pictures/sheet.h"

#include <impasto/capture/capture.h>
#include <impasto/capture/pyramid.h>
#include <impasto/frames/shape.h>
#include <span>

namespace impasto::app {

/// `ms` and `time` map frame time to y and recorded time (ms) to x; frames outside the time range are left out, frame
/// times above the range are cut at its edge.
QPolygonF traceOf(std::span<const double> frameMs, const Scale& time, const Scale& ms);
/// The same of a recording of any length, without reading more of it than is seen.
QPolygonF traceOf(const capture::Pyramid& pyramid, const Scale& time, const Scale& ms);
/// The parts as alternating bands behind a trace, with their borders in ms.
struct PartSpan {
    QString name;
    double fromMs = 0, toMs = 0;
};
std::vector<PartSpan> partSpans(const capture::Capture& capture, const capture::Pyramid& pyramid);
/// A smooth distribution (Gaussian kernel) over `bins` values of a range, 1 at its highest.
std::vector<double> density(std::span<const double> values, double low, double high, std::size_t bins);
/// The same over equal pieces of an axis, from its begin.
std::vector<double> density(const frames::Distribution& distribution, const Scale& axis, std::size_t bins);

} // namespace impasto::app
