// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/document/store.h>

namespace impasto::document {

SessionStore::SessionStore(Session start) : m_session(std::move(start)), m_first(m_session.edits) {}

SessionStore::SessionStore(Session start, std::shared_ptr<const Edits> first, std::vector<Step> steps,
                           std::size_t depth)
    : m_session(std::move(start)), m_first(std::move(first)), m_steps(std::move(steps)),
      m_depth(std::min(depth, m_steps.size())) {}

void SessionStore::commit(Change change, std::shared_ptr<const Facts> facts, std::shared_ptr<const Edits> edits) {
    m_session.facts = std::move(facts);
    m_session.edits = std::move(edits);
    ++m_session.revision;
    change.session = m_session;
    change.undoDepth = m_depth;
    if (m_listener) m_listener(change);
}

Result<void> SessionStore::apply(const Edit& edit) {
    auto after = edit.apply(*m_session.edits);
    if (!after) return tl::unexpected(after.error());
    if (*after == *m_session.edits) return {};
    auto shared = std::make_shared<const Edits>(std::move(*after));
    m_steps.resize(m_depth, Step{edit.name, nullptr});
    m_steps.push_back({edit.name, shared});
    ++m_depth;
    Change change;
    change.edit = edit.name;
    commit(std::move(change), m_session.facts, shared);
    return {};
}

std::optional<std::string> SessionStore::undoable() const {
    if (m_depth == 0) return std::nullopt;
    return m_steps[m_depth - 1].name;
}

std::optional<std::string> SessionStore::redoable() const {
    if (m_depth == m_steps.size()) return std::nullopt;
    return m_steps[m_depth].name;
}

void SessionStore::undo() {
    if (m_depth == 0) return;
    --m_depth;
    Change change;
    change.edit = m_steps[m_depth].name;
    change.stackChanged = true;
    commit(std::move(change), m_session.facts, m_depth == 0 ? m_first : m_steps[m_depth - 1].after);
}

void SessionStore::redo() {
    if (m_depth == m_steps.size()) return;
    Change change;
    change.edit = m_steps[m_depth].name;
    change.stackChanged = true;
    ++m_depth;
    commit(std::move(change), m_session.facts, m_steps[m_depth - 1].after);
}

template <class Thing>
std::size_t SessionStore::addThing(std::vector<std::shared_ptr<const Thing>> Facts::*list, Thing thing, Change change) {
    const auto& known = (*m_session.facts).*list;
    const auto it = std::find_if(known.begin(), known.end(), [&](const auto& k) { return k->mark == thing.mark; });
    const auto index = static_cast<std::size_t>(it - known.begin());
    if (it != known.end()) return index;
    Facts facts = *m_session.facts;
    (facts.*list).push_back(std::make_shared<const Thing>(std::move(thing)));
    commit(std::move(change), std::make_shared<const Facts>(std::move(facts)), m_session.edits);
    return index;
}

std::size_t SessionStore::addMachine(machine::Machine machine) {
    Change change;
    change.machines = 1;
    return addThing(&Facts::machines, std::move(machine), std::move(change));
}

std::size_t SessionStore::addGame(game::Game game) {
    Change change;
    change.games = 1;
    return addThing(&Facts::games, std::move(game), std::move(change));
}

void SessionStore::addOrders(std::vector<run::Order> orders) {
    if (orders.empty()) return;
    Facts facts = *m_session.facts;
    Change change;
    change.orders = orders.size();
    for (auto& order : orders) facts.orders.push_back(std::move(order));
    commit(std::move(change), std::make_shared<const Facts>(std::move(facts)), m_session.edits);
}

void SessionStore::addRuns(std::vector<run::Run> runs) {
    if (runs.empty()) return;
    Facts facts = *m_session.facts;
    Change change;
    change.runs = runs.size();
    for (auto& run : runs) facts.runs.push_back(std::move(run));
    commit(std::move(change), std::make_shared<const Facts>(std::move(facts)), m_session.edits);
}

Result<void> SessionStore::addRuns(std::vector<run::Run> runs, const Edit& edit) {
    auto after = edit.apply(*m_session.edits);
    if (!after) return tl::unexpected(after.error());
    auto shared = std::make_shared<const Edits>(std::move(*after));
    m_steps.resize(m_depth, Step{edit.name, nullptr});
    m_steps.push_back({edit.name, shared});
    ++m_depth;
    Facts facts = *m_session.facts;
    Change change;
    change.edit = edit.name;
    change.runs = runs.size();
    for (auto& run : runs) facts.runs.push_back(std::move(run));
    commit(std::move(change), std::make_shared<const Facts>(std::move(facts)), shared);
    return {};
}

} // namespace impasto::document
