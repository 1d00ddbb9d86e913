// SPDX-License-Identifier: GPL-3.0-or-later
// Goals, and whether they are met.
#pragma once

#include <impasto/proof/proof.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

std::string goal(const Words& w, const proof::WishOutcome& outcome);
/// The figure that lies worst against its bound, with the bound.
std::string heldFigure(const Words& w, const proof::PartOutcome& part);
std::string goalState(const Words& w, proof::WishState state);

} // namespace impasto::wording
