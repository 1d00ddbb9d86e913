// SPDX-License-Identifier: GPL-3.0-or-later
// Around a choice: every best set from slow to fast, ways to the same rate, and why a level is not in it. All from what
// is believed of the costs, with the doubt that a choice allows for.
#pragma once

#include <impasto/choose/propose.h>

namespace impasto::choose {

/// A set and what it comes to.
struct Standpoint {
    game::Values values;
    double picture = 0; // 0 to 1
    Fps holds{0};       // the highest rate at which it stays within its limits in every part, with the usual safety
    bool memoryFits = true;
};
/// Errors: LacksRuns, UnknownName for a level that the game does not have.
Result<Standpoint> standpointOf(const Ground& ground, const game::Values& values);

/// The highest rate that a set of the cheapest levels holds; 0 before any run.
Fps fastestOf(const Ground& ground);

/// Sets that none beats: none that shows as much or more holds a higher rate, as far as the search looked (at most
/// `most` rates, evenly spaced). From the slowest, which shows the most. Errors: LacksRuns, Cancelled.
Result<std::vector<Standpoint>> frontOf(const Ground& ground, const Context& context = {}, std::size_t most = 48);

/// The best set at one rendered size, or at a lower rendered rate between whose frames others are invented.
struct Way {
    game::Size size; // at which it renders
    Proposal proposal;
    std::optional<Fps> base = {}; // rendered, where others are invented
    double inventedMs = 0;        // of the GPU, that they take of a rendered frame
};
/// The best set at every rendered size that has one, the largest first; nothing where the size cannot be varied.
/// Errors: LacksRuns, Cancelled.
Result<std::vector<Way>> waysTo(const Ground& ground, Fps target, const Context& context = {});

/// How much GPU memory a machine needs for a target, with its usual share left free, and the best set in it.
struct LeastMemory {
    Mebibytes size{0};
    Proposal proposal;
};
/// With at least so much of the picture; to 16 MiB. Nothing where no run tells memory, or nothing fits whatever there
/// is of it. Errors: LacksRuns, Cancelled.
Result<std::optional<LeastMemory>> leastMemoryFor(const Ground& ground, Fps target, double picture,
                                                  const Context& context = {});

/// The best set at a base rate, with so much GPU work taken by what is invented. Errors: LacksRuns, NothingFits,
/// Cancelled.
Result<Way> wayWithInvented(const Ground& ground, Fps base, double inventedMs, const Context& context = {});

/// Where a set would be over: a lane in a part.
struct Over {
    LaneOutcome lane;
    double overMs = 0; // its mean with its margin over the safe limit
};
/// By rules: what it asks of other settings is locked or cannot be set.
enum class Barred { No, Locked, CannotBeSet, ByRules };
struct WhyNot {
    std::string setting, from, to;   // the choice's level, and the one that is asked about
    Barred barred = Barred::No;      // it is not among the levels that may be chosen
    Standpoint chosen, swapped;      // the choice as it is, and with this level alone changed
    std::vector<game::Rule> broken;  // by the swapped set
    std::vector<LaneOutcome> before; // of the choice, by lane
    std::vector<LaneOutcome> after;  // of the swapped set, by lane
    std::vector<Over> over;          // where the swapped set does not fit
    std::optional<Proposal> with;    // the best set that has the level; nothing where none fits
};
/// A level against a choice that fits at the target. Errors: LacksRuns, UnknownName, Cancelled.
Result<WhyNot> whyNot(const Ground& ground, const game::Values& choice, Fps target, const cost::LevelKey& level,
                      const Context& context = {});

} // namespace impasto::choose
