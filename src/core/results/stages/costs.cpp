// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/costs.h>

#include <cmath>
#include <impasto/proof/proof.h>
#include <impasto/results/limits.h>
#include <set>

namespace impasto::results {
namespace {

/// The part that is nearest to its safe limit.
struct Tightest {
    std::string part;
    double factor = 1, safeShare = 1;
};

Tightest tightest(const Limits* verdicts, run::Lane lane, double routeMean, double unknown) {
    Tightest out{{}, 1, unknown};
    double most = 0;
    if (verdicts == nullptr) return out;
    for (const auto& v : verdicts->parts)
        if (const auto* f = v.of(lane); f != nullptr && f->meanMs / f->safeShare > most) {
            most = f->meanMs / f->safeShare;
            out = {v.part, routeMean > 0 ? f->meanMs / routeMean : 1, f->safeShare};
        }
    return out;
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
        const auto p = cost::changedLevels(in.baseline(), o.values).size() > 1
                           ? cost::predict(fit, in.baseline(), o.values)
                           : std::nullopt;
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
    const double budget = target ? budgetOf(target->rate).value() : 0;
    for (const auto& lane : costs.lanes) {
        const double mean = lane.worstFactor * lane.fit.estimate[0];
        const double doubt =
            lane.worstFactor * stats::studentQuantile(0.90, lane.fit.degreesOfFreedom) * lane.fit.standardError(0);
        const bool over = budget > 0 && mean + doubt > lane.safeShare * budget;
        need.gpu = need.gpu || (over && lane.lane != run::Lane::Cpu);
        need.cpu = need.cpu || (over && lane.lane != run::Lane::Gpu);
    }
    if (const auto* machine = in.machine(); machine != nullptr && costs.gpuMemory && machine->gpuMemory.value() > 0)
        need.memory = costs.gpuMemory->estimate[0] > choose::usableMemoryShare * machine->gpuMemory.value();
    return need;
}

/// The lanes that the baseline tells, and that most of the other runs tell: a reading of waits (a capped or worn game)
/// says nothing of work.
std::vector<run::Lane> usableLanes(const Inputs& in, const std::vector<CostRun>& ground, bool headset) {
    const auto tells = [&](const CostRun& run, run::Lane lane) {
        const auto& parts = in.of<RunFigures>(run.id)->parts;
        return std::all_of(parts.begin(), parts.end(), [lane](const auto& p) { return p.of(lane).has_value(); });
    };
    const auto usable = [&](run::Lane lane) {
        const auto told = std::count_if(ground.begin(), ground.end(), [&](const CostRun& r) { return tells(r, lane); });
        const bool baseline = std::all_of(ground.begin(), ground.end(), [&](const CostRun& r) {
            return r.values != in.baseline() || tells(r, lane);
        });
        return baseline && 5 * told >= 4 * static_cast<std::ptrdiff_t>(ground.size());
    };
    const bool cpu = usable(run::Lane::Cpu), gpu = usable(run::Lane::Gpu);
    if (cpu && gpu) return {run::Lane::Cpu, run::Lane::Gpu};
    if (headset && (cpu || gpu)) return {cpu ? run::Lane::Cpu : run::Lane::Gpu};
    return {run::Lane::Frame};
}

/// Levels that were run as the only change.
std::set<cost::LevelKey> runAlone(const Inputs& in, const std::vector<CostRun>& ground) {
    std::set<cost::LevelKey> out;
    for (const auto& run : ground) {
        const auto changed = cost::changedLevels(in.baseline(), run.values);
        if (changed.size() == 1) out.insert(changed.front());
    }
    return out;
}

/// The sets of values whose proof missed the target, and by how much.
Maybe<Learnt> learntOf(const Inputs& in, const Context&) {
    const auto& brief = in.brief();
    Learnt learnt;
    if (!brief) return std::make_shared<const Learnt>(learnt);
    std::map<game::Values, std::vector<proof::Side>> sets;
    for (const auto& id : in.get<AfterRuns>()->ids)
        // Runs that were capped for a lower target say nothing of this one.
        if (const auto* figures = in.of<RunFigures>(id);
            figures != nullptr &&
            in.orderOf(id)->variant.cap.value_or(brief->target).value() >= frames::heldAverage * brief->target.value())
            sets[in.orderOf(id)->variant.values].push_back({id, true, &figures->summary, &figures->held});
    for (const auto& [values, sides] : sets) {
        const auto proof = proof::prove(sides, *brief, {});
        const auto* worst = proof ? proof->worst() : nullptr;
        if (worst == nullptr) continue;
        const bool missed = worst->state == proof::WishState::NotMet;
        const bool open = proof->after >= proof::lastLook && proof->met() < proof->wishes.size();
        const bool unmet = std::any_of(proof->wishes.begin(), proof->wishes.end(),
                                       [](const proof::WishOutcome& w) { return w.state == proof::WishState::NotMet; });
        if (!unmet && !open) continue;
        for (const auto& side : sides)
            if (const auto& cap = in.orderOf(side.id)->variant.cap)
                learnt.refuted[values] = std::max(learnt.refuted[values], *cap);
        if (!missed) continue;
        const auto& figure = worst->of(worst->worst());
        if (figure.after.estimate > 0)
            learnt.missed[values] = std::clamp(figure.least / figure.after.estimate, 1.0, 1.5);
    }
    return std::make_shared<const Learnt>(learnt);
}

Maybe<SkippedLevels> skippedOf(const Inputs& in, const Context&) {
    const auto& session = in.session({Part::Runs, Part::Baseline});
    SkippedLevels out;
    for (const auto& id : session.edits->runs.withdrawn) {
        const auto* order = session.facts->order(id);
        if (order == nullptr || order->purpose != run::Purpose::Cost) continue;
        const auto changed = cost::changedLevels(in.baseline(), order->variant.values);
        if (changed.size() == 1) out.levels.push_back(changed.front());
        out.lowest = out.lowest || changed.size() > 1; // the one run that changes several
    }
    return std::make_shared<const SkippedLevels>(std::move(out));
}

Maybe<Lowest> lowestOf(const Inputs& in, const Context&) {
    const auto* costs = in.get<Costs>();
    const auto target = in.target();
    Lowest out;
    if (costs == nullptr || costs->lanes.empty() || !target) return std::make_shared<const Lowest>(out);
    const double budget = budgetOf(target->rate).value();
    const bool skipped = in.get<SkippedLevels>()->lowest;
    constexpr double much = 1.5;
    for (const auto& lane : costs->lanes) {
        const double usable = lane.safeShare * budget;
        out.wanted = out.wanted || (!skipped && lane.worstFactor * lane.fit.estimate[0] > much * usable);
        std::vector<double> means;
        for (const auto& id : in.get<LowestRuns>()->ids)
            if (const auto v = frames::routeMean(in.of<RunFigures>(id)->parts, in.route(), lane.lane))
                means.push_back(*v);
        if (means.empty()) continue;
        // A run differs by itself: only what lies over the limit by more than that does not fit.
        const double mean = lane.worstFactor * *stats::mean(means), doubt = lane.worstFactor * 2 * lane.fit.residualSd;
        out.measured.push_back({lane.lane, lane.worstPart, mean, 0, 0, usable});
        out.fits = out.fits && mean - doubt <= usable;
        const Fps rate(std::floor(lane.safeShare * 1000 / mean));
        out.reaches = out.reaches ? std::min(*out.reaches, rate) : rate;
    }
    return std::make_shared<const Lowest>(std::move(out));
}

/// Sets that should have fitted and missed the target draw the limits tighter.
void tighten(const Inputs& in, Costs& costs) {
    const auto target = in.target();
    if (!target) return;
    const choose::Ground ground{*in.game(), in.baseline(), costs.lanes, {}, {}, {}};
    for (const auto& [values, missed] : in.get<Learnt>()->missed) {
        const auto lanes = choose::outcomeOf(ground, values, target->rate);
        if (!lanes || !choose::fits(*lanes)) continue;
        ++costs.missedSets;
        costs.tighter = std::max(costs.tighter, missed);
    }
    for (auto& lane : costs.lanes) lane.safeShare /= costs.tighter;
}

Maybe<Costs> costsOf(const Inputs& in, const Context&) {
    if (in.game() == nullptr) return std::shared_ptr<const Costs>();
    Costs costs;
    const auto ground = costGround(in);
    if (ground.empty()) return std::make_shared<const Costs>(std::move(costs));
    const bool headset = in.panel() && in.panel()->headset;
    for (const auto lane : usableLanes(in, ground, headset)) {
        std::vector<cost::Observation> seen;
        for (const auto& run : ground)
            if (const auto v = frames::routeMean(in.of<RunFigures>(run.id)->parts, in.route(), lane))
                seen.push_back({run.values, *v});
        auto fit = cost::fit(*in.game(), in.baseline(), seen);
        if (!fit) continue;
        const auto worst = tightest(in.get<Limits>(), lane, fit->estimate[0], limits::ruleOfThumb(lane));
        const double miss = worst.factor * missOf(in, *fit, seen);
        costs.lanes.push_back({lane, std::move(*fit), worst.part, worst.factor, worst.safeShare, miss});
    }
    tighten(in, costs);
    costs.gpuMemory = memoryFit(in, ground, capture::Sensor::GpuMemory);
    costs.systemMemory = memoryFit(in, ground, capture::Sensor::SystemMemory);
    costs.need = needOf(in, costs);
    costs.planned = cost::plan(*in.game(), in.baseline(), costs.need);
    for (const auto& key : cost::lockedLevels(*in.game(), in.baseline(), in.locked()))
        if (std::find(costs.planned.begin(), costs.planned.end(), key) == costs.planned.end())
            costs.planned.push_back(key);
    // A level that was run is never ordered again for its cost, whatever its log tells.
    const auto run = runAlone(in, ground);
    const auto& skipped = in.get<SkippedLevels>()->levels;
    for (const auto& key : costs.planned) {
        const bool known = std::all_of(costs.lanes.begin(), costs.lanes.end(),
                                       [&](const choose::LaneCosts& l) { return l.fit.indexOf(key).has_value(); });
        if (std::find(skipped.begin(), skipped.end(), key) != skipped.end()) continue; // cannot be set, says its player
        if (!run.contains(key))
            costs.toMeasure.push_back(key);
        else if (!known && !costs.lanes.empty())
            costs.lacking.push_back(key);
    }
    return std::make_shared<const Costs>(std::move(costs));
}

std::optional<choose::Ground> groundFrom(const Costs* costs, const game::Game* game, const game::Values& baseline,
                                         const game::Values& locked, const machine::Machine* machine) {
    if (costs == nullptr || game == nullptr || costs->lanes.empty()) return std::nullopt;
    choose::Ground g{*game, baseline, costs->lanes, costs->gpuMemory, {}, locked};
    if (machine != nullptr && machine->gpuMemory.value() > 0) g.gpuMemorySize = machine->gpuMemory;
    return g;
}

bool showsEnough(const choose::Proposal& proposal, double picture) {
    return proposal.picture >= picture - 1e-9;
}

struct Fastest {
    std::optional<Fps> rate;
    std::optional<choose::Proposal> set;
    bool cancelled = false;
};

/// The highest rate under the target, in whole fps, with a set that shows so much of the picture: more of the budget
/// never fits less.
Fastest fastest(const choose::Ground& ground, Fps target, double picture, const Context& context) {
    Fastest out;
    double low = 1, high = std::ceil(target.value());
    while (high - low > 1) {
        const double middle = std::floor((low + high) / 2);
        auto found = choose::propose(ground, Fps(middle), context);
        if (!found && found.error().code == ErrorCode::Cancelled) return {{}, {}, true};
        const bool fits = found && showsEnough(*found, picture);
        (fits ? low : high) = middle;
        if (!fits) continue;
        out.rate = Fps(middle);
        out.set = std::move(*found);
    }
    return out;
}

Maybe<Proposed> propose(const Inputs& in, const Context& context) {
    const auto ground = groundFrom(in.get<Costs>(), in.game(), in.baseline(), in.locked(), in.machine());
    const auto target = in.target();
    if (!ground || !target) return std::shared_ptr<const Proposed>();
    auto proposal = choose::propose(*ground, target->rate, context);
    if (!proposal && proposal.error().code == ErrorCode::Cancelled) return tl::unexpected(proposal.error());
    Proposed out;
    if (proposal)
        out.proposal = std::move(*proposal);
    else
        out.error = proposal.error();
    const double picture = in.session({Part::Wishes}).edits->goal.brief->pictureFloor.value_or(0);
    out.keepsPicture = !out.proposal || showsEnough(*out.proposal, picture);
    const bool nothing = out.error && out.error->code == ErrorCode::NothingFits;
    if (nothing || !out.keepsPicture) {
        auto with = fastest(*ground, target->rate, picture, context);
        auto less = nothing && picture > 0 ? fastest(*ground, target->rate, 0, context) : Fastest{};
        for (const auto* found : {&with, &less})
            if (found->cancelled) return fail(ErrorCode::Cancelled);
        if (!out.keepsPicture) less = {target->rate, out.proposal, false};
        out.reaches = with.rate;
        out.instead = std::move(with.set);
        if (less.rate && (!out.reaches || *less.rate > *out.reaches)) {
            out.lessReaches = less.rate;
            out.less = std::move(less.set);
        }
    }
    return std::make_shared<const Proposed>(std::move(out));
}

/// Measured in the part; of a part that the baseline does not know, as in the tightest one.
double safeShareIn(const Inputs& in, const std::string& part, const choose::LaneCosts& lane) {
    if (const auto* limits = in.get<Limits>())
        for (const auto& v : limits->parts)
            if (const auto* f = v.of(lane.lane); f != nullptr && v.part == part) return f->safeShare;
    return lane.safeShare;
}

Maybe<Check> check(const Inputs& in, const Context&) {
    const auto* costs = in.get<Costs>();
    const auto target = in.target();
    const auto& ids = in.get<CheckRuns>()->ids;
    if (!target || ids.empty() || costs == nullptr) return std::shared_ptr<const Check>();
    Check check;
    check.runs = ids.size();
    const double budget = budgetOf(target->rate).value();
    for (const auto& lane : costs->lanes) {
        std::map<std::string, std::vector<double>> perPart;
        for (const auto& id : ids)
            for (const auto& part : in.of<RunFigures>(id)->parts)
                if (const auto v = part.of(lane.lane)) perPart[part.part].push_back(*v);
        choose::LaneOutcome worst;
        worst.lane = lane.lane;
        worst.usableMs = lane.safeShare * budget;
        for (const auto& [part, values] : perPart) {
            const double mean = *stats::mean(values), usable = safeShareIn(in, part, lane) * budget;
            if (mean / usable <= worst.meanMs / worst.usableMs) continue;
            worst.worstPart = part;
            worst.meanMs = mean;
            worst.usableMs = usable;
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
    return groundFrom(results.get<Costs>(), session.game(), edits.settings.baseline, edits.settings.locked,
                      session.machine());
}

double safeShareOf(const document::Session& session, const Results& results, run::Lane lane) {
    if (const auto* costs = results.get<Costs>(); costs != nullptr && costs->of(lane) != nullptr)
        return costs->of(lane)->safeShare;
    return tightest(results.get<Limits>(), lane, 1,
                    session.edits->goal.shares.of(lane).value_or(limits::ruleOfThumb(lane)))
        .safeShare;
}

std::optional<Fps> reachableOf(const Results& results) {
    if (const auto* lowest = results.get<Lowest>(); lowest != nullptr && !lowest->fits) return lowest->reaches;
    // Levels that were not measured yet may reach more.
    const auto* costs = results.get<Costs>();
    const auto* proposed = results.get<Proposed>();
    return costs != nullptr && costs->toMeasure.empty() && proposed != nullptr ? proposed->reaches : std::nullopt;
}

const choose::Proposal* proposalOf(const Results& results) {
    const auto* proposed = results.get<Proposed>();
    return proposed != nullptr && proposed->proposal ? &*proposed->proposal : nullptr;
}

std::vector<Stage> costStages() {
    std::vector<Use> ground{use<BaselineRuns>(), use<CostRuns>(), use<CheckRuns>(),    use<EarlierChecks>(),
                            use<Limits>(),       use<Learnt>(),   use<SkippedLevels>()};
    for (const auto& more :
         {useOf<RunFigures, BaselineRuns>(), useOf<RunFrames, BaselineRuns>(), useOf<RunFigures, CostRuns>(),
          useOf<RunFrames, CostRuns>(), useOf<RunFigures, CheckRuns>(), useOf<RunFrames, CheckRuns>(),
          useOf<RunFigures, EarlierChecks>(), useOf<RunFrames, EarlierChecks>()})
        ground.push_back(more);
    return {stage("learnt", {Part::Answers, Part::Target, Part::Wishes, Part::LowRule},
                  {use<AfterRuns>(), useOf<RunFigures, AfterRuns>()}, learntOf),
            stage("skipped levels", {Part::Runs, Part::Baseline}, {}, skippedOf),
            stage("costs",
                  {Part::Answers, Part::Machine, Part::Game, Part::Route, Part::Target, Part::Baseline, Part::Locked},
                  ground, costsOf),
            stage("lowest", {Part::Game, Part::Route, Part::Target},
                  {use<LowestRuns>(), use<Costs>(), use<SkippedLevels>(), useOf<RunFigures, LowestRuns>()}, lowestOf),
            stage("proposal", {Part::Machine, Part::Game, Part::Target, Part::Wishes, Part::Baseline, Part::Locked},
                  {use<Costs>()}, propose),
            stage("check", {Part::Target},
                  {use<CheckRuns>(), use<Costs>(), use<Limits>(), useOf<RunFigures, CheckRuns>()}, check)};
}

} // namespace impasto::results
