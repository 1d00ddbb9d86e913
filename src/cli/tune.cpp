// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands.h"

#include <impasto/base/file.h>
#include <impasto/report/json.h>

namespace impasto::cli {
namespace {

/// The session of the options, before its first run.
Result<session::SessionStore> begin(const TuneOptions& options) {
    const auto machine = loadMachine(options.machine);
    if (!machine) return tl::unexpected(machine.error());
    const auto game = loadGame(options.game);
    if (!game) return tl::unexpected(game.error());
    session::Session start;
    start.id = {seededIdSource(options.seed)()};
    auto facts = std::make_shared<session::Facts>();
    facts->seed = options.seed;
    start.facts = facts;
    session::SessionStore store(start);
    run::Brief brief;
    brief.target = Fps(options.targetFps);
    if (options.floorFps) brief.lowestLow = Fps(*options.floorFps);
    brief.style = *run::styleOf(options.style);
    const std::size_t m = store.addMachine(*machine), g = store.addGame(*game);
    for (const auto& edit : {session::useMachine(m), session::useGame(g, *game), session::setBrief(brief)})
        if (const auto done = store.apply(edit); !done) return tl::unexpected(done.error());
    return store;
}

void printLimits(const report::Wording& w, const session::Session& s, const session::Results& r) {
    fmt::print("\nWhat limits each part\n");
    for (const auto& v : r.limits)
        fmt::print("  {:<16} {}. {}\n", w.part(v.part), w.brakeTitle(v),
                   w.brakeEvidence(v, s.edits->brief->target, s.edits->shares));
}

void printCosts(const session::Session& s, const session::Results& r) {
    fmt::print("\nWhat the measured levels change, ms of the route mean, 95% intervals\n");
    if (!r.costs) return;
    for (const auto& lane : r.costs->lanes)
        for (std::size_t i = 0; i < lane.fit.columns.size(); ++i) {
            const auto& key = lane.fit.columns[i];
            fmt::print("  {:<5} {:<22} {:<10} {}\n", run::keyOf(lane.lane), s.game()->setting(key.setting)->label,
                       key.level, report::signedPlusMinus(lane.fit.estimate[i + 1], lane.fit.halfWidth(i + 1), 2));
        }
}

void printProof(const report::Wording& w, const session::Session& s, const session::Results& r) {
    if (!r.proof) return;
    fmt::print("\nBefore and after, {} and {} runs in turn\n", r.proof->before, r.proof->after);
    for (const auto& wish : r.proof->wishes) {
        const double unit = wish.wish == session::Wish::Picture ? 100 : 1;
        const auto half = [unit](const std::optional<double>& h) { return h ? std::optional(*h * unit) : h; };
        fmt::print("  {:<24} {} -> {}, difference {}: {}\n", w.wish(wish, *s.edits->brief),
                   report::plusMinus(wish.before.estimate * unit, half(wish.before.halfWidth), 1),
                   report::plusMinus(wish.after.estimate * unit, half(wish.after.halfWidth), 1),
                   report::signedPlusMinus(wish.difference.estimate * unit, half(wish.difference.halfWidth), 1),
                   w.wishState(wish.state));
    }
}

void print(const session::Session& s, const session::Results& r) {
    const report::Wording w;
    fmt::print("{} on {}, {} fps, {} runs\n", s.name(), s.machine()->name, report::wishFps(s.edits->brief->target),
               s.facts->runs.size());
    printLimits(w, s, r);
    printCosts(s, r);
    if (s.edits->choice) {
        fmt::print("\nThe choice{}\n",
                   r.proposal && r.proposal->values == s.edits->choice->values ? ": " + w.proven(*r.proposal) : "");
        for (const auto& [id, level] : s.edits->choice->values)
            fmt::print("  {:<22} {}\n", s.game()->setting(id)->label, level);
    }
    if (s.edits->cap)
        fmt::print("\nCap: {} ({})\n", s.edits->cap->cap ? report::wishFps(*s.edits->cap->cap) + " fps" : "none",
                   w.capSchool(s.edits->cap->school));
    printProof(w, s, r);
}

} // namespace

int tune(const TuneOptions& options) {
    auto store = begin(options);
    if (!store) return failed(store.error());
    auto rules = choose::CapRules{};
    const std::string rulesPath = std::string(IMPASTO_DATA_DIR) + "/cap_rules.toml";
    if (const auto text = readFile(rulesPath)) {
        const auto parsed = choose::parseCapRules(*text, rulesPath);
        if (!parsed) return failed(parsed.error());
        rules = *parsed;
    }
    const auto rig = rig::simulatedRig(*store->session().machine(), *store->session().game());
    if (!rig) return failed(rig.error());
    const IdSource ids = seededIdSource(options.seed + 1);
    session::ResultsCache cache;
    for (;;) {
        const auto results = session::compute(store->session(), cache, rules);
        const auto step = session::nextStep(store->session(), results);
        if (step.action == session::Action::Done) {
            if (options.json)
                fmt::print("{}\n", report::tuneJson(store->session(), results));
            else
                print(store->session(), results);
            return 0;
        }
        if (!options.json) fmt::print(stderr, "{}\n", report::Wording().action(store->session(), results, step));
        const auto performed = session::perform(*store, results, step, ids, systemClock());
        if (!performed) return failed(performed.error());
        const session::RecordHooks hooks{{}, {}, [&](run::Run run) { session::attach(*store, std::move(run)); }};
        const auto done = session::recordAll(**rig, performed->toRecord, session::rigStateOf(store->session()), hooks,
                                             {}, ids, systemClock());
        if (!done) return failed(done.error());
    }
}

} // namespace impasto::cli
