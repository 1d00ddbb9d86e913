// SPDX-License-Identifier: GPL-3.0-or-later
// Deciding runs: what one changes of a baseline run, what came of it, and what that says of the verdicts.
#pragma once

#include <impasto/limits/limits.h>

namespace impasto::limits {

/// What a deciding run is played with.
struct TestPlan {
    run::Variant variant;
    run::Conditions conditions;
};
/// A baseline run with the one change; nothing where this machine or game has no such change to make.
std::optional<TestPlan> planOf(DecidingTest test, const run::Variant& usual, const run::Conditions& state,
                               const machine::Machine* machine, const game::Game* game);
/// The test that an order makes, by what it changes of a baseline run; nothing for another change, or none.
std::optional<DecidingTest> testIn(const run::Order& order, const run::Variant& usual, const run::Conditions& state,
                                   const machine::Machine* machine, const game::Game* game);

/// Each part of the runs before, held against the deciding runs. Thresholds in docs/method.md, Deciding runs.
std::vector<Tested> compareTested(DecidingTest test, std::span<const std::shared_ptr<const capture::Capture>> before,
                                  std::span<const std::shared_ptr<const capture::Capture>> after);
/// What was tested becomes evidence of its part, and changes how sure its verdict is.
void applyTested(std::vector<PartVerdict>& verdicts, std::span<const Tested> tested);

} // namespace impasto::limits
