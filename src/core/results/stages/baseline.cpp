// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/baseline.h>

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
    for (const auto& id : in.get<BaselineRuns>()->ids) {
        const auto* figures = in.of<RunFigures>(id);
        if (figures == nullptr) continue;
        summaries.push_back(figures->summary);
        if (const auto* doubt = in.of<RunDoubt>(id)) doubts.push_back(doubt->doubt);
    }
    if (doubts.size() != summaries.size()) doubts.clear();
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

/// A cost run against the baseline, on what its changed settings are known to pay for.
std::optional<frames::Examined> notApplied(const Inputs& in, const RunId& id) {
    const auto* game = in.game();
    const auto* order = in.orderOf(id);
    if (game == nullptr || order == nullptr) return std::nullopt;
    bool cpu = false, gpu = false, memory = false;
    for (const auto& [key, level] : order->variant.values) {
        const auto it = in.baseline().find(key);
        const auto* setting = game->setting(key);
        if (setting == nullptr || (it != in.baseline().end() && it->second == level)) continue;
        cpu = cpu || setting->paysCpu;
        gpu = gpu || setting->paysGpu;
        memory = memory || setting->paysMemory;
    }
    std::vector<frames::Paid> paid;
    const auto add = [&](auto figure) {
        const std::optional<double> now = figure(id);
        frames::Paid p{now.value_or(0), {}};
        for (const auto& other : in.get<BaselineRuns>()->ids)
            if (const std::optional<double> v = figure(other)) p.before.push_back(*v);
        if (now) paid.push_back(std::move(p));
    };
    for (const auto& [pays, lane] : {std::pair(cpu, run::Lane::Cpu), {gpu, run::Lane::Gpu}})
        if (pays)
            add([&in, lane = lane](const RunId& run) {
                return frames::routeMean(in.of<RunFigures>(run)->parts, in.route(), lane);
            });
    if (memory)
        add([&in](const RunId& run) {
            return capture::trackMean(*in.of<RunFrames>(run)->capture, capture::Sensor::GpuMemory);
        });
    return frames::notApplied(paid);
}

Maybe<Siblings> siblings(const Inputs& in, const Context&) {
    Siblings out;
    for (const auto& id : in.get<CostRuns>()->ids)
        if (const auto found = notApplied(in, id)) out.examined[id].push_back(*found);
    const auto& ids = in.get<BaselineRuns>()->ids;
    std::vector<double> averages;
    std::vector<frames::Load> loads;
    for (const auto& id : ids) {
        averages.push_back(in.of<RunFigures>(id)->summary.average.value());
        if (const auto cpu = capture::trackMean(*in.of<RunFrames>(id)->capture, capture::Sensor::CpuLoad))
            loads.push_back({*cpu, averages.back()});
    }
    out.evenness = frames::evennessOf(averages);
    if (out.evenness.odd) out.odd = ids[*out.evenness.odd];
    for (std::size_t i = 0; i < averages.size(); ++i) {
        auto& examined = out.examined[ids[i]];
        if (const auto found = frames::unlike(averages, i)) examined.push_back(*found);
        if (loads.size() != averages.size()) continue;
        if (const auto found = frames::background(loads, i)) examined.push_back(*found);
    }
    return std::make_shared<const Siblings>(std::move(out));
}

} // namespace

std::optional<frames::FigureComparison> compareVariants(const document::Session& session, const Results& results,
                                                        const RunId& before, const RunId& after) {
    const auto variantOf = [&session](const run::Run& run) {
        const auto* order = session.orderOf(run);
        return order == nullptr ? session.baselineVariant() : order->variant;
    };
    const auto* first = session.facts->run(before);
    const auto* second = session.facts->run(after);
    if (first == nullptr || second == nullptr || !session.counts(*first) || !session.counts(*second))
        return std::nullopt;
    const auto a = variantOf(*first), b = variantOf(*second);
    if (a == b || !capture::alike(first->capture->kind, second->capture->kind)) return std::nullopt;
    const auto family = [&](const run::Variant& variant) {
        std::vector<frames::Summary> out;
        for (const auto& run : session.facts->runs) {
            const auto* order = session.orderOf(run);
            const auto* figures = results.of<RunFigures>(run.id);
            if (figures == nullptr || !session.counts(run) || variantOf(run) != variant) continue;
            if (!capture::alike(first->capture->kind, run.capture->kind)) continue;
            if (order != nullptr && (order->route != session.edits->subject.route || !session.onThisMachine(*order)))
                continue;
            out.push_back(figures->summary);
        }
        return out;
    };
    const auto rule = session.edits->goal.brief ? session.edits->goal.brief->lowRule : stats::LowRule::WorstMean;
    const auto compared = frames::compareFigures(family(a), family(b), rule, {});
    return compared.empty() ? std::nullopt : std::optional(compared.front()); // the average
}

std::vector<Stage> baselineStages() {
    return {stage("doubt of a run", {}, {use<RunFrames>()}, doubt, typeid(BaselineRuns)),
            stage("baseline family", {Part::LowRule},
                  {use<BaselineRuns>(), useOf<RunFigures, BaselineRuns>(), useOf<RunDoubt, BaselineRuns>()}, family),
            stage("hitch origins", {},
                  {use<BaselineRuns>(), useOf<RunFrames, BaselineRuns>(), useOf<RunFigures, BaselineRuns>()}, origins),
            stage("runs against others", {Part::Answers, Part::Game, Part::Route, Part::Baseline},
                  {use<BaselineRuns>(), use<CostRuns>(), useOf<RunFrames, BaselineRuns>(),
                   useOf<RunFigures, BaselineRuns>(), useOf<RunFrames, CostRuns>(), useOf<RunFigures, CostRuns>()},
                  siblings)};
}

} // namespace impasto::results
