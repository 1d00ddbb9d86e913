// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/session/session.h>

#include <impasto/base/keys.h>

namespace impasto::session {
namespace {

constexpr Keys<LeftOut, 5> reasons{{{LeftOut::WarmUp, "warm-up"},
                                    {LeftOut::Interrupted, "interrupted"},
                                    {LeftOut::Damaged, "damaged"},
                                    {LeftOut::Mismatch, "mismatch"},
                                    {LeftOut::ByHand, "by-hand"}}};

template <class Things, class Key>
const typename Things::value_type* withId(const Things& things, const Key& id) {
    const auto it = std::find_if(things.begin(), things.end(), [&](const auto& t) { return t.id == id; });
    return it == things.end() ? nullptr : &*it;
}

} // namespace

std::string_view keyOf(LeftOut reason) {
    return keyIn(reasons, reason);
}
std::optional<LeftOut> leftOutOf(std::string_view key) {
    return valueIn(reasons, key);
}

const run::Order* Facts::order(const OrderId& id) const {
    return withId(orders, id);
}
const run::Run* Facts::run(const RunId& id) const {
    return withId(runs, id);
}
const run::Order* Facts::orderOf(const run::Run& run) const {
    return run.order ? order(*run.order) : nullptr;
}

const machine::Machine* Session::machine() const {
    return edits->machine && *edits->machine < facts->machines.size() ? facts->machines[*edits->machine].get()
                                                                      : nullptr;
}

const game::Game* Session::game() const {
    return edits->game && *edits->game < facts->games.size() ? facts->games[*edits->game].get() : nullptr;
}

const game::Route* Session::route() const {
    return game() == nullptr ? nullptr : game()->route(edits->route);
}

std::optional<display::Panel> Session::panel() const {
    if (machine() == nullptr) return std::nullopt;
    return machine()->panel;
}

bool Session::onThisMachine(const run::Order& order) const {
    return order.machine.empty() || (machine() != nullptr && machine()->name == order.machine);
}

bool Session::ofThisPair(const run::Order& order) const {
    return onThisMachine(order) && (order.game.empty() || (game() != nullptr && game()->name == order.game));
}

std::span<const capture::Span> Session::trimsOf(const RunId& wanted) const {
    const auto it = edits->trims.find(wanted);
    return it == edits->trims.end() ? std::span<const capture::Span>() : std::span(it->second);
}

bool Session::counts(const run::Run& run) const {
    return run.capture && run.capture->frames() > 0 && !run.damaged && !edits->leftOut.contains(run.id) &&
           !edits->hidden.contains(run.id);
}

run::Variant Session::baselineVariant() const {
    return {
        edits->baseline, machine() == nullptr ? display::Resolution{} : machine()->panel.native, {}, run::Sync::None};
}

std::optional<run::Variant> Session::chosenVariant(bool capped) const {
    if (!edits->choice) return std::nullopt;
    run::Variant v = baselineVariant();
    v.values = edits->choice->values;
    if (!capped) return v;
    if (edits->cap) v.cap = edits->cap->cap;
    const auto p = panel();
    const bool inWindow = p && p->variable && v.cap && v.cap->value() <= p->variable->highest.value();
    if (inWindow) v.sync = run::Sync::Variable;
    return v;
}

std::string Session::name() const {
    return game() == nullptr ? edits->title : game()->name;
}

std::size_t Session::numberOf(const RunId& wanted) const {
    std::size_t n = 0;
    for (const auto& run : facts->runs) {
        if (!edits->hidden.contains(run.id)) ++n;
        if (run.id == wanted) break;
    }
    return n;
}

} // namespace impasto::session
