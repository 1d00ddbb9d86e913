// SPDX-License-Identifier: GPL-3.0-or-later
// The parts of a session that stages may read, and their marks.
#include <impasto/results/stage.h>

#include <impasto/base/fingerprint.h>
#include <stdexcept>

#include "marks.h"

namespace impasto::results {
namespace {

using document::Session;

std::uint64_t ofWishes(const Session& s) {
    const auto& brief = s.edits->goal.brief;
    if (!brief) return 0;
    Fingerprint f;
    f.add(brief->floor() ? brief->floor()->value() : 0.0)
        .add(brief->pictureFloor.value_or(-1))
        .add(run::keyOf(brief->style))
        .add(run::keyOf(brief->floorOf))
        .add(brief->shown ? brief->shown->value() : 0.0)
        .add(brief->steering ? run::keyOf(*brief->steering) : std::string_view());
    for (const auto& asked : brief->bounds.all) f.add(asked.value_or(-1));
    return f.value();
}

std::uint64_t ofRuns(const Session& s) {
    Fingerprint f;
    for (const auto& id : s.edits->runs.withdrawn) f.add(id.hex());
    for (const auto& run : s.facts->runs) {
        const auto out = s.leftOut(run);
        f.add(run.id.hex()).add(std::uint64_t{s.shown(run)}).add(out ? document::keyOf(*out) : std::string_view());
    }
    return f.value();
}

std::uint64_t ofTrims(const Session& s, const std::optional<RunId>& run) {
    if (run) return markOf(s.trimsOf(*run));
    Fingerprint f;
    for (const auto& [id, spans] : s.edits->runs.trims) f.add(id.hex()).add(markOf(spans));
    return f.value();
}

std::uint64_t ofAnswers(const Session& s, const std::optional<RunId>& run) {
    Fingerprint f;
    for (const auto& [id, order] : s.edits->runs.answers)
        if (!run || *run == id) f.add(id.hex()).add(order.hex());
    for (const auto& [id, name] : s.edits->runs.variants)
        if (!run || *run == id) f.add(id.hex()).add(name);
    return f.value();
}

std::uint64_t ofChoice(const std::optional<document::AcceptedChoice>& choice) {
    if (!choice) return 0;
    return Fingerprint()
        .add(markOf(choice->values))
        .add(markOf(choice->basis))
        .add(std::uint64_t{choice->byHand})
        .value();
}

std::uint64_t ofCap(const std::optional<document::ChosenCap>& cap) {
    if (!cap) return 0;
    return Fingerprint()
        .add(markOf(cap->plan))
        .add(run::keyOf(cap->plan.sync)) // which the mark in logbooks leaves out but for one
        .add(pace::keyOf(cap->school))
        .add(markOf(cap->basis))
        .value();
}

std::uint64_t ofRules(const pace::CapRules& r) {
    Fingerprint f;
    f.add(r.headroomShare)
        .add(r.headroomQuantile)
        .add(r.switchLossMs)
        .add(static_cast<double>(r.smoothingFrames))
        .add(r.bottomQuantile)
        .add(r.evenShare)
        .add(r.limiterErrorMs);
    for (const auto& reaches : r.reaches)
        for (const auto figure : pace::allFigures)
            for (const auto rule : stats::allLowRules) {
                const auto& reach = reaches.of(figure, rule);
                f.add(reach.below).add(reach.above);
            }
    for (const auto& rules : {r.power.machine, r.power.gpu})
        for (const auto& rule : rules) f.add(rule.exponent).add(rule.least).add(rule.most);
    return f.add(r.power.noise).add(r.power.roomC).value();
}

std::uint64_t ofAllowed(const document::Settings& settings) {
    Fingerprint f(markOf(settings.locked));
    for (const auto& [setting, level] : settings.cannot) f.add(setting).add(level);
    return f.value();
}

std::uint64_t ofShares(const document::Goal& goal) {
    Fingerprint f;
    f.add(goal.shares.gpu.value_or(0)).add(goal.shares.cpu.value_or(0)).add(goal.shares.frame.value_or(0));
    if (goal.brief)
        for (const auto& asked : goal.brief->bounds.all) f.add(asked.value_or(0));
    return f.value();
}

} // namespace

std::string_view nameOf(Part part) {
    constexpr std::array<std::string_view, partCount> names{
        "machine", "state",      "game",     "route",   "target",      "wishes",       "low rule", "shown",
        "shares",  "hitch rule", "baseline", "locked",  "good enough", "earlier runs", "walk",     "choice",
        "cap",     "kept",       "runs",     "answers", "part column", "trims",        "cap rules"};
    return names.at(static_cast<std::size_t>(part));
}

std::uint64_t markOf(Part part, const Session& s, const pace::CapRules& rules, const std::optional<RunId>& run) {
    const auto& e = *s.edits;
    switch (part) {
    case Part::Machine:
        return s.machine() == nullptr ? 0 : s.machine()->mark;
    case Part::State:
        return markOf(e.subject.state);
    case Part::Game:
        return s.game() == nullptr ? 0 : s.game()->mark;
    case Part::Route:
        return Fingerprint()
            .add(e.subject.route)
            .add(e.subject.scene ? game::keyOf(*e.subject.scene) : std::string_view())
            .value();
    case Part::Target:
        return Fingerprint()
            .add(e.goal.brief ? e.goal.brief->target.value() : 0.0)
            .add(e.goal.brief ? e.goal.brief->wishedOnTime() : 0.0)
            .add(e.goal.brief ? e.goal.brief->tolerated() : 0.0)
            .value();
    case Part::Wishes:
        return ofWishes(s);
    case Part::LowRule:
        return Fingerprint().add(e.goal.brief ? stats::keyOf(e.goal.brief->lowRule) : std::string_view()).value();
    case Part::Shown:
        return Fingerprint().add(e.goal.brief && e.goal.brief->shown ? e.goal.brief->shown->value() : 0.0).value();
    case Part::Shares:
        return ofShares(e.goal);
    case Part::HitchRule:
        return Fingerprint()
            .add(e.runs.hitchRule.ratio)
            .add(e.runs.hitchRule.excessMs)
            .add(std::uint64_t{e.runs.hitchRule.neighbours})
            .add(e.runs.hitchRule.outrightMs)
            .value();
    case Part::Baseline:
        return markOf(e.settings.baseline);
    case Part::Locked:
        return ofAllowed(e.settings);
    case Part::GoodEnough:
        return Fingerprint().add(e.settings.goodEnough.value_or(0)).value();
    case Part::Earlier:
        return e.settings.earlier ? markOf(*e.settings.earlier) : 0;
    case Part::Walk:
        return Fingerprint().add(choose::keyOf(e.settings.walk)).value();
    case Part::Choice:
        return ofChoice(e.settings.choice);
    case Part::Cap:
        return ofCap(e.pacing.cap);
    case Part::Kept:
        return e.record.kept ? Fingerprint(markOf(e.record.kept->basis))
                                   .add(std::uint64_t{e.record.kept->met})
                                   .add(std::uint64_t{e.record.kept->goals})
                                   .add(std::uint64_t{e.record.kept->open})
                                   .value()
                             : 0;
    case Part::Runs:
        return ofRuns(s);
    case Part::Answers:
        return ofAnswers(s, run);
    case Part::PartColumn:
        return Fingerprint().add(e.runs.partColumn).value();
    case Part::Trims:
        return ofTrims(s, run);
    case Part::CapRules:
        return ofRules(rules);
    }
    return 0;
}

const Session& Inputs::seen(Part part) const {
    if (std::find(m_reads.begin(), m_reads.end(), part) == m_reads.end())
        throw std::logic_error(fmt::format("a stage reads the {} and does not declare it", nameOf(part)));
    m_seen |= std::uint64_t{1} << static_cast<unsigned>(part);
    return m_session;
}

const Session& Inputs::session(std::initializer_list<Part> parts) const {
    for (const auto part : parts) seen(part);
    return m_session;
}

void Inputs::used(std::type_index type) const {
    if (std::none_of(m_uses.begin(), m_uses.end(), [type](const Use& u) { return u.what == type || u.ofRuns == type; }))
        throw std::logic_error(fmt::format("a stage uses {} and does not declare it", type.name()));
}

const game::Route* Inputs::route() const {
    seen(Part::Game);
    return seen(Part::Route).route();
}

game::SceneKind Inputs::scene() const {
    seen(Part::Game);
    return seen(Part::Route).scene();
}

std::optional<Target> Inputs::target() const {
    const auto& brief = seen(Part::Target).edits->goal.brief;
    return brief ? std::optional(Target{brief->target, brief->wishedOnTime(), brief->tolerated()}) : std::nullopt;
}

const std::optional<run::Brief>& Inputs::brief() const {
    seen(Part::Target);
    seen(Part::LowRule);
    return seen(Part::Wishes).edits->goal.brief;
}

run::BoundFigures Inputs::bounds() const {
    const auto& brief = seen(Part::Shares).edits->goal.brief;
    return brief ? brief->bounds : run::BoundFigures();
}

stats::LowRule Inputs::lowRule() const {
    const auto& brief = seen(Part::LowRule).edits->goal.brief;
    return brief ? brief->lowRule : stats::LowRule::WorstMean;
}

const pace::CapRules& Inputs::capRules() const {
    seen(Part::CapRules);
    return m_rules;
}

} // namespace impasto::results
