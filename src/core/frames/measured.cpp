// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/measured.h>

#include <algorithm>
#include <cmath>

namespace impasto::frames {
namespace {

template <class Values>
std::optional<Measured> measured(const Values& values) {
    double sum = 0, least = 0, most = 0;
    std::size_t n = 0;
    for (const double v : values) {
        if (!std::isfinite(v)) continue;
        least = n == 0 ? v : std::min(least, v);
        most = n == 0 ? v : std::max(most, v);
        sum += v;
        ++n;
    }
    if (n == 0) return std::nullopt;
    return Measured{sum / static_cast<double>(n), least, most};
}

/// Empty where one of them lacks it.
std::vector<double> meansOf(std::span<const AllMeasured> runs, std::string_view key) {
    std::vector<double> out;
    for (const auto& run : runs) {
        const auto it = run.find(key);
        if (it == run.end()) return {};
        out.push_back(it->second.mean);
    }
    return out;
}

} // namespace

AllMeasured measuredOf(const capture::Capture& capture) {
    AllMeasured out;
    const auto add = [&out](std::string_view key, const std::optional<Measured>& found) {
        if (found) out.insert_or_assign(std::string(key), *found);
    };
    for (const auto& [key, column] : {std::pair("cpu_work_ms", &capture.cpuWorkMs),
                                      {"gpu_work_ms", &capture.gpuWorkMs},
                                      {"latency_ms", &capture.latencyMs}})
        if (*column) add(key, measured(**column));
    if (capture.invented && capture.frames() > 0) {
        const double shown = capture::shownRate(capture).value();
        add("shown_fps", Measured{shown, shown, shown});
    }
    for (const auto& track : capture.tracks) add(capture::keyOf(track.sensor), measured(track.values));
    return out;
}

std::vector<capture::Sensor> sensorsApart(std::span<const AllMeasured* const> runs) {
    std::vector<std::pair<double, capture::Sensor>> found;
    for (const auto sensor : capture::allSensors) {
        const auto key = capture::keyOf(sensor);
        std::vector<double> means;
        for (const auto* run : runs)
            if (const auto it = run->find(key); it != run->end()) means.push_back(it->second.mean);
        if (means.empty() || 2 * means.size() < runs.size()) continue;
        const auto [least, most] = std::minmax_element(means.begin(), means.end());
        const bool points = key.ends_with("_percent") || key.ends_with("_c");
        const double step = points ? 3 : std::max(0.02 * std::abs(*most), 1e-9);
        found.emplace_back((*most - *least) / step, sensor);
    }
    std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    std::vector<capture::Sensor> out;
    for (const auto& [apart, sensor] : found) out.push_back(sensor);
    return out;
}

std::vector<MeasuredComparison> compareMeasured(std::span<const AllMeasured> before,
                                                std::span<const AllMeasured> after) {
    constexpr double marginShare = 0.02; // common practice, no source
    std::vector<MeasuredComparison> out;
    if (before.empty()) return out;
    for (const auto& [key, first] : before.front()) {
        const auto one = meansOf(before, key), other = meansOf(after, key);
        if (one.empty() || other.empty()) continue;
        double mean = 0;
        for (const double v : one) mean += v / static_cast<double>(one.size());
        if (const auto compared = stats::compare(one, other, marginShare * std::abs(mean)))
            out.push_back({key, *compared});
    }
    return out;
}

} // namespace impasto::frames
