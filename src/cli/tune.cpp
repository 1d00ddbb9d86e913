// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.h"
#include "described.h"
#include "source.h"

#include <impasto/base/file.h>
#include <impasto/exports/json.h>
#include <impasto/path/perform.h>
#include <impasto/path/record.h>
#include <impasto/results/earlier.h>
#include <impasto/rig_sim/simulated.h>
#include <impasto/wording/bounds.h>
#include <impasto/wording/layers.h>
#include <impasto/wording/limits.h>
#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>
#include <impasto/wording/pace.h>
#include <impasto/wording/path.h>
#include <impasto/wording/proof.h>
#include <impasto/wording/walk.h>

namespace impasto::cli {
namespace {

struct TuneOptions {
    std::string machine, game, steering, style = "cinematic", walk = "measured";
    double targetFps = 60;
    std::optional<double> floorFps, shownFps, goodEnough; // percent
    run::BoundFigures bounds;
    std::uint64_t seed = 1;
    bool framesOnly = false, json = false;
    Source earlier; // whose costs it begins with; none where its logbook is empty
};

/// The session of the options, before its first run.
Result<document::SessionStore> begin(const TuneOptions& options, const Described& described) {
    document::Session start;
    start.id = {seededIdSource(options.seed)()};
    auto facts = std::make_shared<document::Facts>();
    facts->seed = options.seed;
    start.facts = facts;
    document::SessionStore store(start);
    run::Brief brief;
    brief.target = Fps(options.targetFps);
    if (options.floorFps) brief.lowestLow = Fps(*options.floorFps);
    brief.bounds = options.bounds;
    if (options.shownFps) brief.shown = Fps(*options.shownFps);
    brief.style = *run::styleOf(options.style);
    brief.steering = run::steeringOf(options.steering);
    const std::size_t m = store.addMachine(described.machine), g = store.addGame(described.game);
    std::vector<document::Edit> edits{document::useMachine(m), document::useGame(g, described.game),
                                      document::setBrief(brief)};
    if (options.walk != "measured") edits.push_back(document::takeWalk(*choose::walkSchoolOf(options.walk)));
    if (options.goodEnough) edits.push_back(document::setGoodEnough(*options.goodEnough / 100));
    if (const auto done = store.apply(document::together("start", std::move(edits))); !done)
        return tl::unexpected(done.error());
    if (options.earlier.logbook.empty()) return store;
    const auto earlier = storedSession(options.earlier);
    if (!earlier) return tl::unexpected(earlier.error());
    results::ResultsCache cache;
    auto runs = results::earlierOf(*earlier, results::compute(*earlier, cache, {}), store.session());
    if (!runs) return tl::unexpected(runs.error());
    if (const auto done = store.apply(document::beginWith(std::move(*runs))); !done)
        return tl::unexpected(done.error());
    return store;
}

void printLimits(const wording::Words& w, const document::Session& s, const results::Results& r) {
    fmt::print("\nWhat limits each part\n");
    for (const auto& v : results::verdictsOf(r))
        fmt::print("  {:<16} {}. {}\n", wording::part(w, v.part), wording::bottleneck(w, v),
                   wording::bottleneckEvidence(w, v, s.edits->goal.brief->target));
}

void printCosts(const wording::Words& w, const document::Session& s, const results::Results& r) {
    const auto* costs = r.get<results::Costs>();
    if (costs == nullptr || costs->lanes.empty()) return;
    if (const auto from = wording::earlierRuns(w, s, r); !from.empty()) fmt::print("\n{}\n", from);
    fmt::print("\nWhat the levels change, ms in the heaviest part, 95% intervals, and runs that held them\n");
    for (const auto& lane : costs->lanes)
        for (std::size_t i = 0; i < lane.levels.columns.size(); ++i) {
            const auto& key = lane.levels.columns[i];
            fmt::print("  {:<5} {:<22} {:<10} {:<14} {}\n", wording::lane(w, lane.lane),
                       s.game()->setting(key.setting)->label, key.level,
                       wording::signedPlusMinus(lane.levels.estimate[i + 1], lane.levels.halfWidth(i + 1), 2),
                       lane.levels.runs[i + 1]);
        }
}

void printProof(const wording::Words& w, const results::Results& r) {
    const auto* proof = r.get<proof::Proof>();
    if (proof == nullptr) return;
    fmt::print("\nBefore and after, {} and {} runs in turn\n", proof->before, proof->after);
    for (const auto& wish : proof->wishes) {
        fmt::print("  {:<28} {} -> {}, difference {}: {}\n", wording::goal(w, wish),
                   wording::goalInterval(w, wish, wish.before), wording::goalInterval(w, wish, wish.after),
                   wording::goalChange(w, wish), wording::goalState(w, wish.state));
    }
}

void print(const document::Session& s, const results::Results& r) {
    const wording::Words w;
    fmt::print("{} on {}, {} fps, {} runs\n", s.name(), s.machine()->name,
               wording::wishFps(s.edits->goal.brief->target), s.facts->runs.size());
    printLimits(w, s, r);
    printCosts(w, s, r);
    const auto* proposed = r.get<results::Proposed>();
    const auto* proposal = results::proposalOf(r);
    if (s.edits->settings.choice) {
        fmt::print("\nThe choice{}\n", proposal != nullptr && proposal->values == s.edits->settings.choice->values
                                           ? ": " + wording::proven(w, *proposed)
                                           : "");
        for (const auto& [id, level] : s.edits->settings.choice->values)
            fmt::print("  {:<22} {}\n", s.game()->setting(id)->label, level);
    }
    if (const auto asked = wording::fillAsked(w, *s.edits->goal.brief, results::fillOf(r)); !asked.empty())
        fmt::print("{}\n", asked);
    if (s.edits->pacing.cap)
        fmt::print("\nCap: {} ({})\n", wording::capPlan(w, s.edits->pacing.cap->plan, s.panel()),
                   wording::capRule(w, s.edits->pacing.cap->school));
    printProof(w, r);
}

/// As a log that tells nothing but frame times.
std::shared_ptr<const capture::Capture> framesAlone(const capture::Capture& recorded) {
    auto out = std::make_shared<capture::Capture>();
    out->kind = recorded.kind;
    out->framesMs = recorded.framesMs;
    out->marks = recorded.marks;
    out->notes = recorded.notes;
    return out;
}

/// Exit code: everything was done, and the goals are not met.
constexpr int notReached = 3;

int tune(const TuneOptions& options) {
    const auto described = readDescribed(options.machine, options.game);
    if (!described) return failed(described.error());
    auto store = begin(options, *described);
    if (!store) return failed(store.error());
    auto rules = pace::CapRules{};
    const std::string rulesPath = shipped("cap_rules.toml");
    if (const auto text = readFile(rulesPath)) {
        const auto parsed = pace::parseCapRules(*text, rulesPath);
        if (!parsed) return failed(parsed.error());
        rules = *parsed;
    }
    const auto rig = rig_sim::simulatedRig(described->originals, described->machine, described->game);
    if (!rig) return failed(rig.error());
    const IdSource ids = seededIdSource(options.seed + 1);
    results::ResultsCache cache;
    for (;;) {
        const auto results = results::compute(store->session(), cache, rules);
        const auto step = path::nextStep(store->session(), results);
        // What only a person can give way on ends it, with all that was found.
        const bool stuck = step.action == path::Action::LowerTarget || step.action == path::Action::SayBrief;
        if (step.action == path::Action::Done || stuck) {
            if (options.json)
                fmt::print("{}\n", exports::tuneJson(store->session(), results));
            else
                print(store->session(), results);
            const auto& kept = store->session().edits->record.kept;
            if (!stuck && kept && kept->held()) return 0;
            if (!options.json) {
                const wording::Words w;
                fmt::print("\n{} {}\n", wording::reason(w, store->session(), results, step),
                           step.target ? wording::action(w, store->session(), results, step) + "." : "");
            }
            return notReached;
        }
        if (!options.json)
            fmt::print(stderr, "{}\n", wording::action(wording::Words(), store->session(), results, step));
        const auto performed = path::perform(*store, results, step, ids, systemClock());
        if (!performed) return failed(performed.error());
        const path::RecordHooks hooks{{}, {}, [&](run::Run run) {
                                          if (options.framesOnly) run.capture = framesAlone(*run.capture);
                                          store->addRuns({std::move(run)});
                                      }};
        const auto done = path::recordAll(**rig, performed->toRecord, path::rigStateOf(store->session()), hooks, {},
                                          ids, systemClock());
        if (!done) return failed(done.error());
    }
}

} // namespace

Command tuneCommand() {
    const auto o = std::make_shared<TuneOptions>();
    std::vector<std::string> walks;
    for (const auto walk : choose::allWalkSchools) walks.emplace_back(choose::keyOf(walk));
    std::vector<Option> all{
        {"--machine", "Machine description, TOML", &o->machine, {}, {}, true},
        {"--game", "Game description, TOML", &o->game, {}, {}, true},
        {"--target", "Rate to hold, fps", &o->targetFps, std::pair(10.0, 1000.0), {}, true},
        {"--floor", "Lowest acceptable 1% low, fps", &o->floorFps, std::pair(1.0, 1000.0)},
        {"--shown", "Also a rate to be shown, invented frames among them", &o->shownFps, std::pair(10.0, 2000.0)},
        {"--style",
         "What matters most",
         &o->style,
         {},
         {"competitive", "cinematic", "battery", "weak-machine", "headset", "quiet"}},
        steeringOption(o->steering),
        {"--walk",
         "How the next test run is found: the one that tells most, or step by step as by hand",
         &o->walk,
         {},
         walks},
        {"--good-enough",
         "Test runs end where the choice is expected to miss less of the picture, percent; 1 otherwise", &o->goodEnough,
         std::pair(0.1, 50.0)},
        {"--begin-with", "Logbook with a session of the same game: its runs count in part", &o->earlier.logbook},
        {"--session", "Which session of it; the newest otherwise", &o->earlier.session},
        {"--frames-only", "As with logs that tell nothing but frame times", &o->framesOnly},
        {"--seed", "Seed of the session", &o->seed},
        {"--json", "Machine-readable, docs/formats.md", &o->json}};
    for (auto& bound : boundOptions(o->bounds)) all.push_back(std::move(bound));
    return {"tune", "The whole path on the simulator: bottlenecks, costs, choice, cap, proof", std::move(all),
            [o] { return tune(*o); }};
}

} // namespace impasto::cli
