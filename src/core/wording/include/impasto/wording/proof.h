// SPDX-License-Identifier: GPL-3.0-or-later
// Goals, and whether they are met.
#pragma once

#include <impasto/document/edits/record.h>
#include <impasto/proof/proof.h>
#include <impasto/wording/bounds.h>

namespace impasto::wording {

std::string goal(const Words& w, const proof::WishOutcome& outcome);
/// Keeping it, as what it is: "Save as not held"; of none, as held.
std::string saveAs(const Words& w, const proof::Proof* proof);
/// "The result is saved", "Saved as not proven".
std::string savedAs(const Words& w, const document::KeptResult& kept);
/// The figure that decides a part, with its bound.
std::string heldFigure(const Words& w, const proof::PartOutcome& part);
/// "average", "on time", "slowest second".
std::string heldFigureName(const Words& w, frames::HeldFigure figure);
std::string goalState(const Words& w, proof::WishState state);
/// A goal's figure in its unit: "58.2", "97%", "143 W".
std::string goalFigure(const Words& w, const proof::WishOutcome& outcome, double value);
/// The same of one side, with its error: "58.2 ± 0.4 fps"; "?" of none.
std::string goalInterval(const Words& w, const proof::WishOutcome& outcome, const stats::Interval& side);
/// A difference in that unit, with its sign and error: "+12 fps", "−24 ± 3 W".
std::string goalChange(const Words& w, const proof::WishOutcome& outcome);
/// Why a goal is not met, or still open: by how much, within which error, or what no run tells.
std::string goalShort(const Words& w, const proof::WishOutcome& outcome);

} // namespace impasto::wording
