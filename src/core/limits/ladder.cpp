// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/limits/ladder.h>

#include <algorithm>
#include <cmath>
#include <impasto/frames/parts.h>

namespace impasto::limits {
namespace {

constexpr double leastNoise = 0.01;    // of a run's mean: repeated runs of a game differ by that (common practice)
constexpr double atTheCrossing = 0.02; // of a frame: where CPU and GPU are alike it waits for either
constexpr double flatStep = 0.03;      // a rate that moves by less is the CPU's (common practice, no source)

/// A run in one part.
struct Point {
    double megapixels = 0, frameMs = 0;
    std::optional<double> cpuMs, gpuMs;
};

struct Line {
    double fixed = 0, slope = 0;
    double fixedVariance = 0, slopeVariance = 0, covariance = 0;
    double squares = 0;
    std::size_t count = 0;
};

/// Least squares; nothing with fewer than two sizes. The noise is at least that of a run.
std::optional<Line> lineThrough(const std::vector<std::pair<double, double>>& points) {
    const auto n = static_cast<double>(points.size());
    double mx = 0, my = 0, sxx = 0, sxy = 0;
    for (const auto& [x, y] : points) {
        mx += x / n;
        my += y / n;
    }
    for (const auto& [x, y] : points) {
        sxx += (x - mx) * (x - mx);
        sxy += (x - mx) * (y - my);
    }
    if (points.size() < 2 || !(sxx > 1e-6)) return std::nullopt;
    Line line;
    line.count = points.size();
    line.slope = sxy / sxx;
    line.fixed = my - line.slope * mx;
    for (const auto& [x, y] : points) line.squares += std::pow(y - line.fixed - line.slope * x, 2);
    const double floor = std::pow(leastNoise * my, 2);
    const double variance = n > 2 ? std::max(floor, line.squares / (n - 2)) : floor;
    line.slopeVariance = variance / sxx;
    line.fixedVariance = variance * (1 / n + mx * mx / sxx);
    line.covariance = -variance * mx / sxx;
    return line;
}

/// Half the 95% interval of a figure with that variance; few runs know their noise badly, but never less than a run
/// has.
double half(double variance, std::size_t runs, std::size_t figures) {
    const double df = std::max(3.0, static_cast<double>(runs) - static_cast<double>(figures));
    return stats::studentQuantile(0.975, df) * std::sqrt(std::max(0.0, variance));
}

stats::Interval meanOf(const std::vector<double>& values) {
    const double mean = *stats::mean(values), n = static_cast<double>(values.size());
    const double sd = std::max(leastNoise * mean, stats::standardDeviation(values).value_or(0));
    return {mean, half(sd * sd / n, values.size(), 1), values.size()};
}

void setGpu(LadderFit& fit, const Line& line, double overheadMs) {
    fit.gpuFixedMs = stats::Interval{line.fixed + overheadMs, half(line.fixedVariance, line.count, 2), line.count};
    fit.gpuPerMegapixelMs = stats::Interval{line.slope, half(line.slopeVariance, line.count, 2), line.count};
    const double t = half(1, line.count, 2);
    fit.gpuCovariance = t * t * line.covariance;
}

double squared(const std::optional<stats::Interval>& i) {
    return i ? std::pow(i->halfWidth.value_or(0), 2) : 0;
}

/// Where the line meets the ceiling, with the doubt of both (delta method); `alike`: of a frame, besides.
std::optional<stats::Interval> crossingOf(const LadderFit& fit, double alike) {
    if (fit.between)
        return stats::Interval{(fit.between->from + fit.between->to) / 2, (fit.between->to - fit.between->from) / 2,
                               fit.ceilingMs->count};
    if (!fit.ceilingMs || !fit.gpuPerMegapixelMs || !(fit.gpuPerMegapixelMs->estimate > 0)) return std::nullopt;
    const double slope = fit.gpuPerMegapixelMs->estimate;
    const double at = (fit.ceilingMs->estimate - fit.gpuFixedMs->estimate) / slope;
    if (!(at > 0) || at > 100) return std::nullopt;
    const double variance =
        (std::pow(alike * fit.ceilingMs->estimate, 2) + squared(fit.ceilingMs) + squared(fit.gpuFixedMs) +
         at * at * squared(fit.gpuPerMegapixelMs) + 2 * at * fit.gpuCovariance) /
        (slope * slope);
    return stats::Interval{at, std::sqrt(std::max(0.0, variance)), fit.ceilingMs->count};
}

/// Over all that is allowed, around the best.
std::optional<stats::Interval> crossingOf(const Ladder& ladder) {
    // Near it frames wait for either: where only they are told, both lines are too high there.
    const double alike = ladder.byTimes ? atTheCrossing : 0;
    auto best = crossingOf(ladder.fit, alike);
    for (const auto& other : ladder.others)
        if (const auto c = crossingOf(other, alike); c && best)
            best->halfWidth = std::max(*best->halfWidth, std::abs(c->estimate - best->estimate) + *c->halfWidth);
    return best;
}

/// CPU and GPU times are told: each is fitted by itself; what a frame takes besides is the same at every size.
void fitLanes(Ladder& ladder, const std::vector<Point>& points) {
    std::vector<std::pair<double, double>> gpu;
    std::vector<double> cpu;
    double overhead = 1e300;
    for (const auto& p : points) {
        gpu.emplace_back(p.megapixels, *p.gpuMs);
        cpu.push_back(*p.cpuMs);
        overhead = std::min(overhead, p.frameMs - std::max(*p.cpuMs, *p.gpuMs)); // the least: not where both are alike
    }
    overhead = std::max(0.0, overhead);
    ladder.fit.ceilingMs = meanOf(cpu);
    ladder.fit.ceilingMs->estimate += overhead;
    if (const auto line = lineThrough(gpu); line && line->slope > 0) setGpu(ladder.fit, *line, overhead);
}

/// The `flat` smallest sizes on the ceiling, the others on the GPU's line; `lowered`: the share by which the first of
/// these is taken to lie too high, being near the ceiling. Nothing where it contradicts itself; else with its misfit.
std::optional<std::pair<double, LadderFit>> split(const std::vector<double>& sizes, const std::vector<Point>& points,
                                                  std::size_t flat, double lowered) {
    std::vector<double> ceiling;
    std::vector<std::pair<double, double>> gpu;
    for (const auto& p : points) {
        if (flat > 0 && p.megapixels <= sizes[flat - 1] + 1e-9)
            ceiling.push_back(p.frameMs);
        else
            gpu.emplace_back(p.megapixels, p.frameMs * (1 - (p.megapixels <= sizes[flat] + 1e-9 ? lowered : 0)));
    }
    const auto line = gpu.empty() ? std::nullopt : lineThrough(gpu);
    if (!gpu.empty() && (!line || !(line->slope > 0))) return std::nullopt;
    const double mean = ceiling.empty() ? 0 : *stats::mean(ceiling);
    // At the sizes on the ceiling the GPU is done before: no later at the largest, clearly before at the smallest.
    if (line && !ceiling.empty() &&
        (line->fixed + line->slope * sizes[flat - 1] > mean * (1 + flatStep) ||
         line->fixed + line->slope * sizes.front() > mean * (1 - flatStep)))
        return std::nullopt;
    double squares = line ? line->squares : 0;
    for (const double ms : ceiling) squares += (ms - mean) * (ms - mean);
    LadderFit fit;
    if (!ceiling.empty()) fit.ceilingMs = meanOf(ceiling);
    if (line) setGpu(fit, *line, 0);
    return std::pair(squares, fit);
}

/// All but the largest size on the ceiling: it lies clearly above, and where the GPU took over is not known closer.
std::optional<std::pair<double, LadderFit>> onlyTheLargest(const Ladder& ladder, const std::vector<Point>& points) {
    const auto& top = ladder.seen.back();
    std::vector<double> ceiling;
    double squares = 0;
    for (const auto& p : points) {
        if (p.megapixels < top.rendered.value() - 1e-9)
            ceiling.push_back(p.frameMs);
        else
            squares += std::pow(p.frameMs - top.frameMs, 2);
    }
    const double mean = *stats::mean(ceiling);
    if (top.frameMs < mean * (1 + flatStep)) return std::nullopt;
    for (const double ms : ceiling) squares += (ms - mean) * (ms - mean);
    LadderFit fit;
    fit.ceilingMs = meanOf(ceiling);
    fit.between =
        LadderFit::Between{ladder.seen[ladder.seen.size() - 2].rendered.value(), top.rendered.value(), top.frameMs};
    return std::pair(squares, fit);
}

/// Frame times alone: the split that fits best, and the others that the noise allows.
void fitTimes(Ladder& ladder, const std::vector<Point>& points) {
    ladder.byTimes = true;
    std::vector<double> sizes, all;
    for (const auto& s : ladder.seen) sizes.push_back(s.rendered.value());
    for (const auto& p : points) all.push_back(p.frameMs);
    if (sizes.size() == 2) { // two that differ: the smaller may lie on either
        if (ladder.seen.back().frameMs < ladder.seen.front().frameMs * (1 + flatStep))
            ladder.fit.ceilingMs = meanOf(all);
        return;
    }
    // Each figure more must be worth its misfit (Akaike 1974); what comes near the best is allowed as well.
    const double noise = std::pow(leastNoise * *stats::mean(all), 2);
    std::vector<std::pair<double, LadderFit>> found;
    const auto add = [&](std::optional<std::pair<double, LadderFit>> fit, double worse) {
        if (!fit) return;
        const double figures =
            (fit->second.ceilingMs ? 1 : 0) + (fit->second.gpuFixedMs ? 2 : 0) + (fit->second.between ? 1 : 0);
        found.emplace_back(fit->first / noise + 2 * figures + worse, std::move(fit->second));
    };
    for (std::size_t flat = 0; flat <= sizes.size(); ++flat) {
        if (sizes.size() - flat == 1) {
            add(onlyTheLargest(ladder, points), 0);
            continue;
        }
        add(split(sizes, points, flat, 0), 0);
        const bool near = flat > 0 && flat < sizes.size() &&
                          ladder.seen[flat].frameMs < ladder.seen[flat - 1].frameMs * (1 + 3 * flatStep);
        if (near) add(split(sizes, points, flat, flatStep), 0.01); // never the best
    }
    if (found.empty()) return;
    std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    ladder.fit = found.front().second;
    for (std::size_t i = 1; i < found.size(); ++i)
        if (found[i].first - found.front().first < 6) ladder.others.push_back(found[i].second);
}

/// `smallest`, `largest`: that were seen; beyond them what is not known may take over.
std::optional<Ladder::Predicted> predicted(const LadderFit& fit, double m, double smallest, double largest) {
    if (fit.between && m > fit.between->from) { // what bends once upwards lies under the chord
        if (m > fit.between->to + 1e-9) return std::nullopt;
        const double low = fit.ceilingMs->estimate - *fit.ceilingMs->halfWidth,
                     share = (m - fit.between->from) / (fit.between->to - fit.between->from),
                     chord = fit.ceilingMs->estimate + share * (fit.between->toMs - fit.ceilingMs->estimate);
        return Ladder::Predicted{(fit.ceilingMs->estimate + chord) / 2, low, chord * (1 + 2 * leastNoise)};
    }
    std::optional<double> gpu;
    double gpuHalf = 0;
    if (fit.gpuFixedMs && fit.gpuPerMegapixelMs) {
        gpu = fit.gpuFixedMs->estimate + fit.gpuPerMegapixelMs->estimate * m;
        gpuHalf = std::sqrt(std::max(0.0, squared(fit.gpuFixedMs) + m * m * squared(fit.gpuPerMegapixelMs) +
                                              2 * m * fit.gpuCovariance));
    }
    if (!gpu && !fit.between && (!fit.ceilingMs || m > largest + 1e-9)) return std::nullopt;
    if (!fit.ceilingMs && m < smallest - 1e-9) return std::nullopt;
    const double ceiling = fit.ceilingMs ? fit.ceilingMs->estimate : 0,
                 ceilingHalf = fit.ceilingMs ? *fit.ceilingMs->halfWidth : 0;
    Ladder::Predicted p;
    p.ms = std::max(ceiling, gpu.value_or(0));
    // Where both are alike a frame waits for either, and takes longer than the longer of the means.
    const bool alike = gpu && fit.ceilingMs && std::abs(*gpu - ceiling) < 0.05 * p.ms;
    p.lowMs = std::max(ceiling - ceilingHalf, gpu.value_or(0) - gpuHalf) * (1 - leastNoise);
    p.highMs =
        std::max(ceiling + ceilingHalf, gpu.value_or(0) + gpuHalf) * (1 + leastNoise + (alike ? atTheCrossing : 0));
    return p;
}

} // namespace

std::optional<Ladder::Predicted> Ladder::at(Megapixels rendered) const {
    const double m = rendered.value(), smallest = seen.front().rendered.value(), largest = seen.back().rendered.value();
    auto p = predicted(fit, m, smallest, largest);
    for (const auto& other : others)
        if (const auto o = predicted(other, m, smallest, largest); o && p) {
            p->lowMs = std::min(p->lowMs, o->lowMs);
            p->highMs = std::max(p->highMs, o->highMs);
        }
    return p;
}

std::vector<Ladder> laddersOf(std::span<const Rung> rungs) {
    std::map<std::string, std::map<double, std::vector<Point>>> parts;
    std::vector<std::string> order;
    for (const auto& rung : rungs)
        for (const auto& run : rung.runs)
            for (const auto& mean : frames::partMeans(*run)) {
                if (!parts.contains(mean.part)) order.push_back(mean.part);
                parts[mean.part][rung.rendered.value()].push_back(
                    {rung.rendered.value(), mean.periodMs, mean.cpuMs, mean.gpuMs});
            }
    std::vector<Ladder> out;
    for (const auto& name : order) {
        const auto& bySize = parts[name];
        if (bySize.size() < 2) continue;
        Ladder ladder;
        ladder.part = name;
        std::vector<Point> points;
        for (const auto& [size, runs] : bySize) {
            double sum = 0;
            for (const auto& p : runs) sum += p.frameMs;
            ladder.seen.push_back({Megapixels(size), sum / static_cast<double>(runs.size()), runs.size()});
            points.insert(points.end(), runs.begin(), runs.end());
        }
        const bool lanes = std::all_of(points.begin(), points.end(), [](const Point& p) { return p.cpuMs && p.gpuMs; });
        if (lanes)
            fitLanes(ladder, points);
        else
            fitTimes(ladder, points);
        ladder.changesSides = crossingOf(ladder);
        out.push_back(std::move(ladder));
    }
    return out;
}

} // namespace impasto::limits
