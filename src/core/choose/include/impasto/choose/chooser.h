// SPDX-License-Identifier: GPL-3.0-or-later
// The exact choice under what is believed of the costs, and the run that would tell most about it.
#pragma once

#include <cmath>
#include <impasto/base/context.h>
#include <impasto/base/error.h>
#include <impasto/choose/knapsack.h>
#include <impasto/cost/belief.h>
#include <impasto/frames/beside.h>
#include <map>
#include <span>

namespace impasto::choose {

/// Of the GPU's memory; the rest is the system's.
inline constexpr double usableMemoryShare = 0.95;

/// What a set may take: by resource (as in the belief's), part; ms, MiB.
using Room = std::vector<std::vector<double>>;

/// Levels that may be chosen: by dial, level; and rendered sizes. What settings ask of each other holds as well.
struct Allowed {
    std::vector<std::vector<bool>> levels;
    std::vector<bool> sizes;
    struct Half {                        // of a rule
        std::optional<std::size_t> dial; // nothing: the rendered size
        std::vector<bool> at;            // its levels, or sizes
        [[nodiscard]] bool holds(const cost::Set& set) const { return at[dial ? set.levels[*dial] : set.size]; }
    };
    struct Rule { // where the one holds, the other has to
        Half when, then;
        [[nodiscard]] bool obeyed(const cost::Set& set) const { return !when.holds(set) || then.holds(set); }
    };
    std::vector<Rule> rules = {};
    bool rulesKept = true; // else locks leave no set that keeps them
    /// All but what is locked at another level or cannot be set. Where that leaves no set, the rules do not count.
    static Allowed of(const cost::Layout& layout, const game::Values& locked,
                      const std::vector<std::pair<std::string, std::string>>& cannot,
                      std::span<const game::Rule> asked = {});
    [[nodiscard]] bool has(const cost::Set& set) const;
    [[nodiscard]] bool obeyed(const cost::Set& set) const;
    /// The same sets, as lists without rules; none where the rules leave none.
    [[nodiscard]] std::vector<Allowed> apart() const;
    /// A set whose broken rules are obeyed by moving what they ask for, as far as that is allowed.
    [[nodiscard]] cost::Set obeying(cost::Set set) const;
};

struct Best {
    cost::Set set;
    double picture = 0; // 0 to 1
    bool fits = false;  // else the set that comes nearest
    bool proven = false;
    double pictureGap = 0; // how much more picture could exist, at most; 0 when proven
    std::uint64_t nodes = 0;
};

/// How sure a set is, where it is nearest to its limit.
struct Standing {
    double sure = 0;   // least (usable - mean) / sd of one run, over all resources, parts and models that matter
    double chance = 0; // at least, that one run of it is within the room everywhere
};

/// A set fits up to so much of the room: whole units and doubt are no finer.
inline constexpr double fitTolerance = 1.0005;

/// Doubt that a choice allows for, in standard deviations of one run in every part: about 93% each.
inline constexpr double usualSafety = 1.5;

/// Where earlier searches ended: those for much the same room begin there.
struct Footings {
    std::map<std::pair<std::size_t, std::size_t>, Footing> searches; // by list of levels, rendered size
    std::vector<double> shift; // by limit: what the sums apart lay above the set as it is
};

/// What a choice may cost.
struct Pains {
    std::uint64_t nodes = 200'000; // of each search
    double mayMiss = 0;            // of the picture
    Footings* footings = nullptr;  // begun at, and left where it ended
};

class Chooser {
  public:
    /// `beside`: by part; none: nothing in any.
    Chooser(cost::Belief belief, const game::Game& game, Allowed allowed, std::vector<frames::BesideGpu> beside = {});

    /// The most picture that fits with so many standard deviations of doubt. Errors: Cancelled.
    [[nodiscard]] Result<Best> best(const Room& room, double safety, const Context& context = {},
                                    const Pains& pains = {}) const {
        return bestOf(m_allowed, room, safety, context, pains);
    }
    /// The same of other levels than usual: with one of them forced, say.
    [[nodiscard]] Result<Best> bestOf(const Allowed& allowed, const Room& room, double safety,
                                      const Context& context = {}, const Pains& pains = {}) const;
    /// The most picture that would fit if a draw were true; nothing where none does.
    [[nodiscard]] std::optional<Best> best(const Room& room, const cost::Belief::Draw& draw,
                                           Footings* footings = nullptr) const;
    [[nodiscard]] Standing standing(const cost::Set& set, const Room& room) const;
    /// A set's sums against the room, with so many standard deviations of doubt: the highest share of it that any
    /// resource takes in any part, of CPU and GPU, and of memory.
    struct Filled {
        double time = 0, memory = 0;
    };
    [[nodiscard]] Filled filled(const cost::Set& set, const Room& room, double safety) const;
    [[nodiscard]] double picture(const cost::Set& set) const;
    /// What a set takes of a resource in a part, of the GPU with what lies beside it.
    struct Takes {
        double mean = 0, beside = 0; // ms, MiB; what of it is none of its own
        double variance = 0;         // of the mean as it is
        double ofRun = 0;            // what one run's mean varies by besides
        [[nodiscard]] double deviation() const { return std::sqrt(variance + ofRun); }
    };
    [[nodiscard]] Takes takes(std::size_t resource, std::size_t part, const cost::Set& set,
                              std::size_t model = 0) const;
    [[nodiscard]] const Allowed& allowed() const { return m_allowed; }
    [[nodiscard]] const cost::Belief& belief() const { return m_belief; }

  private:
    struct Row { // a limit
        std::size_t resource = 0, part = 0, model = 0;
        std::vector<cost::ToldTogether> bySize; // with the noise of one run
    };
    /// Over the rendered sizes, and the lists that the rules leave, the most picture first.
    template <class Problems>
    [[nodiscard]] std::optional<Best> over(const Allowed& allowed, const Problems& problemAt, const Pains& pains,
                                           const Context& context) const;
    /// Mean and standard deviation of a row's sums for a set; without what settings do to each other.
    [[nodiscard]] std::pair<double, double> linearOf(const Row& row, const cost::Set& set) const;
    [[nodiscard]] double meanOf(const Row& row, const cost::Set& set) const; // of these sums
    [[nodiscard]] std::pair<double, double> trueOf(const Row& row, const cost::Set& set) const;
    [[nodiscard]] frames::BesideGpu besideOf(std::size_t resource, std::size_t part) const; // nothing of what is no GPU
    [[nodiscard]] cost::Set safest(const Allowed& allowed, const Room& room) const;
    struct Excess {
        bool fits = true;
        std::vector<double> shift; // by row: what the sums apart lie above the set as it is, with its doubt
    };
    [[nodiscard]] bool fits(const cost::Set& set, const Room& room, double safety) const;
    [[nodiscard]] cost::Set raised(cost::Set set, const Allowed& allowed, const Room& room, double safety,
                                   int atOnce) const;
    /// Ways to run left as they are where another gains no picture.
    [[nodiscard]] cost::Set asItRuns(cost::Set set, const Allowed& allowed, const Room& room, double safety) const;
    void moveTo(Best& best, cost::Set set) const; // that shows as much, or more
    [[nodiscard]] Excess excessAt(const cost::Set& set, const Room& room, double safety) const;
    [[nodiscard]] Problem problemAt(std::size_t size, const std::vector<std::vector<std::size_t>>& levels,
                                    const Room& room, double safety, const std::vector<double>& shift) const;

    cost::Belief m_belief;
    Allowed m_allowed;
    std::vector<frames::BesideGpu> m_beside;
    std::size_t m_cpu = 0; // its index among the resources
    std::vector<Row> m_rows;
    std::vector<std::vector<std::int64_t>> m_values; // by dial, level
    std::vector<std::int64_t> m_sizeValues;
    std::vector<std::size_t> m_first; // column of a dial's second level
};

/// What to run next.
struct Advice {
    Best best;                     // of what is known
    Standing standing;             // of it
    std::optional<cost::Set> next; // nothing: another run would not change the choice by more than is good enough
    bool ladder = false;           // it tells CPU and GPU apart
    double gain = 0;               // picture that the choice is expected to miss, as a share of its own
    std::vector<std::size_t> asks; // dials whose levels differ among what may be best
};

/// `tried`: sets that were run, or that cannot be. `enough`: a share of the picture. Errors: Cancelled.
Result<Advice> advise(const Chooser& chooser, const Room& room, const std::vector<cost::Set>& tried, double enough,
                      std::uint64_t seed, const Context& context = {});

} // namespace impasto::choose
