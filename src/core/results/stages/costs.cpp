// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/costs.h>

#include <cmath>
#include <impasto/results/limits.h>

namespace impasto::results {
namespace {

struct Heaviest {
    std::string part;
    double factor = 1;
};

Heaviest heaviest(const Limits* verdicts, run::Lane lane, double routeMean) {
    Heaviest h;
    double most = 0;
    if (verdicts == nullptr) return h;
    for (const auto& v : verdicts->parts)
        if (const auto* f = v.of(lane); f != nullptr && f->meanMs > most) {
            most = f->meanMs;
            h = {v.part, routeMean > 0 ? f->meanMs / routeMean : 1};
        }
    return h;
}

/// The kept runs that a cost can be read from, with their values.
struct CostRun {
    RunId id;
    game::Values values;
};

std::vector<CostRun> costGround(const Inputs& in) {
    std::vector<CostRun> out;
    const auto add = [&](const std::vector<RunId>& ids) {
        for (const auto& id : ids) {
            const auto* order = in.orderOf(id);
            if (in.of<RunFigures>(id) != nullptr)
                out.push_back({id, order == nullptr ? in.baseline() : order->variant.values});
        }
    };
    add(in.get<BaselineRuns>()->ids);
    add(in.get<CostRuns>()->ids);
    add(in.get<CheckRuns>()->ids);
    add(in.get<EarlierChecks>()->ids);
    return out;
}

std::optional<cost::Fit> memoryFit(const Inputs& in, const std::vector<CostRun>& ground, capture::Sensor sensor) {
    std::vector<cost::Observation> seen;
    for (const auto& run : ground)
        if (const auto v = capture::trackMean(*in.of<RunFrames>(run.id)->capture, sensor))
            seen.push_back({run.values, *v});
    return cost::fit(*in.game(), in.baseline(), seen);
}

/// Mean excess of the sets of several changes over the fit's sum, at most; 0 where none exceeds it.
double missOf(const Inputs& in, const cost::Fit& fit, const std::vector<cost::Observation>& seen) {
    std::map<game::Values, std::vector<double>> excess;
    for (const auto& o : seen) {
        std::size_t changed = 0;
        for (const auto& [id, level] : o.values) {
            const auto it = in.baseline().find(id);
            changed += it != in.baseline().end() && it->second != level ? 1 : 0;
        }
        const auto p = changed > 1 ? cost::predict(fit, in.baseline(), o.values) : std::nullopt;
        if (p) excess[o.values].push_back(o.value - p->mean);
    }
    double most = 0;
    for (const auto& [values, all] : excess) most = std::max(most, *stats::mean(all));
    return most;
}

/// What has something to save.
cost::Need needOf(const Inputs& in, const Costs& costs) {
    cost::Need need;
    const auto target = in.target();
    const double budget = target ? budgetOf(*target).value() : 0;
    for (const auto& lane : costs.lanes) {
        const double mean = lane.worstFactor * lane.fit.estimate[0];
        const double doubt =
            lane.worstFactor * stats::studentQuantile(0.90, lane.fit.degreesOfFreedom) * lane.fit.standardError(0);
        const bool over = budget > 0 && mean + doubt > in.shares().of(lane.lane) * budget;
        need.gpu = need.gpu || (over && lane.lane != run::Lane::Cpu);
        need.cpu = need.cpu || (over && lane.lane != run::Lane::Gpu);
    }
    if (const auto* machine = in.machine(); machine != nullptr && costs.gpuMemory)
        need.memory = costs.gpuMemory->estimate[0] > choose::usableMemoryShare * machine->gpuMemory.value();
    return need;
}

Maybe<Costs> costsOf(const Inputs& in, const Context&) {
    if (in.game() == nullptr) return std::shared_ptr<const Costs>();
    Costs costs;
    const auto ground = costGround(in);
    if (ground.empty()) return std::make_shared<const Costs>(std::move(costs));
    const bool headset = in.panel() && in.panel()->headset;
    const auto& baseline = in.get<BaselineRuns>()->ids;
    const RunId first = baseline.empty() ? ground.front().id : baseline.front();
    for (const auto lane : lanesOf(in.of<RunFigures>(first)->parts, headset)) {
        std::vector<cost::Observation> seen;
        for (const auto& run : ground)
            if (const auto v = frames::routeMean(in.of<RunFigures>(run.id)->parts, in.route(), lane))
                seen.push_back({run.values, *v});
        auto fit = cost::fit(*in.game(), in.baseline(), seen);
        if (!fit) continue;
        const auto worst = heaviest(in.get<Limits>(), lane, fit->estimate[0]);
        const double miss = worst.factor * missOf(in, *fit, seen);
        costs.lanes.push_back({lane, std::move(*fit), worst.part, worst.factor, miss});
    }
    costs.gpuMemory = memoryFit(in, ground, capture::Sensor::GpuMemory);
    costs.systemMemory = memoryFit(in, ground, capture::Sensor::SystemMemory);
    costs.need = needOf(in, costs);
    costs.planned = cost::plan(*in.game(), in.baseline(), costs.need);
    for (const auto& key : cost::lockedLevels(*in.game(), in.baseline(), in.locked()))
        if (std::find(costs.planned.begin(), costs.planned.end(), key) == costs.planned.end())
            costs.planned.push_back(key);
    for (const auto& key : costs.planned) {
        const bool measured = !costs.lanes.empty() && costs.lanes.front().fit.indexOf(key).has_value();
        if (!measured) costs.toMeasure.push_back(key);
    }
    return std::make_shared<const Costs>(std::move(costs));
}

std::optional<choose::Ground> groundFrom(const Costs* costs, const game::Game* game, const game::Values& baseline,
                                         const choose::UsableShares& shares, const game::Values& locked,
                                         const machine::Machine* machine) {
    if (costs == nullptr || game == nullptr || costs->lanes.empty()) return std::nullopt;
    choose::Ground g{*game, baseline, costs->lanes, costs->gpuMemory, {}, shares, locked};
    if (machine != nullptr) g.gpuMemorySize = machine->gpuMemory;
    return g;
}

Maybe<Proposed> propose(const Inputs& in, const Context& context) {
    const auto ground = groundFrom(in.get<Costs>(), in.game(), in.baseline(), in.shares(), in.locked(), in.machine());
    const auto target = in.target();
    if (!ground || !target) return std::shared_ptr<const Proposed>();
    auto proposal = choose::propose(*ground, *target, context);
    if (!proposal && proposal.error().code == ErrorCode::Cancelled) return tl::unexpected(proposal.error());
    Proposed out;
    if (proposal)
        out.proposal = std::move(*proposal);
    else
        out.error = proposal.error();
    return std::make_shared<const Proposed>(std::move(out));
}

Maybe<Check> check(const Inputs& in, const Context&) {
    const auto* costs = in.get<Costs>();
    const auto target = in.target();
    const auto& ids = in.get<CheckRuns>()->ids;
    const auto& shares = in.shares();
    if (!target || ids.empty() || costs == nullptr) return std::shared_ptr<const Check>();
    Check check;
    check.runs = ids.size();
    const double budget = budgetOf(*target).value();
    for (const auto& lane : costs->lanes) {
        std::map<std::string, std::vector<double>> perPart;
        for (const auto& id : ids)
            for (const auto& part : in.of<RunFigures>(id)->parts)
                if (const auto v = part.of(lane.lane)) perPart[part.part].push_back(*v);
        choose::LaneOutcome worst;
        worst.lane = lane.lane;
        worst.usableMs = shares.of(lane.lane) * budget;
        for (const auto& [part, values] : perPart) {
            const double mean = *stats::mean(values);
            if (mean <= worst.meanMs) continue;
            worst.worstPart = part;
            worst.meanMs = mean;
            const auto sd = stats::standardDeviation(values);
            worst.standardErrorMs = sd ? *sd / std::sqrt(static_cast<double>(values.size())) : 0.0;
        }
        check.holds = check.holds && worst.meanMs <= worst.usableMs;
        check.reaches = check.reaches && worst.meanMs <= budget;
        check.measured.push_back(worst);
    }
    return std::make_shared<const Check>(std::move(check));
}

} // namespace

const choose::LaneCosts* Costs::of(run::Lane lane) const {
    for (const auto& l : lanes)
        if (l.lane == lane) return &l;
    return nullptr;
}

std::optional<choose::Ground> groundOf(const document::Session& session, const Results& results) {
    const auto& edits = *session.edits;
    return groundFrom(results.get<Costs>(), session.game(), edits.settings.baseline, edits.goal.shares,
                      edits.settings.locked, session.machine());
}

const choose::Proposal* proposalOf(const Results& results) {
    const auto* proposed = results.get<Proposed>();
    return proposed != nullptr && proposed->proposal ? &*proposed->proposal : nullptr;
}

std::vector<Stage> costStages() {
    std::vector<Use> ground{use<BaselineRuns>(), use<CostRuns>(), use<CheckRuns>(), use<EarlierChecks>(),
                            use<Limits>()};
    for (const auto& more :
         {useOf<RunFigures, BaselineRuns>(), useOf<RunFrames, BaselineRuns>(), useOf<RunFigures, CostRuns>(),
          useOf<RunFrames, CostRuns>(), useOf<RunFigures, CheckRuns>(), useOf<RunFrames, CheckRuns>(),
          useOf<RunFigures, EarlierChecks>(), useOf<RunFrames, EarlierChecks>()})
        ground.push_back(more);
    return {stage("costs",
                  {Part::Machine, Part::Game, Part::Route, Part::Target, Part::Shares, Part::Baseline, Part::Locked},
                  ground, costsOf),
            stage("proposal", {Part::Machine, Part::Game, Part::Target, Part::Shares, Part::Baseline, Part::Locked},
                  {use<Costs>()}, propose),
            stage("check", {Part::Target, Part::Shares},
                  {use<CheckRuns>(), use<Costs>(), useOf<RunFigures, CheckRuns>()}, check)};
}

} // namespace impasto::results
