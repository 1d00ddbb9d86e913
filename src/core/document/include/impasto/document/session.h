// SPDX-License-Identifier: GPL-3.0-or-later
// One game on one machine for one brief. Facts only grow; edits are small values, one struct a feature; a session is a
// cheap pair of both.
#pragma once

#include <impasto/document/edits/checks.h>
#include <impasto/document/edits/goal.h>
#include <impasto/document/edits/pace.h>
#include <impasto/document/edits/record.h>
#include <impasto/document/edits/runs.h>
#include <impasto/document/edits/settings.h>
#include <impasto/document/edits/subject.h>

namespace impasto::document {

/// What happened or was said, never taken back.
struct Facts {
    std::uint64_t seed = 0; // seeds of orders are drawn from it
    std::vector<std::shared_ptr<const machine::Machine>> machines;
    std::vector<std::shared_ptr<const game::Game>> games;
    std::vector<run::Order> orders;
    std::vector<run::Run> runs;

    [[nodiscard]] const run::Order* order(const OrderId& id) const;
    [[nodiscard]] const run::Run* run(const RunId& id) const;
};

/// What was decided, changed by named edits and undone by walking back.
struct Edits {
    Subject subject;
    Goal goal;
    Settings settings;
    RunMarks runs;
    Pacing pacing;
    Record record;
    Checks checks;
    std::string unknown; // what a later version of the program stored besides: JSON, handed on as it stands
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
    /// As said by hand, else as the route is described.
    [[nodiscard]] game::SceneKind scene() const;
    /// Nothing where its refresh is not said.
    [[nodiscard]] std::optional<display::Panel> panel() const;
    /// Whether the order was made for the machine in use; a corrected description keeps its name.
    [[nodiscard]] bool onThisMachine(const run::Order& order) const;
    /// The order a run answers, as said by hand or when it was made; nothing for a log that answers none.
    [[nodiscard]] const run::Order* orderOf(const run::Run& run) const;
    /// Whether it was made in the state that is played in now; what was played before it may be more.
    [[nodiscard]] bool inThisState(const run::Order& order) const;
    /// The name of the variant that a log is of; empty: of the baseline's, or of the order that it answers.
    [[nodiscard]] std::string variantName(const run::Run& run) const;
    /// A run that counts, or may count, answers it; one that does not fit it leaves it open.
    [[nodiscard]] bool answered(const run::Order& order) const;
    /// Not skipped, and made for what is wanted now: route, baseline, choice and cap.
    [[nodiscard]] bool wantedNow(const run::Order& order) const;
    /// Made for this machine and a game of this name. A player may rename a game, so that only the rig asks this.
    [[nodiscard]] bool ofThisPair(const run::Order& order) const;
    [[nodiscard]] std::span<const capture::Span> trimsOf(const RunId& run) const;
    /// Not deleted, and of the readings of its log the one in use.
    [[nodiscard]] bool shown(const run::Run& run) const;
    /// Why a run does not count, said by hand or by the recording itself.
    [[nodiscard]] std::optional<LeftOut> leftOut(const run::Run& run) const;
    /// Shown, with frames, and not left out.
    [[nodiscard]] bool counts(const run::Run& run) const;
    /// Shown, not left out, and its figures were read off in place of a recording.
    [[nodiscard]] bool readOff(const run::Run& run) const;
    /// The run that a log first became, of whose readings this is one.
    [[nodiscard]] RunId firstReading(const run::Run& run) const;
    /// The baseline's variant: the baseline levels in the state that is played in, no cap; a headset in the slowest
    /// mode that shows the target.
    [[nodiscard]] run::Variant baselineVariant() const;
    /// Every setting at its lowest level but those of taste and those that are locked.
    [[nodiscard]] run::Variant lowestVariant() const;
    /// Whether a set has every locked setting at its level, and none at one that cannot be set.
    [[nodiscard]] bool mayBeSet(const game::Values& values) const;
    /// Whether the baseline that was ordered last before it is the one in use.
    [[nodiscard]] bool madeForBaseline(const run::Order& order) const;
    /// The accepted values; with the cap and sync where `capped`.
    [[nodiscard]] std::optional<run::Variant> chosenVariant(bool capped) const;
    /// The name to show: the title, the game's, or nothing.
    [[nodiscard]] std::string name() const;
    /// The number a run is called by, from 1, over all runs that are shown.
    [[nodiscard]] std::size_t numberOf(const RunId& wanted) const;
};

/// The note of a capture that says which run its log first became, in hexadecimal.
inline constexpr const char* readingNote = "reading_of";
/// The note of a capture whose run is shown only where an edit says that it arrived.
inline constexpr const char* arrivalNote = "arrives_by_edit";

} // namespace impasto::document
