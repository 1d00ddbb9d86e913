// SPDX-License-Identifier: GPL-3.0-or-later
// Orders recorded at a rig.
#pragma once

#include <impasto/document/store.h>
#include <impasto/rig/rig.h>

namespace impasto::path {

/// A run from a rig's recording.
run::Run runOf(const run::Order& order, RunId id, rig::Recording recording, const Clock& clock);
/// The rig's state after the last run on this machine, with what the last run of this game left in it.
rig::RigState rigStateOf(const document::Session& session);
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

} // namespace impasto::path
