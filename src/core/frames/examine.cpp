// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/examine.h>

#include <algorithm>
#include <cmath>
#include <impasto/base/keys.h>
#include <impasto/frames/one_rate.h>
#include <impasto/frames/parts.h>
#include <impasto/frames/summary.h>
#include <impasto/stats/stats.h>

namespace impasto::frames {
namespace {

constexpr Keys<Finding, 9> findings{{{Finding::Flattened, "capped-or-synced"},
                                     {Finding::Drifts, "drifting"},
                                     {Finding::Sags, "sagging"},
                                     {Finding::Stalled, "stalled"},
                                     {Finding::StandsStill, "reading-stands-still"},
                                     {Finding::TooShort, "too-short"},
                                     {Finding::Unlike, "unlike-siblings"},
                                     {Finding::NotApplied, "nothing-changed"},
                                     {Finding::Background, "background-load"}}};
constexpr double flatBand = 0.01;   // a limiter's lateness stays inside, a scene's swing does not
constexpr double fillsFrame = 0.92; // a lane that takes less of a frame does not set its length
constexpr double mostBeside = 0.4;  // of a frame, for the stages beside the lane that it goes with
constexpr double heldShare = 0.3;   // of the time: half of a route may lie at its cap
constexpr double heldMs = 500;      // of a stretch that is held or free as a whole
constexpr double driftShare = 0.03;
constexpr double fewestFrames = 10;
constexpr double unlikeShare = 0.02;
constexpr double mostLoadPoints = 5;

double meanOf(const std::vector<double>& values, std::size_t first, std::size_t last) {
    double sum = 0;
    for (std::size_t i = first; i < last; ++i) sum += values[i];
    return sum / static_cast<double>(last - first);
}

struct Moments {
    double n = 0, sum = 0, squares = 0;
    void add(double value) {
        ++n;
        sum += value;
        squares += value * value;
    }
    [[nodiscard]] double deviation() const {
        return n > 0 ? std::sqrt(std::max(0.0, squares / n - sum * sum / n / n)) : 0;
    }
};

/// A stretch of half a second, as a cap or a sync would make it.
struct Stretch {
    double ms = 0, medianMs = 0;
    bool flat = false;  // three of four frames last alike
    bool waits = false; // three of four are not filled by a lane: certainly held
    bool gpuFills = false;
};

Stretch stretchOf(const capture::Capture& capture, std::size_t first, std::size_t last, bool lanes) {
    const auto frames = std::span(capture.framesMs).subspan(first, last - first);
    Stretch out;
    out.medianMs = *stats::quantile(frames, 0.5);
    std::size_t alike = 0, idle = 0, gpu = 0;
    Moments whole, besideCpu, besideGpu;
    for (std::size_t i = first; i < last; ++i) {
        const double ms = capture.framesMs[i];
        out.ms += ms;
        alike += std::abs(ms - out.medianMs) <= flatBand * out.medianMs ? 1U : 0U;
        if (!lanes) continue;
        const bool gpuFills = (*capture.gpuWorkMs)[i] >= fillsFrame * ms,
                   cpuFills = (*capture.cpuWorkMs)[i] >= fillsFrame * ms;
        whole.add(ms);
        besideCpu.add(ms - (*capture.cpuWorkMs)[i]);
        besideGpu.add(ms - (*capture.gpuWorkMs)[i]);
        gpu += gpuFills ? 1U : 0U;
        idle += !gpuFills && !cpuFills ? 1U : 0U;
    }
    out.flat = 4 * alike >= 3 * frames.size();
    // What is held lasts as long whatever the lanes do. A frame that goes with a lane which takes most of it is that
    // lane's and another stage's: of a copy, or of the driver.
    const auto goesWith = [&](const Moments& beside) {
        return beside.sum <= mostBeside * whole.sum && beside.deviation() <= 0.5 * whole.deviation();
    };
    const bool free = !out.flat && (goesWith(besideCpu) || goesWith(besideGpu));
    out.waits = lanes && !free && 4 * idle >= 3 * frames.size();
    out.gpuFills = lanes && 4 * gpu >= frames.size();
    return out;
}

std::vector<Stretch> stretchesIn(const capture::Capture& capture, bool lanes) {
    std::vector<Stretch> out;
    double inside = 0;
    for (std::size_t first = 0, i = 0; i < capture.frames(); ++i)
        if ((inside += capture.framesMs[i]) >= heldMs) {
            out.push_back(stretchOf(capture, first, i + 1, lanes));
            first = i + 1;
            inside = 0;
        }
    if (out.empty() && capture.frames() > 0) out.push_back(stretchOf(capture, 0, capture.frames(), lanes));
    return out;
}

/// The frame time that most of the flat stretches have; 0 without any.
double commonLevel(const std::vector<Stretch>& stretches) {
    std::vector<double> flat;
    for (const auto& s : stretches)
        if (s.flat && !s.gpuFills) flat.push_back(s.medianMs);
    std::sort(flat.begin(), flat.end());
    double best = 0;
    std::size_t most = 0;
    for (std::size_t first = 0, last = 0; first < flat.size(); ++first) {
        while (last < flat.size() && flat[last] <= (1 + flatBand) * flat[first]) ++last;
        if (last - first <= most) continue;
        most = last - first;
        best = flat[first + (last - first) / 2];
    }
    return best;
}

/// Where both lanes are told, stretches that neither fills, or that last alike while the CPU's reading fills the frame:
/// it holds the wait then. Else stretches that last alike, or all of
/// them where a clock starts the frames.
/// What a second GPU at its limit holds, as it invents frames, is neither capped nor synced.
Examined flattened(const capture::Capture& capture, bool lanes) {
    constexpr double busy = 90, isOn = 1.3; // percent; shown frames a rendered one
    const bool invents = capture::shownRate(capture).value() * durationMs(capture) >=
                         1000 * isOn * static_cast<double>(capture.frames()); // else it may copy, at a clock that rests
    if (invents && capture::trackMean(capture, capture::Sensor::SecondGpuLoad).value_or(0) >= busy)
        return {Finding::Flattened, false, 0, lanes};
    const auto stretches = stretchesIn(capture, lanes);
    const double level = commonLevel(stretches);
    double held = 0, whole = 0;
    for (const auto& s : stretches) {
        const bool atLevel = s.flat && !s.gpuFills && std::abs(s.medianMs - level) <= flatBand * level;
        whole += s.ms;
        if (s.waits || atLevel) held += s.ms;
    }
    const bool clocked = !lanes && keepsOneRate(capture.framesMs);
    const double share = clocked ? 1 : whole > 0 ? held / whole : 0;
    return {Finding::Flattened, share >= heldShare, share, lanes};
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
    std::vector<Examined> out{flattened(capture, lanes)};
    // Without parts a change of scene looks like a drift.
    if (capture.marks.size() > 1) out.push_back(drifts(capture));
    double stalled = 0;
    for (const auto& stall : stalls(capture.framesMs)) stalled += (stall.toMs - stall.fromMs) / 1000;
    if (stalled > 0) out.push_back({Finding::Stalled, true, stalled});
    if (capture.cpuWorkMs || capture.gpuWorkMs)
        out.push_back({Finding::StandsStill, still > 0, static_cast<double>(still)});
    out.push_back({Finding::TooShort, lowFrames < fewestFrames, lowFrames});
    return out;
}

std::optional<Examined> notApplied(std::span<const Paid> paid, bool lanesTell) {
    if (paid.empty()) return std::nullopt;
    bool still = true;
    double most = 0;
    for (const auto& p : paid) {
        const auto center = stats::mean(p.before);
        if (!center || *center <= 0) return std::nullopt;
        constexpr double usual = 0.002; // of one run beside another, where there is one alone
        const double sd = stats::standardDeviation(p.before).value_or(usual * *center);
        const double change = p.now / *center - 1;
        // Two deviations of a new run, or too little to be a change at all.
        const double reach = 2 * sd * std::sqrt(1 + 1 / static_cast<double>(p.before.size()));
        still = still && std::abs(change) < 0.01 && (std::abs(p.now - *center) <= reach || std::abs(change) < 0.001);
        if (std::abs(change) > std::abs(most)) most = change;
    }
    return Examined{Finding::NotApplied, still, most, lanesTell};
}

Examined capNotApplied(Fps average, Fps cap) {
    constexpr double late = 0.02; // no limiter lets so many frames through
    const double over = average / cap - 1;
    return {Finding::NotApplied, over > late, over};
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

Evenness evennessOf(std::span<const double> averages, double mostSpread) {
    const auto spreadOf = [](std::vector<double> values) {
        const auto middle = stats::quantile(values, 0.5);
        const auto [least, most] = std::minmax_element(values.begin(), values.end());
        return middle && *middle > 0 ? (*most - *least) / *middle : 0.0;
    };
    Evenness out{spreadOf({averages.begin(), averages.end()}), mostSpread, {}};
    if (out.even() || averages.size() < 3) return out;
    double best = mostSpread;
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
    // So few siblings tell little: of three, one must be ten of their deviations off.
    constexpr double grossShare = 0.10, grossRanges = 2, toldShare = 0.05;
    const auto [least, most] = std::minmax_element(others.begin(), others.end());
    const bool gross = std::abs(off) > grossShare * center && std::abs(off) > grossRanges * (*most - *least);
    const bool found = (std::abs(off) > reach && std::abs(off) > unlikeShare * center) || gross;
    return Examined{Finding::Unlike, found, off / center, found || reach <= toldShare * center};
}

} // namespace impasto::frames
