// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/basis.h>

#include <impasto/limits/limits.h>

#include "marks.h"

namespace impasto::results {
namespace {

using document::Basis;

/// The runs, and what of them does not count.
std::uint64_t markOfRuns(const Inputs& in, const std::vector<RunId>& ids) {
    Fingerprint f;
    for (const auto& id : ids) {
        f.add(id.hex());
        if (const auto trims = in.trimsOf(id); !trims.empty()) f.add(markOf(trims));
    }
    return f.value();
}

/// Target, safe limits and what must stay: all of the brief that decisions of the first logbooks recorded.
Fingerprint briefMark(const Inputs& in, const run::Brief& brief) {
    const auto& shares = in.shares();
    Fingerprint f;
    f.add(brief.target.value())
        .add(shares.gpu.value_or(limits::ruleOfThumb(run::Lane::Gpu)))
        .add(shares.cpu.value_or(limits::ruleOfThumb(run::Lane::Cpu)))
        .add(shares.frame.value_or(limits::ruleOfThumb(run::Lane::Frame)))
        .add(markOf(in.locked()));
    for (const auto& [setting, level] : in.cannot()) f.add(setting).add(level);
    return f;
}

/// The whole brief.
std::uint64_t markOfBrief(const Inputs& in, const run::Brief& brief) {
    Fingerprint f = briefMark(in, brief);
    f.add(brief.floor() ? brief.floor()->value() : 0.0).add(brief.pictureFloor.value_or(-1));
    f.add(stats::keyOf(brief.lowRule)).add(run::keyOf(brief.style));
    // What later logbooks say besides is in the mark only where it is not the usual.
    if (brief.floorOf != run::FloorOf::OnePercentLow) f.add(run::keyOf(brief.floorOf));
    if (brief.shown) f.add("shown").add(brief.shown->value());
    if (brief.onTimeShare) f.add("on-time").add(*brief.onTimeShare);
    if (brief.tolerance) f.add("tolerance").add(*brief.tolerance);
    if (brief.steering) f.add(run::keyOf(*brief.steering));
    for (const auto bound : run::allBounds)
        if (brief.bounds[bound]) f.add(run::keyOf(bound)).add(*brief.bounds[bound]);
    return f.value();
}

Basis chosenNames(const Basis& now, std::initializer_list<const char*> names) {
    Basis out;
    for (const char* name : names)
        if (const auto it = now.find(name); it != now.end()) out.insert(*it);
    return out;
}

/// `former`: the mark of the brief as the first logbooks have it.
Stale staleNames(const Basis& then, const Basis& now, std::optional<std::uint64_t> former) {
    Stale out;
    for (const char* name : {"machine", "game", "brief", "baseline", "costs", "choice", "cap"}) {
        const auto a = then.find(name), b = now.find(name);
        const bool differs = (a == then.end()) != (b == now.end()) || (a != then.end() && a->second != b->second);
        const bool first = a != then.end() && former && name == std::string_view("brief") && a->second == *former;
        if (a != then.end() && differs && !first) out.emplace_back(name);
    }
    // New baseline runs are new costs: one name is enough.
    if (std::find(out.begin(), out.end(), "baseline") != out.end()) std::erase(out, "costs");
    return out;
}

Maybe<Standing> standing(const Inputs& in, const Context&) {
    const auto& session = in.session({Part::Machine, Part::Game, Part::Route});
    Standing s;
    auto& b = s.now;
    if (const auto* machine = in.machine()) {
        const bool usual = in.state() == document::PlayState{}; // as in logbooks from before it could be said
        b["machine"] = usual ? machine->mark : Fingerprint(machine->mark).add(markOf(in.state())).value();
    }
    if (const auto* game = in.game()) b["game"] = Fingerprint(game->mark).add(session.edits->subject.route).value();
    std::optional<std::uint64_t> former;
    if (const auto& brief = in.brief()) {
        b["brief"] = markOfBrief(in, *brief);
        former = briefMark(in, *brief).value();
    }
    b["baseline"] = Fingerprint().add(markOf(in.baseline())).add(markOfRuns(in, in.get<BaselineRuns>()->ids)).value();
    auto costs = Fingerprint().add(b["baseline"]).add(markOfRuns(in, in.get<CostRuns>()->ids));
    if (const auto& earlier = in.earlier()) costs.add(markOf(*earlier)); // else as in logbooks from before
    b["costs"] = costs.value();
    if (in.choice()) b["choice"] = markOf(in.choice()->values);
    if (in.cap()) b["cap"] = markOf(in.cap()->plan);
    if (in.choice()) s.choice = staleNames(in.choice()->basis, b, former);
    if (in.cap()) s.cap = staleNames(in.cap()->basis, b, former);
    if (in.kept()) s.kept = staleNames(in.kept()->basis, b, former);
    return std::make_shared<const Standing>(std::move(s));
}

} // namespace

Basis Standing::ofChoice() const {
    return chosenNames(now, {"machine", "game", "brief", "baseline", "costs"});
}
Basis Standing::ofCap() const {
    return chosenNames(now, {"machine", "game", "brief", "choice"});
}
Basis Standing::ofKept() const {
    return chosenNames(now, {"machine", "game", "brief", "choice", "cap"});
}

const Standing& standingOf(const Results& results) {
    static const Standing none;
    const auto* standing = results.get<Standing>();
    return standing == nullptr ? none : *standing;
}

std::vector<Stage> basisStages() {
    return {stage("standing",
                  {Part::Machine, Part::State, Part::Game, Part::Route, Part::Target, Part::Wishes, Part::LowRule,
                   Part::Shares, Part::Locked, Part::Earlier, Part::Baseline, Part::Choice, Part::Cap, Part::Kept,
                   Part::Trims},
                  {use<BaselineRuns>(), use<CostRuns>()}, standing)};
}

} // namespace impasto::results
