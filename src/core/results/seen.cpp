// SPDX-License-Identifier: GPL-3.0-or-later
#include "seen.h"

#include <cmath>
#include <impasto/results/costs.h>

namespace impasto::results {
namespace {

/// The kept runs that a cost can be read from, with their values.
struct CostRun {
    RunId id;
    game::Values values;
    const run::ReadOff* readOff = nullptr; // its figures, where nothing was recorded
};

std::vector<CostRun> costGround(const Inputs& in) {
    std::vector<CostRun> out;
    const auto add = [&](const std::vector<RunId>& ids, bool readOff = false) {
        for (const auto& id : ids) {
            const auto* order = in.orderOf(id);
            const auto& values = order == nullptr ? in.baseline() : order->variant.values;
            if (readOff)
                out.push_back({id, values, &*in.runOf(id).readOff});
            else if (in.of<RunFigures>(id) != nullptr)
                out.push_back({id, values});
        }
    };
    add(in.get<BaselineRuns>()->ids);
    add(in.get<CostRuns>()->ids);
    add(in.get<CheckRuns>()->ids);
    add(in.get<EarlierChecks>()->ids);
    add(in.get<ReadBaseline>()->ids, true);
    add(in.get<ReadCosts>()->ids, true);
    add(in.get<ReadChecks>()->ids, true);
    add(in.get<ReadEarlier>()->ids, true);
    return out;
}

/// The lanes that the baseline tells, and that most of the other runs tell: a reading of waits (a capped or worn game)
/// says nothing of work.
std::vector<run::Lane> usableLanes(const Inputs& in, const std::vector<CostRun>& ground, bool headset) {
    const auto recorded =
        std::count_if(ground.begin(), ground.end(), [](const auto& r) { return r.readOff == nullptr; });
    // A figure or two that were read off beside recordings take nothing from those.
    if (4 * recorded < 3 * static_cast<std::ptrdiff_t>(ground.size())) return {run::Lane::Frame};
    const auto tells = [&](const CostRun& run, run::Lane lane) {
        const auto& parts = in.of<RunFigures>(run.id)->parts;
        return std::all_of(parts.begin(), parts.end(), [lane](const auto& p) { return p.of(lane).has_value(); });
    };
    const auto usable = [&](run::Lane lane) {
        std::ptrdiff_t told = 0;
        for (const auto& run : ground) {
            if (run.readOff != nullptr) continue;
            const bool here = tells(run, lane);
            if (!here && run.values == in.baseline()) return false;
            told += here ? 1 : 0;
        }
        return 5 * told >= 4 * recorded;
    };
    const bool cpu = usable(run::Lane::Cpu), gpu = usable(run::Lane::Gpu);
    if (cpu && gpu) return {run::Lane::Cpu, run::Lane::Gpu};
    if (headset && (cpu || gpu)) return {cpu ? run::Lane::Cpu : run::Lane::Gpu};
    return {run::Lane::Frame};
}

bool isFull(const Inputs& in, double gpuMemoryMib) {
    const double mib = in.machine() == nullptr ? 0 : in.machine()->gpuMemory.value();
    return mib > 0 && gpuMemoryMib >= cost::fullMemoryShare * mib;
}

/// What a run told, by the layout's parts.
cost::SeenRun seenIn(const Inputs& in, const CostRun& run, const cost::Layout& layout, const cost::Set& set,
                     const std::vector<run::Lane>& lanes) {
    cost::SeenRun out{set, {}};
    const auto& parts = in.of<RunFigures>(run.id)->parts;
    for (const auto lane : lanes) {
        auto& values =
            lane == run::Lane::Frame
                ? out.frameMs
                : out.taken[cost::indexOf(lane == run::Lane::Gpu ? cost::Resource::Gpu : cost::Resource::Cpu)];
        for (const auto& name : layout.parts) {
            const auto it = std::find_if(parts.begin(), parts.end(), [&](const auto& p) { return p.part == name; });
            values.push_back(it == parts.end() ? std::nullopt : it->of(lane));
        }
    }
    if (const auto mib = capture::trackMean(*in.of<RunFrames>(run.id)->capture, capture::Sensor::GpuMemory)) {
        out.taken[cost::indexOf(cost::Resource::GpuMemory)].push_back(mib);
        out.memoryFull = isFull(in, *mib);
    }
    return out;
}

/// At most so many parts of a route, those that take most of CPU, GPU or frame: lighter ones never bind, and a log may
/// name hundreds.
std::vector<std::string> heaviestParts(const std::vector<frames::PartMeans>& parts) {
    constexpr std::size_t most = 8;
    std::vector<double> load(parts.size(), 0.0);
    for (const auto lane : {run::Lane::Cpu, run::Lane::Gpu, run::Lane::Frame}) {
        double heaviest = 0;
        for (const auto& part : parts) heaviest = std::max(heaviest, part.of(lane).value_or(0));
        for (std::size_t i = 0; i < parts.size(); ++i)
            if (heaviest > 0) load[i] = std::max(load[i], parts[i].of(lane).value_or(0) / heaviest);
    }
    auto least = load;
    std::sort(least.begin(), least.end(), std::greater<>());
    const double bound = least.size() > most ? least[most - 1] : 0;
    std::vector<std::string> out;
    for (std::size_t i = 0; i < parts.size() && out.size() < most; ++i)
        if (load[i] >= bound) out.push_back(parts[i].part);
    return out;
}

/// A counter shows the route as a whole: every part is taken to change as the whole does.
cost::SeenRun seenOff(const CostRun& run, const cost::Layout& layout, const cost::Set& set,
                      const std::vector<double>& shape, bool recorded, bool full) {
    constexpr double perPart = 0.03; // that parts do not change alike, relative; common practice, no source
    cost::SeenRun out{set, {}};
    for (std::size_t p = 0; p < layout.parts.size(); ++p)
        if (layout.parts[p] != leastSeen)
            out.frameMs.emplace_back(shape[p] * 1000 / run.readOff->average.value());
        else
            out.frameMs.push_back(run.readOff->least && run.readOff->least->value() > 0
                                      ? std::optional(1000 / run.readOff->least->value())
                                      : std::nullopt);
    if (run.readOff->gpuMemory)
        out.taken[cost::indexOf(cost::Resource::GpuMemory)].emplace_back(run.readOff->gpuMemory->value());
    out.memoryFull = full;
    const double doubt = run.readOff->doubt();
    out.weight = std::min(1.0, recordedVariance / (doubt * doubt + (recorded ? perPart * perPart : 0)));
    return out;
}

/// The whole route, and its slowest moment where that is read mostly.
std::vector<std::string> partsSeen(const std::vector<CostRun>& ground) {
    const auto told =
        std::count_if(ground.begin(), ground.end(), [](const CostRun& run) { return run.readOff->least.has_value(); });
    if (!ground.front().readOff->least || 2 * told < static_cast<std::ptrdiff_t>(ground.size())) return {{}};
    return {{}, leastSeen};
}

/// What each part's frames take against those of the whole route, in a recorded run.
std::vector<double> shapeOf(const Inputs& in, const CostRun& run, const std::vector<std::string>& parts) {
    const auto& means = in.of<RunFigures>(run.id)->parts;
    const double whole = frames::routeMean(means, in.route(), run::Lane::Frame).value_or(0);
    std::vector<double> out;
    for (const auto& name : parts) {
        const auto it = std::find_if(means.begin(), means.end(), [&](const auto& p) { return p.part == name; });
        out.push_back(it != means.end() && whole > 0 ? it->periodMs / whole : 1);
    }
    return out;
}

} // namespace

SeenRuns seenRuns(const Inputs& in) {
    const auto ground = costGround(in);
    SeenRuns out;
    if (ground.empty()) return out;
    const auto recorded =
        std::find_if(ground.begin(), ground.end(), [](const auto& r) { return r.readOff == nullptr; });
    const bool any = recorded != ground.end();
    out.layout = cost::Layout::of(*in.game(), in.baseline(),
                                  any ? heaviestParts(in.of<RunFigures>(recorded->id)->parts) : partsSeen(ground));
    out.layout.noise = game::ruleOf(in.scene()).noise;
    const auto shape = any ? shapeOf(in, *recorded, out.layout.parts) : std::vector<double>(out.layout.parts.size(), 1);
    const auto lanes = usableLanes(in, ground, in.panel() && in.panel()->headset);
    for (const auto& run : ground)
        if (const auto set = out.layout.setOf(run.values))
            out.runs.push_back(run.readOff != nullptr
                                   ? seenOff(run, out.layout, *set, shape, any,
                                             run.readOff->gpuMemory && isFull(in, run.readOff->gpuMemory->value()))
                                   : seenIn(in, run, out.layout, *set, lanes));
    return out;
}

} // namespace impasto::results
