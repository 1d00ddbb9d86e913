// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/session/results.h>

#include <cmath>
#include <impasto/base/fingerprint.h>

#include "proof.h"

namespace impasto::session {

struct ResultsCache::Stages {
    using Trimmed = std::pair<RunId, std::uint64_t>; // a run with the mark of its trims
    std::map<Trimmed, std::shared_ptr<const capture::Capture>> captures;
    std::map<std::pair<Trimmed, std::uint64_t>, std::shared_ptr<const RunFigures>> runs; // with target and hitch rule
    std::map<RunId, std::shared_ptr<const RunShape>> shapes;
    std::map<Trimmed, std::shared_ptr<const stats::RunDoubt>> doubt;
    std::pair<std::uint64_t, std::vector<limits::PartVerdict>> limits;
    std::pair<std::uint64_t, std::shared_ptr<const Costs>> costs;
    std::pair<std::uint64_t, std::pair<std::optional<choose::Proposal>, std::optional<Error>>> proposal;
    std::pair<std::uint64_t, std::shared_ptr<const CapView>> cap;
};

ResultsCache::ResultsCache() : m_stages(std::make_unique<Stages>()) {}
ResultsCache::~ResultsCache() = default;

namespace {

using stats::PartMeans;

std::uint64_t markOf(const game::Values& values) {
    Fingerprint f;
    for (const auto& [id, level] : values) f.add(id).add(level);
    return f.value();
}

std::uint64_t markOf(std::span<const capture::Span> trims) {
    Fingerprint f;
    for (const auto& span : trims) f.add(span.fromMs).add(span.toMs);
    return f.value();
}

/// The runs, and what of them does not count.
std::uint64_t markOf(const Session& session, const std::vector<RunId>& ids) {
    Fingerprint f;
    for (const auto& id : ids) {
        f.add(id.hex());
        if (const auto trims = session.trimsOf(id); !trims.empty()) f.add(markOf(trims));
    }
    return f.value();
}

void sortRuns(const Session& session, Results& r) {
    const run::Variant baseline = session.baselineVariant();
    const auto chosen = session.chosenVariant(false), capped = session.chosenVariant(true);
    for (const auto& run : session.facts->runs) {
        if (!session.counts(run)) continue;
        const auto* order = session.facts->orderOf(run);
        if (order == nullptr) { // a dropped log counts as a run of the start values
            r.baselineRuns.push_back(run.id);
            continue;
        }
        if (order->route != session.edits->route || !session.onThisMachine(*order)) continue;
        switch (order->purpose) {
        case run::Purpose::Baseline:
            if (order->variant == baseline) r.baselineRuns.push_back(run.id);
            break;
        case run::Purpose::Cost:
            if (order->variant.resolution == baseline.resolution) r.costRuns.push_back(run.id);
            break;
        case run::Purpose::Check:
            if (chosen && order->variant == *chosen)
                r.checkRuns.push_back(run.id);
            else if (order->variant.resolution == baseline.resolution)
                r.earlierChecks.push_back(run.id);
            break;
        case run::Purpose::ProofBefore:
            if (order->variant == baseline) r.proofRuns.push_back(run.id);
            break;
        case run::Purpose::ProofAfter:
            if (capped && order->variant == *capped) r.proofRuns.push_back(run.id);
            break;
        }
    }
}

/// Resamples of a run: enough for a standard error to 5%, fewer where runs are very long.
std::size_t resamplesFor(std::size_t frames) {
    return frames > 200000 ? 100 : 250;
}

/// A cost run against the baseline, on what its changed settings are known to pay for.
std::optional<stats::Examined> notApplied(const Session& session, const Results& r, const RunId& id) {
    const auto* game = session.game();
    const auto* order = session.facts->orderOf(*session.facts->run(id));
    if (game == nullptr || order == nullptr) return std::nullopt;
    bool cpu = false, gpu = false, memory = false;
    for (const auto& [key, level] : order->variant.values) {
        const auto it = session.edits->baseline.find(key);
        const auto* setting = game->setting(key);
        if (setting == nullptr || (it != session.edits->baseline.end() && it->second == level)) continue;
        cpu = cpu || setting->paysCpu;
        gpu = gpu || setting->paysGpu;
        memory = memory || setting->paysMemory;
    }
    std::vector<stats::Paid> paid;
    const auto add = [&](auto figure) {
        const std::optional<double> now = figure(id);
        stats::Paid p{now.value_or(0), {}};
        for (const auto& other : r.baselineRuns)
            if (const std::optional<double> v = figure(other)) p.before.push_back(*v);
        if (now) paid.push_back(std::move(p));
    };
    for (const auto& [pays, lane] : {std::pair(cpu, run::Lane::Cpu), {gpu, run::Lane::Gpu}})
        if (pays)
            add([&r, &session, lane = lane](const RunId& run) {
                return stats::routeMean(r.figures(run)->parts, session.route(), lane);
            });
    if (memory)
        add([&r](const RunId& run) { return capture::trackMean(*r.captures.at(run), capture::Sensor::GpuMemory); });
    return stats::notApplied(paid);
}

void addBaseline(const Session& session, Results& r, ResultsCache::Stages& stages, const Context& context) {
    const auto school = session.edits->brief ? session.edits->brief->school : run::LowSchool::WorstMean;
    std::vector<stats::Summary> summaries;
    std::vector<stats::RunDoubt> doubts;
    std::vector<double> averages;
    for (const auto& id : r.baselineRuns) {
        const auto* figures = r.figures(id);
        if (figures == nullptr || context.cancelled()) return;
        summaries.push_back(figures->summary);
        averages.push_back(figures->summary.average.value());
        auto& doubt = stages.doubt[{id, markOf(session.trimsOf(id))}];
        if (!doubt) {
            const auto& capture = *r.captures.at(id);
            const auto own = stats::doubtOf(capture, {resamplesFor(capture.frames())});
            if (own) doubt = std::make_shared<const stats::RunDoubt>(*own);
        }
        if (!doubt) continue;
        r.baseline.doubt[id] = doubt;
        doubts.push_back(*doubt);
    }
    if (doubts.size() != summaries.size()) doubts.clear();
    r.baseline.figures = stats::familiesOf(summaries, school, doubts);
    const auto hitched = [&r](const RunId& id) {
        return stats::HitchedRun{r.captures.at(id).get(), r.figures(id)->summary.hitches};
    };
    for (const auto& id : r.baselineRuns) {
        std::vector<stats::HitchedRun> siblings;
        for (const auto& other : r.baselineRuns)
            if (other != id) siblings.push_back(hitched(other));
        r.baseline.hitches[id] = stats::originOf(hitched(id), siblings, id == r.baselineRuns.front());
    }
    for (const auto& id : r.costRuns)
        if (const auto found = notApplied(session, r, id)) r.baseline.examined[id].push_back(*found);
    std::vector<stats::Load> loads;
    for (const auto& id : r.baselineRuns)
        if (const auto cpu = capture::trackMean(*r.captures.at(id), capture::Sensor::CpuLoad))
            loads.push_back({*cpu, r.figures(id)->summary.average.value()});
    for (std::size_t i = 0; i < averages.size(); ++i) {
        auto& examined = r.baseline.examined[r.baselineRuns[i]];
        if (const auto found = stats::unlike(averages, i)) examined.push_back(*found);
        if (loads.size() != averages.size()) continue;
        if (const auto found = stats::background(loads, i)) examined.push_back(*found);
    }
}

/// Cost runs that change one level of the values in use now.
void keepSingleChanges(const Session& session, Results& r) {
    std::erase_if(r.costRuns, [&](const RunId& id) {
        const auto& values = session.facts->orderOf(*session.facts->run(id))->variant.values;
        std::size_t changed = 0;
        for (const auto& [setting, level] : session.edits->baseline) {
            const auto it = values.find(setting);
            changed += it == values.end() || it->second != level ? 1 : 0;
        }
        return changed != 1;
    });
}

std::vector<std::shared_ptr<const capture::Capture>> capturesOf(const Results& r, const std::vector<RunId>& ids) {
    std::vector<std::shared_ptr<const capture::Capture>> out;
    for (const auto& id : ids) out.push_back(r.captures.at(id));
    return out;
}

void addFigures(const Session& session, Results& r, ResultsCache::Stages& stages, const Context& context) {
    const double target = session.edits->brief ? session.edits->brief->target.value() : 0.0;
    const auto& rule = session.edits->hitchRule;
    Fingerprint asked;
    asked.add(target).add(rule.ratio).add(rule.excessMs).add(std::uint64_t{rule.neighbours});
    for (const auto& run : session.facts->runs) {
        if (!run.capture || run.capture->frames() == 0 || context.cancelled()) continue;
        const auto trims = session.trimsOf(run.id);
        const std::pair key(run.id, markOf(trims));
        auto& capture = stages.captures[key];
        if (!capture)
            capture = trims.empty() ? run.capture
                                    : std::make_shared<const capture::Capture>(capture::without(*run.capture, trims));
        if (capture->frames() == 0) capture = run.capture; // nothing would be left
        auto& cached = stages.runs[{key, asked.value()}];
        if (!cached) {
            const auto summary =
                stats::summarize(capture->framesMs, target > 0 ? std::optional(Fps(target)) : std::nullopt, rule);
            auto& shape = stages.shapes[run.id];
            if (!shape)
                shape = std::make_shared<const RunShape>(RunShape{capture::Pyramid(run.capture->framesMs),
                                                                  stats::secondsOf(run.capture->framesMs),
                                                                  stats::pollutionOf(*run.capture)});
            cached = std::make_shared<const RunFigures>(RunFigures{run.id, *summary, stats::partMeans(*capture),
                                                                   stats::examine(*capture),
                                                                   stats::Distribution(capture->framesMs), shape});
        }
        r.captures[run.id] = capture;
        r.runs[run.id] = cached;
    }
}

struct Heaviest {
    std::string part;
    double factor = 1;
};

Heaviest heaviest(const std::vector<limits::PartVerdict>& verdicts, run::Lane lane, double routeMean) {
    Heaviest h;
    double most = 0;
    for (const auto& v : verdicts)
        if (const auto* f = v.of(lane); f != nullptr && f->meanMs > most) {
            most = f->meanMs;
            h = {v.part, routeMean > 0 ? f->meanMs / routeMean : 1};
        }
    return h;
}

/// The kept runs that a cost can be read from, with their values.
struct CostRun {
    game::Values values;
    const RunFigures* figures;
    const capture::Capture* capture;
};

std::vector<CostRun> costGround(const Session& session, const Results& r) {
    std::vector<CostRun> out;
    for (const auto* list : {&r.baselineRuns, &r.costRuns, &r.checkRuns, &r.earlierChecks})
        for (const auto& id : *list) {
            const auto& run = *session.facts->run(id);
            const auto* figures = r.figures(id);
            const auto* order = session.facts->orderOf(run);
            if (figures != nullptr)
                out.push_back({order == nullptr ? session.edits->baseline : order->variant.values, figures,
                               r.captures.at(id).get()});
        }
    return out;
}

std::optional<cost::Fit> memoryFit(const Session& session, const std::vector<CostRun>& ground, capture::Sensor sensor) {
    std::vector<cost::Observation> seen;
    for (const auto& run : ground)
        if (const auto v = capture::trackMean(*run.capture, sensor)) seen.push_back({run.values, *v});
    return cost::fit(*session.game(), session.edits->baseline, seen);
}

/// Mean excess of the sets of several changes over the fit's sum, at most; 0 where none exceeds it.
double missOf(const Session& session, const cost::Fit& fit, const std::vector<cost::Observation>& seen) {
    std::map<game::Values, std::vector<double>> excess;
    for (const auto& o : seen) {
        std::size_t changed = 0;
        for (const auto& [id, level] : o.values) {
            const auto it = session.edits->baseline.find(id);
            changed += it != session.edits->baseline.end() && it->second != level ? 1 : 0;
        }
        const auto p = changed > 1 ? cost::predict(fit, session.edits->baseline, o.values) : std::nullopt;
        if (p) excess[o.values].push_back(o.value - p->mean);
    }
    double most = 0;
    for (const auto& [values, all] : excess) most = std::max(most, *stats::mean(all));
    return most;
}

Costs costsOf(const Session& session, const Results& r) {
    Costs costs;
    const auto ground = costGround(session, r);
    if (ground.empty()) return costs;
    const auto* route = session.route();
    const bool headset = session.panel() && session.panel()->headset;
    const RunId first = r.baselineRuns.empty() ? ground.front().figures->id : r.baselineRuns.front();
    for (const auto lane : lanesOf(r.figures(first)->parts, headset)) {
        std::vector<cost::Observation> seen;
        for (const auto& run : ground)
            if (const auto v = stats::routeMean(run.figures->parts, route, lane)) seen.push_back({run.values, *v});
        auto fit = cost::fit(*session.game(), session.edits->baseline, seen);
        if (!fit) continue;
        const auto worst = heaviest(r.limits, lane, fit->estimate[0]);
        const double miss = worst.factor * missOf(session, *fit, seen);
        costs.lanes.push_back({lane, std::move(*fit), worst.part, worst.factor, miss});
    }
    costs.gpuMemory = memoryFit(session, ground, capture::Sensor::GpuMemory);
    costs.systemMemory = memoryFit(session, ground, capture::Sensor::SystemMemory);
    const double budget = session.edits->brief ? budgetOf(session.edits->brief->target).value() : 0;
    for (const auto& lane : costs.lanes) {
        const double mean = lane.worstFactor * lane.fit.estimate[0];
        const double doubt =
            lane.worstFactor * stats::studentQuantile(0.90, lane.fit.degreesOfFreedom) * lane.fit.standardError(0);
        const bool over = budget > 0 && mean + doubt > session.edits->shares.of(lane.lane) * budget;
        costs.need.gpu = costs.need.gpu || (over && lane.lane != run::Lane::Cpu);
        costs.need.cpu = costs.need.cpu || (over && lane.lane != run::Lane::Gpu);
    }
    if (costs.gpuMemory && session.machine() != nullptr)
        costs.need.memory = costs.gpuMemory->estimate[0] > 0.95 * session.machine()->gpuMemory.value();
    costs.planned = cost::plan(*session.game(), session.edits->baseline, costs.need);
    for (const auto& key : costs.planned) {
        const bool measured = !costs.lanes.empty() && costs.lanes.front().fit.indexOf(key).has_value();
        if (!measured) costs.toMeasure.push_back(key);
    }
    return costs;
}

std::optional<Check> checkOf(const Session& session, const Results& r) {
    if (!session.edits->choice || r.checkRuns.empty() || !session.edits->brief || !r.costs) return std::nullopt;
    Check check;
    check.runs = r.checkRuns.size();
    const double budget = budgetOf(session.edits->brief->target).value();
    for (const auto& lane : r.costs->lanes) {
        std::map<std::string, std::vector<double>> perPart;
        for (const auto& id : r.checkRuns)
            for (const auto& part : r.figures(id)->parts)
                if (const auto v = part.of(lane.lane)) perPart[part.part].push_back(*v);
        choose::LaneOutcome worst;
        worst.lane = lane.lane;
        worst.usableMs = session.edits->shares.of(lane.lane) * budget;
        for (const auto& [part, values] : perPart) {
            const double mean = *stats::mean(values);
            if (mean <= worst.meanMs) continue;
            worst.worstPart = part;
            worst.meanMs = mean;
            const auto sd = stats::standardDeviation(values);
            worst.standardErrorMs = sd ? *sd / std::sqrt(static_cast<double>(values.size())) : 0.0;
        }
        check.holds = check.holds && worst.meanMs <= worst.usableMs;
        check.measured.push_back(worst);
    }
    return check;
}

void addBasis(const Session& session, Results& r) {
    const Edits& e = *session.edits;
    auto& b = r.basisNow;
    if (session.machine() != nullptr) b["machine"] = Fingerprint().add(session.machine()->text).value();
    if (session.game() != nullptr) b["game"] = Fingerprint().add(session.game()->text).add(e.route).value();
    if (e.brief) {
        Fingerprint f;
        f.add(e.brief->target.value()).add(e.shares.gpu).add(e.shares.cpu).add(e.shares.frame).add(markOf(e.locked));
        b["brief"] = f.value();
    }
    b["baseline"] = Fingerprint().add(markOf(e.baseline)).add(markOf(session, r.baselineRuns)).value();
    b["costs"] = Fingerprint().add(b["baseline"]).add(markOf(session, r.costRuns)).value();
    if (e.choice) b["choice"] = markOf(e.choice->values);
    if (e.cap) b["cap"] = Fingerprint().add(e.cap->cap ? e.cap->cap->value() : 0.0).value();
}

Basis chosenNames(const Basis& now, std::initializer_list<const char*> names) {
    Basis out;
    for (const char* name : names)
        if (const auto it = now.find(name); it != now.end()) out.insert(*it);
    return out;
}

Stale staleNames(const Basis& then, const Basis& now) {
    Stale out;
    for (const char* name : {"machine", "game", "brief", "baseline", "costs", "choice", "cap"}) {
        const auto a = then.find(name), b = now.find(name);
        const bool differs = (a == then.end()) != (b == now.end()) || (a != then.end() && a->second != b->second);
        if (a != then.end() && differs) out.emplace_back(name);
    }
    // New baseline runs are new costs: one name is enough.
    if (std::find(out.begin(), out.end(), "baseline") != out.end()) std::erase(out, "costs");
    return out;
}

void addLimits(const Session& session, Results& r, ResultsCache::Stages& stages) {
    const auto mark = Fingerprint().add(markOf(session, r.baselineRuns)).add(r.basisNow["machine"]).value();
    if (stages.limits.first != mark || stages.limits.second.empty()) {
        const auto captures = capturesOf(r, r.baselineRuns);
        stages.limits = {mark, limits::judge(captures, session.baselineVariant(), session.panel())};
    }
    r.limits = stages.limits.second;
}

void addCosts(const Session& session, Results& r, ResultsCache::Stages& stages) {
    const auto mark = Fingerprint()
                          .add(r.basisNow["costs"])
                          .add(r.basisNow["brief"])
                          .add(markOf(session, r.checkRuns))
                          .add(r.basisNow["game"])
                          .value();
    if (stages.costs.first != mark || !stages.costs.second)
        stages.costs = {mark, std::make_shared<const Costs>(costsOf(session, r))};
    r.costs = stages.costs.second;
}

void addProposal(const Session& session, Results& r, ResultsCache::Stages& stages, const Context& context) {
    const auto ground = r.ground(session);
    if (!ground || !session.edits->brief || ground->lanes.empty()) return;
    const auto mark = Fingerprint()
                          .add(stages.costs.first)
                          .add(r.basisNow["brief"])
                          .add(markOf(session, r.checkRuns))
                          .add(r.basisNow["machine"])
                          .value();
    if (stages.proposal.first != mark) {
        auto proposal = choose::propose(*ground, session.edits->brief->target, context);
        if (!proposal && proposal.error().code == ErrorCode::Cancelled) return;
        stages.proposal.first = mark;
        stages.proposal.second = {};
        if (proposal)
            stages.proposal.second.first = std::move(*proposal);
        else
            stages.proposal.second.second = proposal.error();
    }
    r.proposal = stages.proposal.second.first;
    r.proposalError = stages.proposal.second.second;
}

void addCap(const Session& session, Results& r, ResultsCache::Stages& stages, const choose::CapRules& rules,
            const Context& context) {
    if (r.checkRuns.empty() || !session.edits->brief) return;
    const auto& brief = *session.edits->brief;
    const auto mark = Fingerprint()
                          .add(markOf(session, r.checkRuns))
                          .add(r.basisNow["brief"])
                          .add(r.basisNow["machine"])
                          .add(run::keyOf(brief.school))
                          .value();
    if (stages.cap.first != mark || !stages.cap.second) {
        const auto& run = *session.facts->run(r.checkRuns.back());
        const auto panel = session.panel();
        const auto sync = panel && panel->variable ? run::Sync::Variable : run::Sync::None;
        CapView view{choose::replayOf(*r.captures.at(run.id), panel, sync, brief.school), run.id, {}, {}};
        view.offers = choose::offers(view.replay, brief.target, panel, rules);
        const double average = r.figures(run.id)->summary.average.value();
        const double from = 0.66 * brief.target.value(), to = std::max(1.2 * average, 1.3 * brief.target.value());
        view.curve = choose::curve(view.replay, Fps(from), Fps(to), 29, rules, context);
        if (context.cancelled()) return;
        stages.cap = {mark, std::make_shared<const CapView>(std::move(view))};
    }
    r.cap = stages.cap.second;
}

} // namespace

std::vector<run::Lane> lanesOf(std::span<const PartMeans> parts, bool paced) {
    const auto all = [&parts](run::Lane lane) {
        return !parts.empty() &&
               std::all_of(parts.begin(), parts.end(), [lane](const PartMeans& p) { return p.of(lane).has_value(); });
    };
    const bool cpu = all(run::Lane::Cpu), gpu = all(run::Lane::Gpu);
    if (cpu && gpu) return {run::Lane::Cpu, run::Lane::Gpu};
    if (paced && (cpu || gpu)) return {cpu ? run::Lane::Cpu : run::Lane::Gpu};
    return {run::Lane::Frame};
}

std::optional<stats::Summary> spanSummary(const Session& session, const RunId& id, capture::Span span) {
    const auto* run = session.facts->run(id);
    if (run == nullptr || !run->capture) return std::nullopt;
    const auto trims = session.trimsOf(id);
    std::vector<double> inside;
    double at = 0;
    for (const double ms : run->capture->framesMs) {
        at += ms;
        if (at > span.toMs) break;
        const auto holds = [at](const capture::Span& t) { return at > t.fromMs && at <= t.toMs; };
        if (at >= span.fromMs && std::none_of(trims.begin(), trims.end(), holds)) inside.push_back(ms);
    }
    const auto& brief = session.edits->brief;
    return stats::summarize(inside, brief ? std::optional(brief->target) : std::nullopt, session.edits->hitchRule);
}

std::optional<stats::FigureComparison> compareVariants(const Session& session, const Results& results,
                                                       const RunId& before, const RunId& after) {
    const auto variantOf = [&session](const run::Run& run) {
        const auto* order = session.facts->orderOf(run);
        return order == nullptr ? session.baselineVariant() : order->variant;
    };
    const auto* first = session.facts->run(before);
    const auto* second = session.facts->run(after);
    if (first == nullptr || second == nullptr || !session.counts(*first) || !session.counts(*second))
        return std::nullopt;
    const auto a = variantOf(*first), b = variantOf(*second);
    if (a == b) return std::nullopt;
    const auto family = [&](const run::Variant& variant) {
        std::vector<stats::Summary> out;
        for (const auto& run : session.facts->runs) {
            const auto* order = session.facts->orderOf(run);
            const auto* figures = results.figures(run.id);
            if (figures == nullptr || !session.counts(run) || variantOf(run) != variant) continue;
            if (order != nullptr && (order->route != session.edits->route || !session.onThisMachine(*order))) continue;
            out.push_back(figures->summary);
        }
        return out;
    };
    const auto school = session.edits->brief ? session.edits->brief->school : run::LowSchool::WorstMean;
    const auto compared = stats::compareFigures(family(a), family(b), school, {});
    return compared.empty() ? std::nullopt : std::optional(compared.front()); // the average
}

const choose::LaneCosts* Costs::of(run::Lane lane) const {
    for (const auto& l : lanes)
        if (l.lane == lane) return &l;
    return nullptr;
}

const RunFigures* Results::figures(const RunId& id) const {
    const auto it = runs.find(id);
    return it == runs.end() ? nullptr : it->second.get();
}

std::optional<choose::Ground> Results::ground(const Session& session) const {
    if (!costs || session.game() == nullptr || costs->lanes.empty()) return std::nullopt;
    choose::Ground g{*session.game(),       session.edits->baseline, costs->lanes, costs->gpuMemory, {},
                     session.edits->shares, session.edits->locked};
    if (session.machine() != nullptr) g.gpuMemorySize = session.machine()->gpuMemory;
    return g;
}

Basis Results::choiceBasis() const {
    return chosenNames(basisNow, {"machine", "game", "brief", "baseline", "costs"});
}
Basis Results::capBasis() const {
    return chosenNames(basisNow, {"machine", "game", "brief", "choice"});
}
Basis Results::keptBasis() const {
    return chosenNames(basisNow, {"machine", "game", "brief", "choice", "cap"});
}

Results compute(const Session& session, ResultsCache& cache, const choose::CapRules& rules, const Context& context) {
    Results r;
    auto& stages = cache.stages();
    r.revision = session.revision;
    addFigures(session, r, stages, context);
    sortRuns(session, r);
    keepSingleChanges(session, r);
    addBasis(session, r);
    if (context.cancelled()) return r;
    addBaseline(session, r, stages, context);
    addLimits(session, r, stages);
    if (session.game() != nullptr) addCosts(session, r, stages);
    addProposal(session, r, stages, context);
    r.check = checkOf(session, r);
    addCap(session, r, stages, rules, context);
    r.proof = proofOf(session, r);
    if (session.edits->choice) r.choiceStale = staleNames(session.edits->choice->basis, r.basisNow);
    if (session.edits->cap) r.capStale = staleNames(session.edits->cap->basis, r.basisNow);
    if (session.edits->kept) r.keptStale = staleNames(session.edits->kept->basis, r.basisNow);
    return r;
}

} // namespace impasto::session
