// SPDX-License-Identifier: GPL-3.0-or-later
// The only maker of the next session. Lives on one thread: the window's, or main in the command line.
#pragma once

#include <impasto/document/edit.h>

namespace impasto::document {

/// What one revision added, for whoever stores it.
struct Change {
    Session session;
    std::optional<std::string> edit;                           // the edit it made, also for undo and redo
    std::size_t machines = 0, games = 0, orders = 0, runs = 0; // how many facts were added at the end of each list
    std::size_t undoDepth = 0;                                 // edits that can be undone after it
    bool stackChanged = false;                                 // undo or redo moved along the stack
};

/// One step of the undo stack: what the edits were after the named edit.
struct Step {
    std::string name;
    std::shared_ptr<const Edits> after;
};

class SessionStore {
  public:
    explicit SessionStore(Session start);
    /// As read from a logbook: `steps` in order, of which the first `depth` are done; `first` is what stood before
    /// them.
    SessionStore(Session start, std::shared_ptr<const Edits> first, std::vector<Step> steps, std::size_t depth);

    [[nodiscard]] const Session& session() const { return m_session; }
    /// Told every change, after it was made.
    void onChange(std::function<void(const Change&)> listener) { m_listener = std::move(listener); }

    /// Errors: the edit's. Nothing changes then. An edit that changes nothing makes no revision.
    Result<void> apply(const Edit& edit);
    [[nodiscard]] std::optional<std::string> undoable() const;
    [[nodiscard]] std::optional<std::string> redoable() const;
    void undo();
    void redo();

    std::size_t addMachine(machine::Machine machine); // index; one with an equal mark is not added again
    std::size_t addGame(game::Game game);
    void addOrders(std::vector<run::Order> orders);
    /// One revision for all of them.
    void addRuns(std::vector<run::Run> runs);
    /// The runs and what is said of them, as one step. Errors: those of the edit; nothing is added then.
    Result<void> addRuns(std::vector<run::Run> runs, const Edit& edit);

    [[nodiscard]] const std::vector<Step>& steps() const { return m_steps; }
    [[nodiscard]] std::size_t depth() const { return m_depth; }
    [[nodiscard]] const std::shared_ptr<const Edits>& first() const { return m_first; }

  private:
    template <class Thing>
    std::size_t addThing(std::vector<std::shared_ptr<const Thing>> Facts::*list, Thing thing, Change change);
    void commit(Change change, std::shared_ptr<const Facts> facts, std::shared_ptr<const Edits> edits);

    Session m_session;
    std::shared_ptr<const Edits> m_first;
    std::vector<Step> m_steps;
    std::size_t m_depth = 0;
    std::function<void(const Change&)> m_listener;
};

} // namespace impasto::document
