// SPDX-License-Identifier: GPL-3.0-or-later
// One game on one machine for one brief. Facts only grow; edits are one small value; a session is a cheap pair of both.
#pragma once

#include <impasto/capture/trim.h>
#include <impasto/choose/cap.h>
#include <impasto/choose/propose.h>
#include <impasto/run/run.h>

namespace impasto::session {

/// What happened or was said, never taken back.
struct Facts {
    std::uint64_t seed = 0; // seeds of orders are drawn from it
    std::vector<std::shared_ptr<const machine::Machine>> machines;
    std::vector<std::shared_ptr<const game::Game>> games;
    std::vector<run::Order> orders;
    std::vector<run::Run> runs;

    [[nodiscard]] const run::Order* order(const OrderId& id) const;
    [[nodiscard]] const run::Run* run(const RunId& id) const;
    /// The order a run answers; nothing for a dropped log.
    [[nodiscard]] const run::Order* orderOf(const run::Run& run) const;
};

enum class RigKind { Simulated, Hand };

enum class LeftOut { WarmUp, Interrupted, Damaged, Mismatch, ByHand };
std::string_view keyOf(LeftOut reason);
std::optional<LeftOut> leftOutOf(std::string_view key);

/// Named fingerprints of what a decision rested on: machine, game, brief, baseline, costs, choice, cap.
using Basis = std::map<std::string, std::uint64_t>;

struct AcceptedChoice {
    game::Values values;
    bool byHand = false;
    Basis basis;
    friend bool operator==(const AcceptedChoice&, const AcceptedChoice&) = default;
};

struct ChosenCap {
    choose::CapSchool school = choose::CapSchool::None;
    std::optional<Fps> cap;
    Basis basis;
    friend bool operator==(const ChosenCap&, const ChosenCap&) = default;
};

struct KeptResult {
    std::int64_t atSeconds = 0; // since 1970, UTC
    Basis basis;
    friend bool operator==(const KeptResult&, const KeptResult&) = default;
};

/// What was decided, changed by named edits and undone by walking back.
struct Edits {
    std::string title;                        // of a session without a game
    std::optional<std::size_t> machine, game; // indices into the facts
    RigKind rig = RigKind::Simulated;
    std::string route;
    game::Values baseline;
    std::optional<run::Brief> brief;
    choose::UsableShares shares;
    stats::HitchRule hitchRule;
    game::Values locked;
    std::map<RunId, LeftOut> leftOut;
    std::map<RunId, std::vector<capture::Span>> trims; // joined; never an empty list
    std::map<RunId, bool> hidden;                      // deleted by hand: not shown, still a fact
    std::optional<AcceptedChoice> choice;
    std::optional<ChosenCap> cap;
    std::optional<KeptResult> kept;
    std::string note;
    friend bool operator==(const Edits&, const Edits&) = default;
};

struct Session {
    SessionId id;
    std::uint64_t revision = 0;
    std::shared_ptr<const Facts> facts = std::make_shared<Facts>();
    std::shared_ptr<const Edits> edits = std::make_shared<Edits>();

    [[nodiscard]] const machine::Machine* machine() const;
    [[nodiscard]] const game::Game* game() const;
    [[nodiscard]] const game::Route* route() const;
    [[nodiscard]] std::optional<display::Panel> panel() const;
    /// Whether the order was made for the machine in use; a corrected description keeps its name.
    [[nodiscard]] bool onThisMachine(const run::Order& order) const;
    /// Made for this machine and a game of this name. A player may rename a game, so that only the rig asks this.
    [[nodiscard]] bool ofThisPair(const run::Order& order) const;
    [[nodiscard]] std::span<const capture::Span> trimsOf(const RunId& run) const;
    /// Recorded, not hidden, not left out, not damaged.
    [[nodiscard]] bool counts(const run::Run& run) const;
    /// The baseline's variant: the start values at the panel's resolution, no cap, no sync.
    [[nodiscard]] run::Variant baselineVariant() const;
    /// The accepted values; with the cap and sync where `capped`.
    [[nodiscard]] std::optional<run::Variant> chosenVariant(bool capped) const;
    /// The name to show: the game's, the title, or nothing.
    [[nodiscard]] std::string name() const;
    /// The number a run is called by, from 1, over all runs that are not hidden.
    [[nodiscard]] std::size_t numberOf(const RunId& wanted) const;
};

} // namespace impasto::session
