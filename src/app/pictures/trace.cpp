// SPDX-License-Identifier: GPL-3.0-or-later
#include "pictures/trace.h"

#include <cmath>
#include <impasto/frames/parts.h>
#include <impasto/frames/summary.h>
#include <impasto/stats/stats.h>

namespace impasto::app {

namespace {

/// Collects the lowest and highest of each half pixel.
class Trace {
  public:
    Trace(const Scale& time, const Scale& ms)
        : m_time(time), m_ms(ms), m_topPx(ms.px(std::max(ms.fromValue, ms.toValue))) {}
    void add(double atMs, double least, double most) {
        const double px = std::floor(2 * m_time.px(atMs)) / 2;
        if (px != m_column) {
            flush();
            m_column = px;
            m_least = least;
            m_most = most;
        }
        m_least = std::min(m_least, least);
        m_most = std::max(m_most, most);
    }
    QPolygonF take() {
        flush();
        return std::move(m_out);
    }

  private:
    [[nodiscard]] double y(double v) const { return std::max(m_topPx, m_ms.px(v)); }
    void flush() {
        if (m_column < 0) return;
        m_out.append(QPointF(m_column, y(m_least)));
        if (m_most > m_least) m_out.append(QPointF(m_column, y(m_most)));
    }
    const Scale& m_time;
    const Scale& m_ms;
    double m_topPx, m_column = -1, m_least = 0, m_most = 0;
    QPolygonF m_out;
};

} // namespace

QPolygonF traceOf(std::span<const double> frameMs, const Scale& time, const Scale& ms) {
    Trace trace(time, ms);
    double at = 0;
    for (const double v : frameMs) {
        at += v;
        if (at < time.fromValue) continue;
        if (at > time.toValue) break;
        trace.add(at, v, v);
    }
    return trace.take();
}

QPolygonF traceOf(const capture::Pyramid& pyramid, const Scale& time, const Scale& ms) {
    const auto frames = pyramid.framesMs();
    const std::size_t first = pyramid.frameAt(time.fromValue), last = pyramid.frameAt(time.toValue);
    const auto columns = static_cast<std::size_t>(2 * std::abs(time.toPx - time.fromPx)) + 1;
    Trace trace(time, ms);
    if (last - first < 16 * columns) {
        double at = pyramid.startOf(first);
        for (std::size_t i = first; i < frames.size(); ++i) {
            at += frames[i];
            if (at > time.toValue) break;
            trace.add(at, frames[i], frames[i]);
        }
        return trace.take();
    }
    std::size_t from = first;
    for (std::size_t c = 0; c < columns && from < last; ++c) {
        const double px = time.fromPx + 0.5 * static_cast<double>(c);
        const std::size_t to = c + 1 == columns ? last : std::min(last, pyramid.frameAt(time.value(px + 0.5)));
        if (to <= from) continue;
        const auto range = pyramid.range(from, to);
        trace.add(time.value(px + 0.25), range.least, range.most);
        from = to;
    }
    return trace.take();
}

std::vector<PartSpan> partSpans(const capture::Capture& capture, const capture::Pyramid& pyramid) {
    std::vector<PartSpan> out;
    for (const auto& range : capture::partsOf(capture))
        out.push_back({qs(range.part), pyramid.startOf(range.first), pyramid.startOf(range.last)});
    return out;
}

namespace {

/// By a Gaussian kernel; 1 at its highest.
std::vector<double> smoothed(const std::vector<double>& counts) {
    constexpr int reach = 6;
    std::vector<double> out(counts.size(), 0);
    double most = 0;
    for (std::size_t i = 0; i < counts.size(); ++i) {
        for (int k = -reach; k <= reach; ++k) {
            const auto j = static_cast<std::ptrdiff_t>(i) + k;
            if (j < 0 || j >= static_cast<std::ptrdiff_t>(counts.size())) continue;
            out[i] += counts[static_cast<std::size_t>(j)] * std::exp(-0.5 * k * k / 4.0);
        }
        most = std::max(most, out[i]);
    }
    for (double& v : out) v = most > 0 ? v / most : 0;
    return out;
}

} // namespace

std::vector<double> density(std::span<const double> values, double low, double high, std::size_t bins) {
    const auto counts = stats::histogram(values, low, high, bins).counts;
    std::vector<double> inside(counts.begin(), counts.end());
    if (bins > 1) inside.front() = inside.back() = 0; // they hold what lies outside
    return smoothed(inside);
}

std::vector<double> density(const frames::Distribution& distribution, const Scale& axis, std::size_t bins) {
    std::vector<double> counts;
    const double step = (axis.toPx - axis.fromPx) / static_cast<double>(bins);
    for (std::size_t i = 0; i < bins; ++i) {
        const double from = axis.fromPx + step * static_cast<double>(i);
        counts.push_back(distribution.shareUpTo(axis.value(from + step)) - distribution.shareUpTo(axis.value(from)));
    }
    return smoothed(counts);
}

} // namespace impasto::app
