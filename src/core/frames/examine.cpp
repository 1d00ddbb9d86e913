// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/examine.h>
#include <impasto/frames/shape.h>

#include <cmath>
#include <impasto/base/keys.h>
#include <impasto/frames/parts.h>
#include <impasto/stats/stats.h>

namespace impasto::frames {
namespace {

constexpr Keys<Finding, 7> findings{{{Finding::Flattened, "capped-or-synced"},
                                     {Finding::Drifts, "drifting"},
                                     {Finding::StandsStill, "reading-stands-still"},
                                     {Finding::TooShort, "too-short"},
                                     {Finding::Unlike, "unlike-siblings"},
                                     {Finding::NotApplied, "nothing-changed"},
                                     {Finding::Background, "background-load"}}};
constexpr double flatBand = 0.01;   // a limiter's lateness stays inside, a scene's swing does not
constexpr double fillsFrame = 0.92; // a lane that takes less of a frame does not set its length
constexpr double heldShare = 0.6;
constexpr double driftShare = 0.03;
constexpr double fewestFrames = 10;
constexpr double unlikeShare = 0.02;
constexpr double mostLoadPoints = 5;
constexpr double otherRate = 1.75; // of a menu or a loading screen against the route

double meanOf(const std::vector<double>& values, std::size_t first, std::size_t last) {
    double sum = 0;
    for (std::size_t i = first; i < last; ++i) sum += values[i];
    return sum / static_cast<double>(last - first);
}

/// Frames that neither lane fills, where both are told; else frames that last alike.
Examined flattened(const capture::Capture& capture, bool lanes) {
    const auto& frames = capture.framesMs;
    const double middle = *stats::quantile(frames, 0.5);
    std::size_t held = 0;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        const double work = lanes ? std::max((*capture.cpuWorkMs)[i], (*capture.gpuWorkMs)[i]) : 0;
        held += lanes ? (work < fillsFrame * frames[i] ? 1U : 0U)
                      : (std::abs(frames[i] - middle) <= flatBand * middle ? 1U : 0U);
    }
    const double share = static_cast<double>(held) / static_cast<double>(frames.size());
    return {Finding::Flattened, share >= heldShare, share};
}

/// Each part against itself, so that a heavy part at the end is not drift.
Examined drifts(const capture::Capture& capture) {
    double change = 0, weights = 0;
    for (const auto& part : capture::partsOf(capture)) {
        const std::size_t middle = part.first + (part.last - part.first) / 2;
        if (middle == part.first) continue;
        const double weight = static_cast<double>(part.last - part.first);
        change +=
            weight * (meanOf(capture.framesMs, middle, part.last) / meanOf(capture.framesMs, part.first, middle) - 1);
        weights += weight;
    }
    const double share = weights > 0 ? change / weights : 0;
    return {Finding::Drifts, std::abs(share) >= driftShare, share};
}

/// Whole seconds at either end whose rate is another than that of the run's middle half: a menu, an idle wait.
std::vector<capture::Span> otherEnds(std::span<const double> frames) {
    const auto seconds = secondsOf(frames);
    if (seconds.size() < 8) return {};
    std::vector<double> middle;
    for (std::size_t i = seconds.size() / 4; i < 3 * seconds.size() / 4; ++i) middle.push_back(seconds[i].medianMs);
    const double usual = *stats::quantile(middle, 0.5), least = *stats::quantile(middle, 0),
                 most = *stats::quantile(middle, 1);
    if (most > otherRate * least) return {}; // the route itself varies as much
    const auto other = [&](const Second& s) {
        return s.medianMs * otherRate < usual || s.medianMs > otherRate * usual;
    };
    std::size_t first = 0, last = seconds.size();
    while (first < seconds.size() / 4 && other(seconds[first])) ++first;
    while (last > 3 * seconds.size() / 4 && other(seconds[last - 1])) --last;
    std::vector<capture::Span> out;
    if (first > 0) out.push_back({0, seconds[first - 1].atMs});
    if (last < seconds.size()) out.push_back({seconds[last - 1].atMs, seconds.back().atMs + 1000});
    return out;
}

} // namespace

std::string_view keyOf(Finding finding) {
    return keyIn(findings, finding);
}

std::vector<Examined> examine(const capture::Capture& capture) {
    if (capture.frames() == 0) return {};
    const int still = (capture.cpuWorkMs && standsStill(*capture.cpuWorkMs) ? 1 : 0) +
                      (capture.gpuWorkMs && standsStill(*capture.gpuWorkMs) ? 2 : 0);
    const double lowFrames = 0.01 * static_cast<double>(capture.frames());
    const bool lanes = capture.cpuWorkMs && capture.gpuWorkMs && still == 0;
    std::vector<Examined> out{flattened(capture, lanes),
                              {Finding::StandsStill, still > 0, static_cast<double>(still)},
                              {Finding::TooShort, lowFrames < fewestFrames, lowFrames}};
    // Without parts a change of scene looks like a drift.
    if (capture.marks.size() > 1) out.insert(out.begin() + 1, drifts(capture));
    return out;
}

std::vector<capture::Span> pollutionOf(const capture::Capture& capture) {
    constexpr double edgeMs = 3000, settleMs = 300, stallMs = 400;
    const auto& frames = capture.framesMs;
    const auto median = stats::quantile(frames, 0.5);
    if (!median) return {};
    const double whole = capture::durationMs(capture);
    std::vector<capture::Span> out;
    double at = 0;
    for (const double ms : frames) {
        at += ms;
        const bool begins = at <= edgeMs && at < whole / 4, ends = at - ms >= whole - edgeMs && at > 3 * whole / 4;
        const bool odd = ms > 4 * *median;
        if (odd && begins) out.push_back({0, at + settleMs});
        if (odd && ends) out.push_back({at - ms - settleMs, whole});
        if (ms > stallMs && ms > 12 * *median) out.push_back({at - ms, at + settleMs});
    }
    // Only where no marks say where the route begins.
    if (capture.marks.empty())
        for (const auto& span : otherEnds(frames)) out.push_back(span);
    for (auto& span : out) {
        span.fromMs = std::max(0.0, span.fromMs);
        span.toMs = std::min(whole, span.toMs);
    }
    out = capture::joined(std::move(out));
    // A run that is slow throughout is not a loading screen.
    double gone = 0;
    for (const auto& span : out) gone += span.toMs - span.fromMs;
    return gone > whole / 2 ? std::vector<capture::Span>() : out;
}

std::optional<Examined> notApplied(std::span<const Paid> paid) {
    if (paid.empty()) return std::nullopt;
    bool still = true;
    double most = 0;
    for (const auto& p : paid) {
        const auto center = stats::mean(p.before), sd = stats::standardDeviation(p.before);
        if (!center || !sd || *center <= 0) return std::nullopt;
        const double change = p.now / *center - 1;
        // Two deviations of a new run, or too little to be a change at all.
        const double reach = 2 * *sd * std::sqrt(1 + 1 / static_cast<double>(p.before.size()));
        still = still && std::abs(change) < 0.01 && (std::abs(p.now - *center) <= reach || std::abs(change) < 0.001);
        if (std::abs(change) > std::abs(most)) most = change;
    }
    return Examined{Finding::NotApplied, still, most};
}

std::optional<Examined> background(std::span<const Load> runs, std::size_t index) {
    if (runs.size() < 4 || index >= runs.size()) return std::nullopt;
    std::vector<double> loads, rates;
    for (std::size_t i = 0; i < runs.size(); ++i)
        if (i != index) {
            loads.push_back(runs[i].cpuPercent);
            rates.push_back(runs[i].averageFps);
        }
    const double n = static_cast<double>(loads.size()), above = runs[index].cpuPercent - *stats::mean(loads);
    const double reach = stats::studentQuantile(0.995, n - 1) * *stats::standardDeviation(loads) * std::sqrt(1 + 1 / n);
    // More frames need more of the CPU: that is not another program.
    const bool faster = runs[index].averageFps > (1 + unlikeShare) * *stats::mean(rates);
    return Examined{Finding::Background, above > std::max(reach, mostLoadPoints) && !faster, above};
}

Evenness evennessOf(std::span<const double> averages) {
    const auto spreadOf = [](std::vector<double> values) {
        const auto middle = stats::quantile(values, 0.5);
        const auto [least, most] = std::minmax_element(values.begin(), values.end());
        return middle && *middle > 0 ? (*most - *least) / *middle : 0.0;
    };
    Evenness out{spreadOf({averages.begin(), averages.end()}), {}};
    if (out.even() || averages.size() < 3) return out;
    double best = Evenness::mostSpread;
    for (std::size_t i = 0; i < averages.size(); ++i) {
        std::vector<double> others(averages.begin(), averages.end());
        others.erase(others.begin() + static_cast<std::ptrdiff_t>(i));
        const double left = spreadOf(std::move(others));
        if (left > best) continue;
        best = left;
        out.odd = i;
    }
    return out;
}

std::optional<Examined> unlike(std::span<const double> averages, std::size_t index) {
    if (averages.size() < 4 || index >= averages.size()) return std::nullopt;
    std::vector<double> others(averages.begin(), averages.end());
    others.erase(others.begin() + static_cast<std::ptrdiff_t>(index));
    const double n = static_cast<double>(others.size()), center = *stats::mean(others);
    const double off = averages[index] - center;
    // A new run of the same kind would lie inside this 99 times of 100.
    const double reach =
        stats::studentQuantile(0.995, n - 1) * *stats::standardDeviation(others) * std::sqrt(1 + 1 / n);
    return Examined{Finding::Unlike, std::abs(off) > reach && std::abs(off) > unlikeShare * center, off / center};
}

} // namespace impasto::frames
