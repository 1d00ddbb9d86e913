// SPDX-License-Identifier: GPL-3.0-or-later
// What to do next, why, and how long it takes; and the one way of doing it, for the window, the command line and
// pictures.
#pragma once

#include <impasto/rig/rig.h>
#include <impasto/session/results.h>
#include <impasto/session/store.h>

namespace impasto::session {

enum class Action {
    Begin,        // nothing yet: three ways to begin
    SayMachine,   // open Bench
    SayGame,      // open the game's editor
    SayBrief,     // open Brief
    RecordWarmUp, // the first run of a session, left out: shaders are compiled
    RecordBaseline,
    RecordCosts,
    AcceptChoice,
    RecordCheck, // the chosen values without a cap
    ChooseCap,
    RecordProof, // before and after in turn
    KeepResult,
    Done
};
enum class Reason {
    NothingYet,
    NoMachine,
    NoGame,
    NoBrief,
    ShadersFirst,
    NeedRepeats,
    NeedCosts,
    ProposalReady,
    ChoiceStale,
    CheckMissed,
    NeedFrames,
    CapReady,
    CapStale,
    NeedProof,
    ProofOpen,
    ProofReady,
    AllKept,
    NothingFits
};

struct NextStep {
    Action action = Action::Begin;
    Reason reason = Reason::NothingYet;
    std::size_t runs = 0; // to record
    double minutes = 0;   // of play
    Stale stale;          // names that made it necessary
    friend bool operator==(const NextStep&, const NextStep&) = default;
};

/// Total: every session has one. Deterministic.
NextStep nextStep(const Session& session, const Results& results);

/// The orders of a recording step: open ones that fit are taken up again, others are made with fresh seeds.
std::vector<run::Order> ordersFor(const Session& session, const Results& results, const NextStep& step,
                                  const IdSource& ids);
/// Orders for this machine that no run answers, oldest first.
std::vector<run::Order> openOrders(const Session& session);

struct Performed {
    std::vector<run::Order> toRecord; // by a rig, or by hand; they are facts already
};
/// Does the step: makes the edit, or adds the orders. Errors: LacksMachine, LacksGame, LacksBrief for what only a
/// person can say; NothingFits; the edit's own.
Result<Performed> perform(SessionStore& store, const Results& results, const NextStep& step, const IdSource& ids,
                          const Clock& clock);

/// A run from a rig's recording.
run::Run runOf(const run::Order& order, RunId id, rig::Recording recording, const Clock& clock);
/// The rig's state after the last run on this machine, with what the last run of this game left in it.
rig::RigState rigStateOf(const Session& session);
/// Adds the run and, where it must not count, the mark that leaves it out.
void attach(SessionStore& store, run::Run run);
/// Told on the recording thread; each may be empty.
struct RecordHooks {
    std::function<void(const run::Order&, RunId)> onStart;
    rig::FrameSink onFrame;
    std::function<void(run::Run)> onRun; // a cancelled run too
};
/// Records one order after the other at the rig; stops after a cancelled one with Cancelled, after one
/// that the game did not live through with GameCrashed.
Result<void> recordAll(rig::Rig& rig, std::span<const run::Order> orders, rig::RigState state, const RecordHooks& hooks,
                       const Context& context, const IdSource& ids, const Clock& clock);

/// A log that answers an order by hand: nothing when it fits, else OrderMismatch with how it differs (length under 60%
/// or over 160% of the order's).
std::optional<Error> mismatch(const run::Order& order, const capture::Capture& capture);

} // namespace impasto::session
