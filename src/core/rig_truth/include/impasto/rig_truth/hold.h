// SPDX-License-Identifier: GPL-3.0-or-later
// What a set of values truly holds, from many simulated runs with seeds of their own: the same definition of held as a
// proof's (frames/held.h), without its doubt.
#pragma once

#include <impasto/frames/held.h>
#include <impasto/rig_truth/truth.h>

namespace impasto::rig_truth {

struct HeldTruth {
    std::vector<frames::PartHeld> parts; // means over the runs
    bool held = false;
};
/// Errors: the simulator's; UnknownName for the route.
Result<HeldTruth> heldTruth(const description::Originals& originals, const machine::Machine& machine,
                            const game::Game& game, const run::Variant& variant, const std::string& route,
                            const run::Brief& brief, std::size_t runs = 8);

/// What the mean work of a lane may take in every part of a route so that the wished share of its frames stays within
/// the budget, by the lanes' true spread in runs of the variant.
Result<Room> roomFor(const description::Originals& originals, const machine::Machine& machine, const game::Game& game,
                     const run::Variant& variant, const std::string& route, const run::Brief& brief,
                     std::size_t runs = 6);

} // namespace impasto::rig_truth
