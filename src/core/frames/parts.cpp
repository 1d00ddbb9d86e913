// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/parts.h>

#include <algorithm>
#include <cmath>
#include <impasto/frames/one_rate.h>
#include <impasto/stats/selection.h>
#include <impasto/stats/stats.h>

namespace impasto::frames {
namespace {

std::optional<double> meanWork(const std::optional<std::vector<double>>& column, const capture::PartRange& range) {
    if (!column) return std::nullopt;
    double sum = 0.0;
    std::size_t n = 0;
    for (std::size_t i = range.first; i < range.last; ++i)
        if (std::isfinite((*column)[i])) {
            sum += (*column)[i];
            ++n;
        }
    if (n == 0) return std::nullopt;
    return sum / static_cast<double>(n);
}

/// A limiter's own lateness moves a wait by some 0.3% of the interval; work moves by more.
constexpr double stillShare = 5e-3;

/// A reading from one frame's start to the next one's, which a clock sets: work would not make up for what it took.
bool holdsTheWait(std::span<const double> work) {
    return std::all_of(work.begin(), work.end(), [](double v) { return v > 0; }) && keepsOneRate(work);
}

} // namespace

bool standsStill(std::span<const double> work) {
    std::vector<double> finite;
    for (const double v : work)
        if (std::isfinite(v)) finite.push_back(v);
    if (finite.size() < 2) return false;
    // By its quartiles: one odd frame among thousands must not hide a wait. Of a normal spread they lie 1.349
    // deviations apart.
    stats::Selection values(finite);
    const double low = values.quantile(0.25), middle = values.quantile(0.5), high = values.quantile(0.75);
    return middle > 0 && (high - low) / 1.349 < stillShare * middle;
}

bool waitsForRefresh(std::span<const double> work, double refreshMs) {
    std::size_t finite = 0, whole = 0;
    for (const double v : work) {
        if (!std::isfinite(v)) continue;
        ++finite;
        const double refreshes = v / refreshMs, nearest = std::max(1.0, std::round(refreshes));
        whole += std::abs(refreshes - nearest) <= 0.03 * nearest ? 1 : 0;
    }
    return finite > 0 && 10 * whole >= 9 * finite;
}

std::optional<double> PartMeans::of(run::Lane lane) const {
    switch (lane) {
    case run::Lane::Cpu:
        return cpuMs;
    case run::Lane::Gpu:
        return gpuMs;
    case run::Lane::Frame:
        return periodMs;
    }
    return std::nullopt;
}

std::vector<PartMeans> partMeans(const capture::Capture& capture, std::optional<double> pacedMs) {
    const auto waits = [&](const std::optional<std::vector<double>>& work) {
        return work && (standsStill(*work) || (pacedMs && waitsForRefresh(*work, *pacedMs)) || holdsTheWait(*work));
    };
    const bool cpuStill = waits(capture.cpuWorkMs), gpuStill = waits(capture.gpuWorkMs);
    std::vector<PartMeans> out;
    for (const auto& range : capture::partsOf(capture)) {
        PartMeans m{range.part, range.last - range.first, 0, {}, {}};
        for (std::size_t i = range.first; i < range.last; ++i) m.periodMs += capture.framesMs[i];
        m.periodMs /= static_cast<double>(m.frames);
        if (!cpuStill) m.cpuMs = meanWork(capture.cpuWorkMs, range);
        if (!gpuStill) m.gpuMs = meanWork(capture.gpuWorkMs, range);
        out.push_back(std::move(m));
    }
    return out;
}

std::optional<double> routeMean(std::span<const PartMeans> parts, const game::Route* route, run::Lane lane) {
    double sum = 0.0, weights = 0.0;
    for (const auto& part : parts) {
        const auto value = part.of(lane);
        if (!value) return std::nullopt;
        double seconds = static_cast<double>(part.frames) * part.periodMs / 1000;
        if (route != nullptr)
            for (const auto& known : route->parts)
                if (known.name == part.part) seconds = known.seconds;
        sum += seconds * *value;
        weights += seconds;
    }
    if (weights <= 0) return std::nullopt;
    return sum / weights;
}

} // namespace impasto::frames
