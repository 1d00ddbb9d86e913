// SPDX-License-Identifier: GPL-3.0-or-later
// What every measured level costs, the choice that follows from it, and what runs of it say.
#pragma once

#include <impasto/choose/propose.h>
#include <impasto/results/runs.h>

namespace impasto::results {

/// A part of its own where nothing was recorded: the moment at which the counter showed least. A cap clips the rest of
/// a route, so that its average says little of where the route is heavy.
inline constexpr const char* leastSeen = "least seen";
/// How far that moment may lie under the target: a hitch may have been in it.
inline constexpr double leastSeenShare = 0.97;

/// Test runs that were skipped by hand: their player cannot set them.
struct Skipped {
    std::vector<std::pair<std::string, std::string>> levels; // setting and level, where an order changed that alone
    std::vector<game::Values> sets;
};

/// Whether runs of an earlier session count: not where there are none, or none that can be set here.
enum class Earlier { None, Counts, FitsNoMore };

/// What the runs without a cap say of the costs.
struct Costs {
    choose::Ground ground;                // empty until a run tells a time
    std::vector<choose::LaneCosts> lanes; // against the settings in use
    std::optional<cost::LevelCosts> gpuMemory;
    std::optional<double> systemMemoryMib; // of the settings in use
    std::vector<cost::Set> tried;          // sets of the runs that count, and of those that were skipped
    std::vector<cost::SeenRun> seen;       // the runs that count
    std::size_t runs = 0;
    bool hidden = false; // from frame times alone: CPU and GPU were never seen themselves
    Earlier earlier = Earlier::None;
    bool askedFits = true;      // some set leaves room for what is asked of watts; where none does, none is sought
    double tighter = 1;         // the safe limits are divided by it: sets that should have fitted missed the target
    double tighterGpu = 1;      // and that of the GPU by this: what is asked besides the rate was not kept
    bool askedMissed = false;   // by some set
    std::size_t missedSets = 0; // how many, in either
    [[nodiscard]] const choose::LaneCosts* of(run::Lane lane) const;
};

/// The test run that tells most next, or that a walk asks for; of that no expectation is told.
struct NextRun {
    std::optional<game::Values> values; // none: another run would hardly change the choice
    double gain = 0;                    // picture that the choice is expected to miss, as a share of its own
    double chance = 0;                  // at least, that one run of the choice so far stays within its limits
    std::vector<std::string> asks;      // settings whose levels differ among what may be best
    bool ladder = false;                // it tells CPU and GPU apart
    std::size_t least = 0, most = 0;    // test runs that are still expected
};
/// A gain under which another run is not worth its minutes, where nobody says another.
inline constexpr double goodEnough = 0.01;
/// After so many test runs the best so far is tried whatever is not known.
inline constexpr std::size_t mostTestRuns = 24;

/// The exact choice, or why there is none.
struct Proposed {
    std::optional<choose::Proposal> proposal;
    std::optional<Error> error;
    bool keepsPicture = true; // the proposal shows as much of the picture as is asked for
    // Where nothing fits the target, or nothing with so much of the picture:
    std::optional<Fps> reaches; // the highest rate, in whole fps, that some set with that picture holds in every part
    std::optional<choose::Proposal> instead; // the best set for it
    // The same where less of the picture is accepted, if that is more:
    std::optional<Fps> lessReaches;
    std::optional<choose::Proposal> less;
    bool walked = false;                   // a walk is taken: the proposal is the set that held and shows most
    std::optional<choose::Proposal> exact; // and this what the costs would give; nothing where none fits them
};

/// What runs of the accepted choice without a cap say against it.
struct Check {
    std::size_t runs = 0;
    std::vector<choose::LaneOutcome> measured; // means in the worst part, standard errors between runs
    bool holds = true;                         // every lane stays within its usable share of the frame
    bool reaches = true;                       // every lane stays within the whole frame
};

/// The ground of a choice, for drags that solve again; nothing before a run tells a time.
std::optional<choose::Ground> groundOf(const Results& results);

/// Of the time that frames may fill at most for what is asked of power, heat, fan and battery; none: no settings are
/// expected to keep that.
std::optional<double> fillOf(const Results& results);
/// Share of the budget that the mean of a lane may fill, in the part that is nearest to its limit; before any run as
/// said by hand, or the rule of thumb.
double safeShareOf(const document::Session& session, const Results& results, run::Lane lane);
/// What a lane's mean may take at a target, ms, in the part that leaves it least: its safe limit less what lies beside.
double usableMs(const document::Session& session, const Results& results, run::Lane lane, Fps target);
/// Where nothing fits the target: the highest rate that fits, as far as is known.
std::optional<Fps> reachableOf(const Results& results);
/// nullptr where there is none.
const choose::Proposal* proposalOf(const Results& results);

std::vector<Stage> costStages();
std::vector<Stage> choiceStages(); // of the costs, and of the walk that is taken

} // namespace impasto::results
