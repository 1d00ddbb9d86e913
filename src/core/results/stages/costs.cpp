// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/costs.h>

#include <cmath>
#include <impasto/base/fingerprint.h>
#include <impasto/pace/generate.h>
#include <impasto/proof/proof.h>
#include <impasto/results/earlier.h>
#include <impasto/results/learnt.h>
#include <impasto/results/limits.h>
#include <impasto/results/walk.h>

#include "seen.h"
#include "tighten.h"

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

Maybe<Skipped> skippedOf(const Inputs& in, const Context&) {
    const auto& session = in.session({Part::Runs, Part::Baseline});
    Skipped out;
    out.levels.assign(in.cannot().begin(), in.cannot().end());
    for (const auto& id : session.edits->runs.withdrawn) {
        const auto* order = session.facts->order(id);
        if (order == nullptr || order->purpose != run::Purpose::Cost) continue;
        const auto changed = cost::changedLevels(in.baseline(), order->variant.values);
        if (changed.size() == 1) out.levels.emplace_back(changed.front().setting, changed.front().level);
        out.sets.push_back(order->variant.values);
    }
    return std::make_shared<const Skipped>(std::move(out));
}

/// Measured in the part; of a part that the baseline does not know, as in the tightest one.
double safeShareIn(const Inputs& in, const std::string& part, run::Lane lane) {
    if (part == leastSeen) return 1 / leastSeenShare;
    double least = 1;
    if (const auto* limits = in.get<Limits>())
        for (const auto& v : limits->parts)
            if (const auto* f = v.of(lane); f != nullptr) {
                if (v.part == part) return f->safeShare;
                least = std::min(least, f->safeShare);
            }
    return least < 1 ? least : limits::ruleOfThumb(lane);
}

/// As in the baseline; in a part that it does not know, as where it is most.
frames::BesideGpu besideIn(const Inputs& in, const std::string& part) {
    frames::BesideGpu most;
    if (const auto* limits = in.get<Limits>())
        for (const auto& v : limits->parts) {
            if (v.part == part) return v.beside;
            most = {std::max(most.cpuShare, v.beside.cpuShare), std::max(most.ms, v.beside.ms)};
        }
    return most;
}

/// What of the budget, and of the memory, each resource may take in every part.
std::vector<std::vector<double>> sharesOf(const Inputs& in, const cost::Belief& belief) {
    std::vector<std::vector<double>> out;
    const auto& layout = belief.layout();
    for (const auto resource : belief.resources()) {
        auto& shares = out.emplace_back();
        if (resource == cost::Resource::GpuMemory) {
            const auto* machine = in.machine();
            const double size = machine == nullptr ? 0 : machine->gpuMemory.value();
            // A memory that overflows whatever is chosen is no reason to find nothing: it is asked not to grow.
            cost::Set lowest{std::vector<std::size_t>(layout.dials.size(), 0), 0};
            const auto least = belief.tell(resource, 0, lowest);
            const double needed = least.mean + 3 * std::sqrt(least.variance) + 0.01 * least.mean;
            shares.push_back(size > 0 ? std::max(choose::usableMemoryShare * size, needed) : 1e9);
            continue;
        }
        const auto lane = belief.hidden()                   ? run::Lane::Frame
                          : resource == cost::Resource::Gpu ? run::Lane::Gpu
                                                            : run::Lane::Cpu;
        for (const auto& part : layout.parts) shares.push_back(safeShareIn(in, part, lane));
    }
    return out;
}

/// GPU work a rendered frame that is kept for inventing others, where a rate is to be shown that the target does not
/// reach.
double inventedMs(const Inputs& in) {
    const auto& session = in.session({Part::Target, Part::Shown, Part::Machine, Part::Game, Part::State});
    const auto& brief = session.edits->goal.brief;
    if (!brief || !brief->shown || *brief->shown <= brief->target) return 0;
    const auto how =
        pace::usualInventing(session.machine(), session.game() != nullptr && session.game()->generatesFrames,
                             session.edits->subject.state.resolution, brief->target, *brief->shown);
    return how ? how->gpuMs : 0;
}

/// The lanes as they are shown: each in the part that is nearest to its limit.
void describeLanes(const Inputs& in, Costs& costs) {
    const auto& belief = costs.ground.belief();
    const auto baseline = belief.layout().setOf(in.baseline());
    if (!baseline) return;
    const auto target = in.target();
    std::vector<cost::Set> ran;
    for (const auto& run : costs.seen) ran.push_back(run.set);
    const auto beside = [&](std::size_t k, std::size_t p) {
        return costs.ground.chooser->takes(k, p, *baseline).beside;
    };
    for (std::size_t k = 0; k < belief.resources().size(); ++k) {
        const auto resource = belief.resources()[k];
        std::size_t worst = 0;
        double most = 0;
        for (std::size_t p = 0; p < belief.partsOf(resource); ++p)
            if (const double load = belief.tell(resource, p, *baseline).mean / costs.ground.shares[k][p]; load > most) {
                most = load;
                worst = p;
            }
        auto levels = cost::levelCosts(belief, resource, worst, *baseline, ran);
        if (resource == cost::Resource::GpuMemory)
            costs.gpuMemory = std::move(levels);
        else
            costs.lanes.push_back(
                {resource == cost::Resource::Gpu ? run::Lane::Gpu : run::Lane::Cpu, std::move(levels),
                 belief.layout().parts[worst],
                 target ? frames::lessBeside(costs.ground.room(target->rate)[k][worst], beside(k, worst)) /
                              budgetOf(target->rate).value()
                        : costs.ground.shares[k][worst]});
    }
}

Maybe<Costs> costsOf(const Inputs& in, const Context&) {
    if (in.game() == nullptr) return std::shared_ptr<const Costs>();
    Costs costs;
    auto [layout, seen] = seenRuns(in);
    if (seen.empty()) return std::make_shared<const Costs>(std::move(costs));
    for (const auto& run : seen) costs.tried.push_back(run.set);
    costs.seen = seen;
    for (const auto& values : in.get<Skipped>()->sets)
        if (const auto set = layout.setOf(values)) costs.tried.push_back(*set);
    costs.runs = seen.size();
    auto all = seen;
    if (const auto& said = in.earlier()) {
        const auto earlier = earlierRuns(*said, {*in.game(), in.machine(), in.baseline()}, layout, seen);
        if (!earlier.empty()) costs.earlier = earlierFit(layout, seen, earlier) ? Earlier::Counts : Earlier::FitsNoMore;
        if (costs.earlier == Earlier::Counts) all.insert(all.end(), earlier.begin(), earlier.end());
    }
    auto belief = cost::Belief::of(layout, all);
    if (!belief) return std::make_shared<const Costs>(std::move(costs));
    costs.hidden = belief->hidden();
    costs.ground.baseline = in.baseline();
    costs.ground.shares = sharesOf(in, *belief);
    costs.ground.inventedMs = inventedMs(in);
    costs.ground.rules = in.game()->rules;
    std::vector<frames::BesideGpu> beside;
    if (!costs.hidden)
        for (const auto& part : layout.parts) beside.push_back(besideIn(in, part));
    costs.ground.chooser = std::make_shared<const choose::Chooser>(
        std::move(*belief), *in.game(),
        choose::Allowed::of(layout, in.locked(), in.get<Skipped>()->levels, in.game()->rules), std::move(beside));
    keepAsked(in, costs);
    tighten(in, costs);
    describeLanes(in, costs);
    std::vector<double> system;
    for (const auto& id : in.get<BaselineRuns>()->ids)
        if (const auto mib = capture::trackMean(*in.of<RunFrames>(id)->capture, capture::Sensor::SystemMemory))
            system.push_back(*mib);
    costs.systemMemoryMib = stats::mean(system);
    return std::make_shared<const Costs>(std::move(costs));
}

/// How many more test runs eight of ten sessions made that were expected to miss so much (docs/method.md).
struct Remaining {
    double gain; // at most
    std::size_t least, most;
};
constexpr std::array<Remaining, 5> seen{{{0.02, 1, 5}, {0.05, 1, 6}, {0.10, 1, 7}, {0.20, 2, 7}, {1e9, 3, 8}}};
constexpr std::array<Remaining, 5> seenHidden{
    {{0.02, 1, 10}, {0.05, 1, 10}, {0.10, 2, 13}, {0.20, 2, 13}, {1e9, 3, 13}}};

const Remaining& remaining(double gain, bool hidden) {
    const auto& table = hidden ? seenHidden : seen;
    return *std::find_if(table.begin(), table.end(), [gain](const Remaining& row) { return gain <= row.gain; });
}

/// The walk's next step as a run.
NextRun strideRun(const Costs& costs, const Walking& walking) {
    NextRun out;
    if (walking.stride.next) out.values = costs.ground.valuesOf(*walking.stride.next);
    return out;
}

Maybe<NextRun> nextRun(const Inputs& in, const Context& context) {
    const auto* costs = in.get<Costs>();
    const auto target = in.target();
    if (costs == nullptr || !costs->ground.chooser || !target) return std::shared_ptr<const NextRun>();
    if (const auto* walking = in.get<Walking>()) return std::make_shared<const NextRun>(strideRun(*costs, *walking));
    NextRun out;
    // Repeats of the baseline are no test runs, however many.
    const auto tests = std::count_if(costs->seen.begin(), costs->seen.end(),
                                     [&](const cost::SeenRun& run) { return run.set != costs->seen.front().set; });
    if (tests >= static_cast<std::ptrdiff_t>(mostTestRuns)) return std::make_shared<const NextRun>(std::move(out));
    const auto advice = choose::advise(*costs->ground.chooser, costs->ground.room(target->rate), costs->tried,
                                       in.goodEnough().value_or(goodEnough),
                                       Fingerprint().add(std::uint64_t{costs->runs}).value(), context);
    if (!advice) return tl::unexpected(advice.error());
    const auto& layout = costs->ground.belief().layout();
    out.gain = advice->gain;
    out.chance = advice->standing.chance;
    out.ladder = advice->ladder;
    if (advice->next) {
        out.values = in.baseline();
        for (const auto& [setting, level] : layout.valuesOf(*advice->next)) (*out.values)[setting] = level;
        const auto& more = remaining(advice->gain, costs->hidden);
        out.least = more.least;
        out.most = more.most;
    }
    for (const auto s : advice->asks) out.asks.push_back(layout.dials[s].setting);
    return std::make_shared<const NextRun>(std::move(out));
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
    const auto* costs = in.get<Costs>();
    const auto target = in.target();
    if (costs == nullptr || !costs->ground.chooser || !target) return std::shared_ptr<const Proposed>();
    const auto& ground = costs->ground;
    auto proposal = choose::propose(ground, target->rate, context);
    if (!proposal && proposal.error().code == ErrorCode::Cancelled) return tl::unexpected(proposal.error());
    Proposed out;
    if (proposal)
        out.proposal = std::move(*proposal);
    else
        out.error = proposal.error();
    if (const auto* walking = in.get<Walking>(); walking != nullptr && walking->stride.stands) {
        // What held when it was run needs no sum of costs to fit.
        choose::Best best;
        best.set = *walking->stride.stands;
        best.picture = ground.chooser->picture(best.set);
        best.fits = true;
        out.exact = std::exchange(out.proposal, choose::proposalOf(ground, best, target->rate));
        out.walked = true;
        out.error.reset();
    }
    const double picture = in.session({Part::Wishes}).edits->goal.brief->pictureFloor.value_or(0);
    out.keepsPicture = !out.proposal || showsEnough(*out.proposal, picture);
    const bool nothing = out.error && out.error->code == ErrorCode::NothingFits;
    if (nothing || !out.keepsPicture) {
        auto with = fastest(ground, target->rate, picture, context);
        auto less = nothing && picture > 0 ? fastest(ground, target->rate, 0, context) : Fastest{};
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

Maybe<Check> check(const Inputs& in, const Context&) {
    const auto* costs = in.get<Costs>();
    const auto target = in.target();
    const auto &ids = in.get<CheckRuns>()->ids, &readOff = in.get<ReadChecks>()->ids;
    if (!target || (ids.empty() && readOff.empty()) || costs == nullptr) return std::shared_ptr<const Check>();
    Check check;
    check.runs = ids.size() + readOff.size();
    const double budget = budgetOf(target->rate).value();
    std::vector<run::Lane> lanes{run::Lane::Frame};
    if (!costs->hidden && !ids.empty()) {
        lanes.clear();
        for (const auto& lane : costs->lanes) lanes.push_back(lane.lane);
    }
    for (const auto lane : lanes) {
        std::map<std::string, std::vector<double>> perPart;
        for (const auto& id : ids)
            for (const auto& part : in.of<RunFigures>(id)->parts)
                if (const auto v = part.of(lane)) perPart[part.part].push_back(*v);
        double doubt = 0; // of what was read off, relative
        if (lane == run::Lane::Frame)
            for (const auto& id : readOff) {
                const auto& figures = *in.runOf(id).readOff;
                perPart[{}].push_back(1000 / figures.average.value());
                if (figures.least && figures.least->value() > 0)
                    perPart[leastSeen].push_back(1000 / figures.least->value());
                doubt = std::max(doubt, figures.doubt());
            }
        const auto besideGpu = [&](const std::string& part) {
            const auto [share, ms, explained] = costs->hidden ? frames::BesideGpu() : besideIn(in, part);
            std::vector<double> cpu;
            for (const auto& id : ids)
                for (const auto& other : in.of<RunFigures>(id)->parts)
                    if (other.part == part && other.cpuMs) cpu.push_back(*other.cpuMs);
            return ms + share * stats::mean(cpu).value_or(0);
        };
        choose::LaneOutcome worst;
        worst.lane = lane;
        worst.usableMs = budget;
        for (const auto& [part, values] : perPart) {
            const bool gpu = lane == run::Lane::Gpu;
            const double limit = safeShareIn(in, part, lane) / costs->tighter / (gpu ? costs->tighterGpu : 1) * budget;
            const double mean = *stats::mean(values),
                         usable = gpu ? frames::lessBeside(limit, costs->ground.inventedMs + besideGpu(part)) : limit;
            if (mean / usable <= worst.meanMs / worst.usableMs) continue;
            worst.worstPart = part;
            worst.meanMs = mean;
            worst.usableMs = usable;
            const auto sd = stats::standardDeviation(values);
            worst.standardErrorMs = std::max(sd.value_or(0), part.empty() || part == leastSeen ? doubt * mean : 0.0) /
                                    std::sqrt(static_cast<double>(values.size()));
        }
        check.holds = check.holds && worst.meanMs <= worst.usableMs;
        check.reaches = check.reaches && worst.meanMs <= std::max(budget, worst.usableMs);
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

std::optional<choose::Ground> groundOf(const Results& results) {
    const auto* costs = results.get<Costs>();
    return costs == nullptr || !costs->ground.chooser ? std::nullopt : std::optional(costs->ground);
}

std::optional<double> fillOf(const Results& results) {
    const auto* limits = results.get<Limits>();
    const auto* costs = results.get<Costs>();
    if (costs != nullptr && !costs->askedFits) return std::nullopt;
    return limits == nullptr ? 1.0 : limits->fill;
}

double safeShareOf(const document::Session& session, const Results& results, run::Lane lane) {
    if (const auto* costs = results.get<Costs>(); costs != nullptr && costs->of(lane) != nullptr)
        return costs->of(lane)->safeShare;
    return tightest(results.get<Limits>(), lane, 1,
                    session.edits->goal.shares.of(lane).value_or(limits::ruleOfThumb(lane)))
        .safeShare;
}

double usableMs(const document::Session& session, const Results& results, run::Lane lane, Fps target) {
    const double budget = budgetOf(target).value();
    double out = safeShareOf(session, results, lane) * budget;
    for (const auto& v : verdictsOf(results))
        if (v.beside.cpuShare > 0 || v.beside.ms > 0)
            out = std::min(out, limits::usableMs(v, lane, budget).value_or(out));
    return out;
}

std::optional<Fps> reachableOf(const Results& results) {
    const auto* proposed = results.get<Proposed>();
    return proposed == nullptr ? std::nullopt : proposed->reaches;
}

const choose::Proposal* proposalOf(const Results& results) {
    const auto* proposed = results.get<Proposed>();
    return proposed != nullptr && proposed->proposal ? &*proposed->proposal : nullptr;
}

std::vector<Stage> costStages() {
    std::vector<Use> ground{use<BaselineRuns>(), use<CostRuns>(),   use<CheckRuns>(),  use<EarlierChecks>(),
                            use<Limits>(),       use<Learnt>(),     use<Skipped>(),    use<ReadBaseline>(),
                            use<ReadCosts>(),    use<ReadChecks>(), use<ReadEarlier>()};
    for (const auto& more :
         {useOf<RunFigures, BaselineRuns>(), useOf<RunFrames, BaselineRuns>(), useOf<RunFigures, CostRuns>(),
          useOf<RunFrames, CostRuns>(), useOf<RunFigures, CheckRuns>(), useOf<RunFrames, CheckRuns>(),
          useOf<RunFigures, EarlierChecks>(), useOf<RunFrames, EarlierChecks>()})
        ground.push_back(more);
    return {stage("skipped runs", {Part::Runs, Part::Baseline, Part::Locked}, {}, skippedOf),
            stage("costs",
                  {Part::Route, Part::Answers, Part::Machine, Part::Game, Part::State, Part::Target, Part::Shown,
                   Part::Baseline, Part::Locked, Part::Earlier},
                  ground, costsOf)};
}

std::vector<Stage> choiceStages() {
    return {
        stage("proposal", {Part::Target, Part::Wishes}, {use<Costs>(), use<Walking>()}, propose),
        stage("next run", {Part::Target, Part::Baseline, Part::GoodEnough}, {use<Costs>(), use<Walking>()}, nextRun),
        stage("check", {Part::Target},
              {use<CheckRuns>(), use<ReadChecks>(), use<Costs>(), use<Limits>(), useOf<RunFigures, CheckRuns>()},
              check)};
}

} // namespace impasto::results
