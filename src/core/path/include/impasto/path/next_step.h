// SPDX-License-Identifier: GPL-3.0-or-later
// What to do next, why, and how long it takes.
#pragma once

#include <impasto/results/baseline.h>
#include <impasto/results/basis.h>
#include <impasto/results/costs.h>
#include <impasto/results/generation.h>
#include <impasto/results/headset.h>
#include <impasto/results/limits.h>
#include <impasto/results/pace.h>
#include <impasto/results/proof.h>
#include <impasto/results/results.h>

namespace impasto::path {

enum class Action {
    Begin,        // nothing yet: three ways to start
    SayMachine,   // open Bench
    SayGame,      // open the game's editor
    SayBrief,     // open Brief
    SayStart,     // the baseline levels are those that the game has
    RecordWarmUp, // the first run of a session, left out: shaders are compiled
    RecordBaseline,
    LeaveOutRun, // of the baseline, the one unlike the others; another takes its place
    RecordCosts, // the test run that tells most
    AcceptChoice,
    RecordCheck, // the chosen values without a cap
    ChooseCap,
    RecordProof, // before and after in turn
    LowerTarget, // to the rate that can be held
    KeepResult,
    Done
};
enum class Reason {
    NothingYet,
    NoMachine,
    NoGame,
    NoBrief,
    StartOpen, // nobody has said the levels that the game has now
    BeyondPanel,
    ShownBeyondPanel, // the rate with invented frames
    ShadersFirst,
    NeedRepeats,
    Uneven, // baseline runs differ by more than 5%
    NeedCosts,
    ProposalReady,
    ChoiceStale,
    CheckMissed,
    MoreFits,  // the choice held when run, and by what that taught a better one does
    CheckOpen, // it missed its limit when run, and still seems the best
    NeedFrames,
    CapReady,
    CapStale,
    NeedProof,
    ProofOpen,
    CapMissed,   // another cap is worth more by what its proof taught
    ProofMissed, // and with what was learnt other settings fit
    ProofFailed, // and nothing else is known to fit
    ProofReady,
    AllKept,
    PictureFloor, // the target fits with less of the picture than is asked for
    NothingFits
};

struct NextStep {
    Action action = Action::Begin;
    Reason reason = Reason::NothingYet;
    std::size_t runs = 0;           // to record
    double minutes = 0;             // of play
    results::Stale stale;           // names that made it necessary
    std::optional<Fps> target = {}; // to lower it to
    std::optional<RunId> run = {};  // to leave out
    friend bool operator==(const NextStep&, const NextStep&) = default;
};

/// Total: every session has one. Deterministic.
NextStep nextStep(const document::Session& session, const results::Results& results);

/// The rate, in whole fps, that the runs of a proof would hold as they are, with what they are sure of; nothing where
/// they hold the target, or nothing.
std::optional<Fps> heldInstead(const document::Session& session, const proof::Proof& proof);

/// What each run of a proof is played before it is recorded: 45 s where the logs tell clocks, which follow what was
/// played before; else nothing.
double settlingSeconds(const document::Session& session);

/// Whether shaders are met: a complete run of this machine and game was made. By hand, logs that were dropped before
/// stand for a game that runs already.
bool warmUpMade(const document::Session& session);

} // namespace impasto::path
