// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/checklist/checklist.h>

#include <cmath>
#include <impasto/base/fingerprint.h>
#include <impasto/base/keys.h>
#include <impasto/base/text.h>
#include <impasto/description/description.h>
#include <impasto/display/timing.h>

namespace impasto::checklist {
namespace {

constexpr Keys<Place, 5> places{{{Place::Memory, "memory"},
                                 {Place::Cpu, "cpu"},
                                 {Place::Link, "link"},
                                 {Place::Gpu, "gpu"},
                                 {Place::Panel, "panel"}}};
constexpr Keys<Standing, 4> standings{{{Standing::Fine, "fine"},
                                       {Standing::ToDo, "to-do"},
                                       {Standing::CannotTell, "cannot-tell"},
                                       {Standing::DoesNotApply, "does-not-apply"}}};

constexpr std::string_view sessionNames[] = {
    "machine.simulated", "machine.copy_route", "machine.second_gpu", "machine.gpu_mib", "machine.memory_mib",
    "panel.native",      "panel.follows",      "panel.headset",      "panel.fixed_hz",  "gpu.window_share",
    "goal.style",        "state.supply",       "state.plan",         "state.fans",      "state.window",
    "state.sync",        "state.direct",       "panel.best_hz",      "panel.gbit_8",    "panel.gbit_10"};

bool isFact(std::string_view name) {
    const auto read = machine::factNames();
    return std::any_of(read.begin(), read.end(), [&](const auto& n) { return n.key == name; }) ||
           std::find(std::begin(sessionNames), std::end(sessionNames), name) != std::end(sessionNames);
}

std::string readName(const description::Section& section, std::string_view key) {
    auto name = section.text(key);
    if (!name.empty() && !isFact(name)) section.fault(key, ErrorCode::UnknownName, name);
    return name;
}

std::vector<Condition> readConditions(const description::Section& point, std::string_view key) {
    std::vector<Condition> out;
    for (const auto& c : point.tables(key)) {
        Condition condition;
        condition.fact = readName(c, "fact");
        condition.is = c.texts("is");
        if (c.has("least")) condition.least = c.number("least", -1e9, 1e9);
        if (c.has("most")) condition.most = c.number("most", -1e9, 1e9);
        if (c.has("least_of")) condition.leastOf = readName(c, "least_of");
        if (c.has("same_as")) condition.sameAs = readName(c, "same_as");
        condition.share = c.number("share", 0, 100, 1);
        if (condition.is.empty() && !condition.least && !condition.most && condition.leastOf.empty() &&
            condition.sameAs.empty())
            c.fault("fact", ErrorCode::MissingKey, "is, same_as, least, most or least_of");
        out.push_back(std::move(condition));
    }
    return out;
}

/// Nothing where a fact that it asks for is not known.
std::optional<bool> holds(const Condition& c, const machine::Facts& facts) {
    if (!c.is.empty() || !c.sameAs.empty()) {
        const auto word = machine::wordIn(facts, c.fact);
        const auto other = c.sameAs.empty() ? word : machine::wordIn(facts, c.sameAs);
        if (!word || !other) return std::nullopt;
        return *word == *other && (c.is.empty() || std::find(c.is.begin(), c.is.end(), *word) != c.is.end());
    }
    const auto number = machine::numberIn(facts, c.fact);
    if (!number) return std::nullopt;
    if ((c.least && *number < *c.least) || (c.most && *number > *c.most)) return false;
    if (c.leastOf.empty()) return true;
    const auto other = machine::numberIn(facts, c.leastOf);
    if (!other) return std::nullopt;
    return *number >= c.share * *other;
}

Standing byRule(const Point& point, const machine::Facts& facts, std::vector<Judged::Rest>& rests) {
    for (const auto& c : point.applies)
        if (holds(c, facts) == false) {
            rests = {{c.fact, {}}};
            return Standing::DoesNotApply;
        }
    bool open = point.fine.empty();
    for (const auto& c : point.fine) {
        const auto held = holds(c, facts);
        if (!held) open = true;
        if (held) rests.push_back({c.fact, c.leastOf.empty() ? c.sameAs : c.leastOf});
        if (held == false) return Standing::ToDo;
    }
    return open ? Standing::CannotTell : Standing::Fine;
}

std::string yesOrNo(bool is) {
    return is ? "yes" : "no";
}

void add(Fingerprint& f, const machine::Facts& facts, const std::string& name) {
    const auto it = facts.find(name);
    f.add(name);
    if (it == facts.end()) return;
    if (const auto* number = std::get_if<double>(&it->second))
        f.add(*number);
    else
        f.add(std::get<std::string>(it->second));
}

} // namespace

std::string_view keyOf(Place place) {
    return keyIn(places, place);
}
std::string_view keyOf(Standing standing) {
    return keyIn(standings, standing);
}

std::span<const std::string_view> knownNames() {
    return sessionNames;
}

Result<std::vector<Point>> parseChecklist(std::string_view text, std::string fileName) {
    const auto document = description::Document::parse(text, std::move(fileName));
    if (!document) return tl::unexpected(document.error());
    std::vector<Point> out;
    for (const auto& section : document->root().tables("point")) {
        Point point;
        point.id = section.text("id");
        const auto place = valueIn(places, section.text("place"));
        if (!place) section.fault("place", ErrorCode::BadValue, "memory, cpu, link, gpu or panel");
        point.place = place.value_or(Place::Cpu);
        point.title = section.text("title");
        point.why = section.text("why");
        point.check = section.text("check");
        point.change = section.text("change");
        point.worth = section.text("worth");
        point.care = section.text("care", "");
        point.applies = readConditions(section, "applies");
        point.fine = readConditions(section, "fine");
        const auto namesAt = [&section](std::string_view key) {
            auto names = section.texts(key);
            for (const auto& name : names)
                if (!isFact(name)) section.fault(key, ErrorCode::UnknownName, name);
            return names;
        };
        point.tells = namesAt("tells");
        point.reopen = namesAt("reopen");
        const auto same = [&](const Point& p) { return p.id == point.id; };
        if (std::any_of(out.begin(), out.end(), same)) section.fault("id", ErrorCode::DuplicateName, point.id);
        out.push_back(std::move(point));
    }
    if (const auto sound = document->check(); !sound) return tl::unexpected(sound.error());
    return out;
}

machine::Facts factsOf(const machine::Machine& m) {
    auto facts = m.facts;
    facts["machine.simulated"] = yesOrNo(m.simulated);
    facts["machine.copy_route"] = yesOrNo(m.copyRoute);
    facts["machine.second_gpu"] = yesOrNo(!m.secondGpu.empty());
    if (m.gpuMemory.value() > 0) facts["machine.gpu_mib"] = m.gpuMemory.value();
    if (m.systemMemory.value() > 0) facts["machine.memory_mib"] = m.systemMemory.value();
    if (m.panel.native.widthPx > 0) facts["panel.native"] = display::keyText(m.panel.native);
    const bool known = m.panel.refresh.value() > 0;
    if (known) facts["panel.follows"] = yesOrNo(m.panel.variable.has_value());
    if (known) facts["panel.headset"] = yesOrNo(m.panel.headset);
    if (known && !m.panel.variable) facts["panel.fixed_hz"] = m.panel.refresh.value();
    if (const auto best = display::bestTimingOf(m.panel)) {
        facts["panel.best_hz"] = best->refresh.value();
        const auto tenths = [&](int bits) { return std::ceil(10 * display::gbitPerSecond(*best, bits)) / 10; };
        facts["panel.gbit_8"] = tenths(8);
        facts["panel.gbit_10"] = tenths(10);
    }
    const auto window = machine::numberIn(facts, "gpu.window_mib");
    if (window && m.gpuMemory.value() > 0) facts["gpu.window_share"] = std::min(1.0, *window / m.gpuMemory.value());
    return facts;
}

machine::Facts factsOf(const document::Session& session) {
    auto facts = session.machine() == nullptr ? machine::Facts() : factsOf(*session.machine());
    if (session.edits->goal.brief) facts["goal.style"] = std::string(run::keyOf(session.edits->goal.brief->style));
    const auto& state = session.edits->subject.state;
    facts["state.supply"] = std::string(run::keyOf(state.conditions.supply));
    facts["state.plan"] = std::string(run::keyOf(state.conditions.plan));
    facts["state.fans"] = std::string(run::keyOf(state.conditions.fans));
    facts["state.window"] = std::string(run::keyOf(state.conditions.window));
    facts["state.sync"] = std::string(run::keyOf(state.sync));
    facts["state.direct"] = yesOrNo(state.direct);
    return facts;
}

std::uint64_t markOf(const Point& point, const machine::Facts& facts) {
    Fingerprint f;
    f.add(point.id);
    for (const auto* list : {&point.applies, &point.fine})
        for (const auto& c : *list) {
            add(f, facts, c.fact);
            for (const auto& other : {c.leastOf, c.sameAs})
                if (!other.empty()) add(f, facts, other);
        }
    for (const auto& name : point.reopen) add(f, facts, name);
    return f.value();
}

Judged judge(const Point& point, const machine::Facts& facts, const document::Checks& checks) {
    Judged out;
    out.standing = byRule(point, facts, out.rests);
    if (out.standing != Standing::DoesNotApply)
        for (const auto& fact : point.tells)
            if (facts.contains(fact)) out.rests.push_back({fact, {}});
    const auto it = checks.ticks.find(point.id);
    if (it == checks.ticks.end()) return out;
    if (it->second.mark != markOf(point, facts)) {
        out.reopened = out.standing != Standing::Fine && out.standing != Standing::DoesNotApply;
        return out;
    }
    out.said = it->second;
    out.standing = it->second.said == document::Said::Done ? Standing::Fine : Standing::DoesNotApply;
    return out;
}

Counts count(std::span<const Point> points, const machine::Facts& facts, const document::Checks& checks) {
    Counts out;
    for (const auto& point : points) {
        const auto standing = judge(point, facts, checks).standing;
        ++(standing == Standing::Fine         ? out.fine
           : standing == Standing::ToDo       ? out.toDo
           : standing == Standing::CannotTell ? out.cannotTell
                                              : out.doesNotApply);
    }
    return out;
}

} // namespace impasto::checklist
