// SPDX-License-Identifier: GPL-3.0-or-later
// The simulator: a rig that plays machines and games whose descriptions carry [rig] tables. Only the mains and tests
// link it: nothing that analyses a run can read what it hides.
#pragma once

#include <impasto/description/originals.h>
#include <impasto/rig/rig.h>

namespace impasto::rig_sim {

/// Paces a recording: called after every frame with the recorded time; may sleep and must return when asked to stop.
/// Empty: full speed.
using Playback = std::function<void(double recordedMs, const std::stop_token&)>;

/// The simulated rig of a machine and a game whose whole descriptions `originals` holds. Errors: MissingKey,
/// OutOfRange, ... with file, line and key.
Result<std::unique_ptr<rig::Rig>> simulatedRig(const description::Originals& originals, const machine::Machine& machine,
                                               const game::Game& game, Playback playback = {});
/// Whether both descriptions carry the simulator's tables.
bool canSimulate(const description::Originals& originals, const machine::Machine& machine, const game::Game& game);
/// The [rig] tables of a description's text, from their heading to the text's end; empty without any.
std::string hiddenTables(const std::string& description);

} // namespace impasto::rig_sim
