// SPDX-License-Identifier: GPL-3.0-or-later
#include "pictures/trace.h"

#include <cmath>
#include <impasto/stats/stats.h>

namespace impasto::app {

QPolygonF traceOf(std::span<const double> frameMs, const Scale& time, const Scale& ms) {
    const double from = std::min(time.fromValue, time.toValue), to = std::max(time.fromValue, time.toValue);
    const double topPx = ms.px(std::max(ms.fromValue, ms.toValue));
    const auto y = [&](double v) { return std::max(topPx, ms.px(v)); };
    QPolygonF out;
    double at = 0, column = -1, least = 0, most = 0;
    const auto flush = [&] {
        if (column < 0) return;
        out.append(QPointF(column, y(least)));
        if (most > least) out.append(QPointF(column, y(most)));
    };
    for (const double v : frameMs) {
        at += v;
        if (at < from) continue;
        if (at > to) break;
        const double px = std::floor(2 * time.px(at)) / 2;
        if (px != column) {
            flush();
            column = px;
            least = most = v;
        }
        least = std::min(least, v);
        most = std::max(most, v);
    }
    flush();
    return out;
}

std::vector<PartSpan> partSpans(const capture::Capture& capture) {
    std::vector<PartSpan> out;
    double at = 0;
    for (const auto& range : capture::partsOf(capture)) {
        const double from = at;
        for (std::size_t i = range.first; i < range.last; ++i) at += capture.framesMs[i];
        out.push_back({qs(range.part), from, at});
    }
    return out;
}

std::vector<double> density(std::span<const double> values, double low, double high, std::size_t bins) {
    const auto counts = stats::histogram(values, low, high, bins).counts;
    constexpr int reach = 6;
    std::vector<double> out(bins, 0);
    double most = 0;
    for (std::size_t i = 1; i + 1 < bins; ++i) { // the first and last bin hold what lies outside
        for (int k = -reach; k <= reach; ++k) {
            const auto j = static_cast<std::ptrdiff_t>(i) + k;
            if (j < 1 || j + 1 >= static_cast<std::ptrdiff_t>(bins)) continue;
            out[i] += static_cast<double>(counts[static_cast<std::size_t>(j)]) * std::exp(-0.5 * k * k / 4.0);
        }
        most = std::max(most, out[i]);
    }
    for (double& v : out) v = most > 0 ? v / most : 0;
    return out;
}

} // namespace impasto::app
