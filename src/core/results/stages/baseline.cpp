// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/baseline.h>

#include <algorithm>
#include <impasto/frames/places.h>
#include <impasto/results/sets.h>

#include "kept.h"

namespace impasto::results {
namespace {

/// Resamples of a run: enough for a standard error to 5%, fewer where runs are very long.
std::size_t resamplesFor(std::size_t frames) {
    return frames > 200000 ? 100 : 250;
}

Maybe<RunDoubt> doubt(const Inputs& in, const Context& context) {
    const auto* frames = in.of<RunFrames>(in.run());
    if (frames == nullptr) return std::shared_ptr<const RunDoubt>();
    stats::Resampling how;
    how.resamples = resamplesFor(frames->capture->frames());
    const auto own = frames::doubtOf(*frames->capture, how, context);
    if (context.cancelled()) return fail(ErrorCode::Cancelled);
    return own ? std::make_shared<const RunDoubt>(RunDoubt{*own}) : nullptr;
}

Maybe<BaselineFamily> family(const Inputs& in, const Context&) {
    std::vector<frames::Summary> summaries;
    std::vector<frames::RunDoubt> doubts;
    frames::Captures captures;
    for (const auto& id : in.get<BaselineRuns>()->ids) {
        const auto* figures = in.of<RunFigures>(id);
        if (figures == nullptr) continue;
        summaries.push_back(figures->summary);
        captures.push_back(in.of<RunFrames>(id)->capture.get());
        if (const auto* doubt = in.of<RunDoubt>(id)) doubts.push_back(doubt->doubt);
    }
    if (doubts.size() != summaries.size()) doubts.clear();
    frames::takeRouteOut(doubts, captures);
    return std::make_shared<const BaselineFamily>(BaselineFamily{frames::familiesOf(summaries, in.lowRule(), doubts)});
}

Maybe<HitchOrigins> origins(const Inputs& in, const Context& context) {
    const auto& ids = in.get<BaselineRuns>()->ids;
    std::vector<frames::HitchedRun> runs;
    for (const auto& id : ids) {
        const auto* frames = in.of<RunFrames>(id);
        const auto* figures = in.of<RunFigures>(id);
        if (frames == nullptr || figures == nullptr) return std::shared_ptr<const HitchOrigins>();
        runs.push_back({figures->summary.hitches, frames::partStartsOf(*frames->capture)});
    }
    HitchOrigins out;
    for (std::size_t i = 0; i < runs.size(); ++i) {
        if (context.cancelled()) return fail(ErrorCode::Cancelled);
        std::vector<frames::HitchedRun> others = runs;
        others.erase(others.begin() + static_cast<std::ptrdiff_t>(i));
        out.runs[ids[i]] = frames::originOf(runs[i], others, i == 0);
    }
    return std::make_shared<const HitchOrigins>(std::move(out));
}

/// What a run's variant changes pays for, against the baseline's variant.
struct Changed {
    bool cpu = false, gpu = false, memory = false;
};
Changed changedBy(const Inputs& in, const game::Game& game, const run::Variant& variant) {
    Changed out;
    out.gpu = variant.upscaling.has_value(); // it renders fewer pixels
    for (const auto& [key, level] : variant.values) {
        const auto it = in.baseline().find(key);
        const auto* setting = game.setting(key);
        if (setting == nullptr || (it != in.baseline().end() && it->second == level)) continue;
        out.cpu = out.cpu || setting->paysCpu;
        out.gpu = out.gpu || setting->paysGpu;
        out.memory = out.memory || setting->paysMemory;
    }
    return out;
}

std::optional<double> meanOf(const Inputs& in, const RunId& run, run::Lane lane) {
    return frames::routeMean(in.of<RunFigures>(run)->parts, in.route(), lane);
}

/// The lanes that are to move, where the logs tell them; else the frame time, which another lane may hold.
std::optional<frames::Examined> nothingMoved(const Inputs& in, const RunId& id, const Changed& changed) {
    std::vector<frames::Paid> paid;
    const auto add = [&](auto figure) {
        const std::optional<double> now = figure(id);
        frames::Paid p{now.value_or(0), {}};
        for (const auto& other : in.get<BaselineRuns>()->ids)
            if (const std::optional<double> v = figure(other)) p.before.push_back(*v);
        if (now && !p.before.empty()) paid.push_back(std::move(p));
    };
    for (const auto& [pays, lane] : {std::pair(changed.cpu, run::Lane::Cpu), {changed.gpu, run::Lane::Gpu}})
        if (pays) add([&in, lane = lane](const RunId& run) { return meanOf(in, run, lane); });
    const bool lanesTell = !paid.empty();
    if (!lanesTell && (changed.cpu || changed.gpu))
        add([&in](const RunId& run) { return std::optional(1000 / in.of<RunFigures>(run)->summary.average.value()); });
    if (changed.memory)
        add([&in](const RunId& run) {
            return capture::trackMean(*in.of<RunFrames>(run)->capture, capture::Sensor::GpuMemory);
        });
    return frames::notApplied(paid, lanesTell);
}

/// A run against the baseline on what its changed settings, upscaling, cap and generation are known to do.
std::vector<frames::Examined> notApplied(const Inputs& in, const RunId& id) {
    std::vector<frames::Examined> out;
    const auto* game = in.game();
    const auto* order = in.orderOf(id);
    if (game == nullptr || order == nullptr) return out;
    if (const auto found = nothingMoved(in, id, changedBy(in, *game, order->variant))) out.push_back(*found);
    const auto& recorded = *in.of<RunFrames>(id)->capture;
    if (const auto cap = order->variant.cap) {
        const auto found = frames::capNotApplied(in.of<RunFigures>(id)->summary.average, *cap);
        if (found.found) out.push_back(found);
    }
    if (order->variant.generation && recorded.invented) {
        const double gain = capture::shownRate(recorded) / in.of<RunFigures>(id)->summary.average - 1;
        if (gain < 0.01) out.push_back({frames::Finding::NotApplied, true, gain});
    }
    return out;
}

Maybe<Siblings> siblings(const Inputs& in, const Context& context) {
    Siblings out;
    for (const auto& ids : {in.get<CostRuns>()->ids, in.get<CheckRuns>()->ids, in.get<AfterRuns>()->ids})
        for (const auto& id : ids) out.examined[id] = notApplied(in, id);
    const auto& ids = in.get<BaselineRuns>()->ids;
    std::vector<double> averages;
    std::vector<frames::Load> loads;
    frames::Captures captures;
    for (const auto& id : ids) {
        averages.push_back(in.of<RunFigures>(id)->summary.average.value());
        captures.push_back(in.of<RunFrames>(id)->capture.get());
        if (const auto cpu = capture::trackMean(*captures.back(), capture::Sensor::CpuLoad))
            loads.push_back({*cpu, averages.back()});
    }
    const auto sags = frames::sags(captures);
    out.evenness = frames::evennessOf(averages, game::ruleOf(in.scene()).mostSpread);
    if (out.evenness.odd) out.odd = ids[*out.evenness.odd];
    for (std::size_t i = 0; i < averages.size(); ++i) {
        if (context.cancelled()) return fail(ErrorCode::Cancelled);
        auto& examined = out.examined[ids[i]];
        if (const auto found = frames::unlike(averages, i)) examined.push_back(*found);
        if (i < sags.size() && sags[i].found) examined.push_back(sags[i]);
        if (loads.size() != averages.size()) continue;
        if (const auto found = frames::background(loads, i)) examined.push_back(*found);
    }
    return std::make_shared<const Siblings>(std::move(out));
}

} // namespace

std::optional<frames::FigureComparison> compareVariants(const document::Session& session, const Results& results,
                                                        const RunId& before, const RunId& after) {
    const RunSet *first = nullptr, *second = nullptr;
    const auto sets = setsOf(session, results);
    for (const auto& set : sets) {
        if (std::find(set.counted.begin(), set.counted.end(), before) != set.counted.end()) first = &set;
        if (std::find(set.counted.begin(), set.counted.end(), after) != set.counted.end()) second = &set;
    }
    if (first == nullptr || second == nullptr || first == second) return std::nullopt;
    if (first->variant == second->variant && first->name == second->name) return std::nullopt;
    return compareSets(session, results, *first, *second);
}

std::vector<Stage> baselineStages() {
    return {
        keptStage(stage("doubt of a run", {}, {use<RunFrames>()}, doubt, typeid(BaselineRuns)), packDoubt, unpackDoubt),
        stage("baseline family", {Part::LowRule},
              {use<BaselineRuns>(), useOf<RunFrames, BaselineRuns>(), useOf<RunFigures, BaselineRuns>(),
               useOf<RunDoubt, BaselineRuns>()},
              family),
        stage("hitch origins", {},
              {use<BaselineRuns>(), useOf<RunFrames, BaselineRuns>(), useOf<RunFigures, BaselineRuns>()}, origins),
        stage("runs against others", {Part::Answers, Part::Game, Part::Route, Part::Baseline},
              {use<BaselineRuns>(), use<CostRuns>(), use<CheckRuns>(), use<AfterRuns>(),
               useOf<RunFrames, BaselineRuns>(), useOf<RunFigures, BaselineRuns>(), useOf<RunFrames, CostRuns>(),
               useOf<RunFigures, CostRuns>(), useOf<RunFrames, CheckRuns>(), useOf<RunFigures, CheckRuns>(),
               useOf<RunFrames, AfterRuns>(), useOf<RunFigures, AfterRuns>()},
              siblings)};
}

} // namespace impasto::results
