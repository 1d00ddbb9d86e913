// SPDX-License-Identifier: GPL-3.0-or-later
// Runs of two states held against each other, where nobody says what was changed: what neither tells alone.
#pragma once

#include <impasto/limits/limits.h>

namespace impasto::limits {

enum class PairSign {
    NotApplied,       // neither work nor frames nor memory moved. before, after: percent, 0 and what moved most
    HitchesFirstOnly, // in the first run alone: percent of its time that hitches take, and of the time of the others
    CopyRouteOff,     // a part of every frame is gone, as a copy is. ms beside CPU and GPU work, or of GPU work
    CopyRouteOn       // or came
};
std::string_view keyOf(PairSign sign);

struct PairFinding {
    PairSign sign = PairSign::NotApplied;
    std::string part; // "": the whole run
    double before = 0, after = 0;
    double sure = 0; // 0 to 1
};

/// `before` and `after`: runs of one state each, one at the least; `variant`: the cap and sync of both. Nothing is said
/// of a copy route where a cap or a sync holds the frames, nor without CPU and GPU work. Thresholds in docs/method.md,
/// Two states.
std::vector<PairFinding> heldAgainst(std::span<const std::shared_ptr<const capture::Capture>> before,
                                     std::span<const std::shared_ptr<const capture::Capture>> after,
                                     const run::Variant& variant, const std::optional<display::Panel>& panel,
                                     const machine::Machine* machine);

} // namespace impasto::limits
