// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/document/session.h>

#include <impasto/cost/cost.h>

namespace impasto::document {
namespace {

template <class Things, class Key>
const typename Things::value_type* withId(const Things& things, const Key& id) {
    const auto it = std::find_if(things.begin(), things.end(), [&](const auto& t) { return t.id == id; });
    return it == things.end() ? nullptr : &*it;
}

} // namespace

const run::Order* Facts::order(const OrderId& id) const {
    return withId(orders, id);
}
const run::Run* Facts::run(const RunId& id) const {
    return withId(runs, id);
}

const machine::Machine* Session::machine() const {
    return edits->subject.machine && *edits->subject.machine < facts->machines.size()
               ? facts->machines[*edits->subject.machine].get()
               : nullptr;
}

const game::Game* Session::game() const {
    return edits->subject.game && *edits->subject.game < facts->games.size() ? facts->games[*edits->subject.game].get()
                                                                             : nullptr;
}

const game::Route* Session::route() const {
    return game() == nullptr ? nullptr : game()->route(edits->subject.route);
}

game::SceneKind Session::scene() const {
    return edits->subject.scene.value_or(route() == nullptr ? game::SceneKind::FixedRoute : route()->kind);
}

std::optional<display::Panel> Session::panel() const {
    if (machine() == nullptr || !(machine()->panel.refresh.value() > 0)) return std::nullopt;
    return machine()->panel;
}

bool Session::onThisMachine(const run::Order& order) const {
    return order.machine.empty() || (machine() != nullptr && machine()->name == order.machine);
}

const run::Order* Session::orderOf(const run::Run& run) const {
    if (const auto said = edits->runs.answers.find(run.id); said != edits->runs.answers.end())
        return facts->order(said->second);
    return run.order ? facts->order(*run.order) : nullptr;
}

std::string Session::variantName(const run::Run& run) const {
    const auto it = edits->runs.variants.find(run.id);
    return it == edits->runs.variants.end() || orderOf(run) != nullptr ? std::string() : it->second;
}

bool Session::inThisState(const run::Order& order) const {
    const auto& now = edits->subject.state.conditions;
    return run::comparable(now, order.conditions) && order.conditions.warmUpSeconds >= now.warmUpSeconds;
}

bool Session::answered(const run::Order& order) const {
    return std::any_of(facts->runs.begin(), facts->runs.end(), [&](const run::Run& run) {
        const auto* answers = orderOf(run);
        return answers != nullptr && answers->id == order.id && shown(run) && leftOut(run) != LeftOut::Mismatch;
    });
}

bool Session::mayBeSet(const game::Values& values) const {
    const auto cannot = [&](const auto& value) { return edits->settings.cannot.contains(value); };
    return std::none_of(values.begin(), values.end(), cannot) &&
           std::all_of(edits->settings.locked.begin(), edits->settings.locked.end(), [&](const auto& lock) {
               const auto it = values.find(lock.first);
               return it == values.end() || it->second == lock.second;
           });
}

bool Session::madeForBaseline(const run::Order& order) const {
    const auto baseline = baselineVariant();
    bool made = true; // before any baseline was ordered: logs were dropped
    for (const auto& earlier : facts->orders) {
        if (earlier.id == order.id) break;
        if (earlier.purpose == run::Purpose::Baseline && onThisMachine(earlier)) made = earlier.variant == baseline;
    }
    return made;
}

bool Session::wantedNow(const run::Order& order) const {
    if (edits->runs.withdrawn.contains(order.id) || !onThisMachine(order) || order.route != edits->subject.route)
        return false;
    if (order.purpose != run::Purpose::Test && !inThisState(order)) return false;
    const auto baseline = baselineVariant();
    switch (order.purpose) {
    case run::Purpose::WarmUp:
    case run::Purpose::Baseline:
    case run::Purpose::ProofBefore:
        return order.variant == baseline;
    case run::Purpose::Cost:
        if (edits->settings.enough) return false;
        return order.variant.resolution == baseline.resolution && mayBeSet(order.variant.values) &&
               madeForBaseline(order);
    case run::Purpose::Check:
        return chosenVariant(false) == order.variant;
    case run::Purpose::ProofAfter:
        return chosenVariant(true) == order.variant;
    case run::Purpose::Test:
        return cost::changedLevels(baseline.values, order.variant.values).size() <= 1;
    }
    return false;
}

bool Session::ofThisPair(const run::Order& order) const {
    return onThisMachine(order) && (order.game.empty() || (game() != nullptr && game()->name == order.game));
}

std::span<const capture::Span> Session::trimsOf(const RunId& wanted) const {
    const auto it = edits->runs.trims.find(wanted);
    return it == edits->runs.trims.end() ? std::span<const capture::Span>() : std::span(it->second);
}

RunId Session::firstReading(const run::Run& run) const {
    if (!run.capture) return run.id;
    const auto note = run.capture->notes.find(readingNote);
    const auto bytes = note == run.capture->notes.end() ? std::nullopt : bytesFromHex(note->second);
    return bytes ? RunId{*bytes} : run.id;
}

bool Session::shown(const run::Run& run) const {
    if (edits->runs.hidden.contains(run.id)) return false;
    if (run.capture && run.capture->notes.contains(arrivalNote) && !edits->runs.arrived.contains(run.id)) return false;
    const RunId first = firstReading(run);
    const auto used = edits->runs.readings.find(first);
    return run.id == (used == edits->runs.readings.end() ? first : used->second);
}

std::optional<LeftOut> Session::leftOut(const run::Run& run) const {
    if (const auto it = edits->runs.leftOut.find(run.id); it != edits->runs.leftOut.end()) return it->second;
    if (run.crashed) return LeftOut::Crashed;
    if (run.damaged) return LeftOut::Damaged;
    if (edits->runs.counted.contains(run.id)) return std::nullopt;
    if (run.interrupted) return LeftOut::Interrupted;
    const auto* order = orderOf(run);
    if (order != nullptr && order->purpose == run::Purpose::WarmUp) return LeftOut::WarmUp;
    return std::nullopt;
}

bool Session::readOff(const run::Run& run) const {
    return run.readOff && shown(run) && !leftOut(run);
}

bool Session::counts(const run::Run& run) const {
    return run.capture && run.capture->frames() > 0 && shown(run) && !leftOut(run);
}

run::Variant Session::baselineVariant() const {
    const auto& state = edits->subject.state;
    run::Variant v = state.asOrder().variant;
    v.values = edits->settings.baseline;
    if (state.resolution == display::Resolution{} && machine() != nullptr) v.resolution = machine()->panel.native;
    if (edits->goal.brief) v.refresh = pace::headsetMode(panel(), edits->goal.brief->target);
    return v;
}

run::Variant Session::lowestVariant() const {
    run::Variant v = baselineVariant();
    if (game() == nullptr) return v;
    for (const auto& setting : game()->settings) {
        const auto locked = edits->settings.locked.find(setting.id);
        if (locked != edits->settings.locked.end())
            v.values[setting.id] = locked->second;
        else if (setting.weight > 0 && !setting.unordered)
            v.values[setting.id] = setting.levels.front().name;
    }
    return v;
}

std::optional<run::Variant> Session::chosenVariant(bool capped) const {
    if (!edits->settings.choice) return std::nullopt;
    run::Variant v = baselineVariant();
    v.values = edits->settings.choice->values;
    if (!capped) return v;
    if (!edits->pacing.cap) return v;
    const auto& plan = edits->pacing.cap->plan;
    v.cap = plan.cap;
    v.sync = plan.sync;
    const auto p = panel();
    if (v.sync == run::Sync::Variable && !(p && p->variable && v.cap && v.cap->value() <= p->variable->highest.value()))
        v.sync = run::Sync::None; // the panel cannot follow
    if (plan.refresh) v.refresh = plan.refresh;
    v.generation = plan.generation;
    if (plan.limiter) v.limiter = *plan.limiter;
    return v;
}

std::string Session::name() const {
    if (!edits->subject.name.empty()) return edits->subject.name;
    return game() == nullptr ? edits->subject.title : game()->name;
}

std::size_t Session::numberOf(const RunId& wanted) const {
    std::size_t n = 0;
    for (const auto& run : facts->runs) {
        if (shown(run)) ++n;
        if (run.id == wanted) break;
    }
    return n;
}

} // namespace impasto::document
