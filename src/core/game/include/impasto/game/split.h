// SPDX-License-Identifier: GPL-3.0-or-later
// A route is cut into parts.
#pragma once

#include <impasto/game/game.h>

namespace impasto::game {

/// The route with a part of its own from one second to another. What lies beside it keeps its names; edges within a
/// second of one that is there fall on it. The same route where nothing of at least a second would be left.
Route withPart(const Route& route, double fromSeconds, double toSeconds);

} // namespace impasto::game
