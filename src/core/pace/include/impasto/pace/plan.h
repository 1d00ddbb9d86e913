// SPDX-License-Identifier: GPL-3.0-or-later
// How frames are held back and shown together: a cap, the sync and the panel's mode it runs with, and what of that a
// panel allows. Common practice, no source.
#pragma once

#include <impasto/run/run.h>

namespace impasto::pace {

/// How far above an even rate a cap stands under a fixed panel's sync: a limiter at the refresh itself drifts against
/// it.
inline constexpr double aboveEven = 1.005;

struct CapPlan {
    std::optional<Fps> cap;
    run::Sync sync = run::Sync::None;
    std::optional<Hertz> refresh = {}; // the panel's mode; none: as it is set
    std::optional<run::Generation> generation = {};
    std::optional<run::LimiterPlace> limiter = {}; // where the cap is applied; none: where it was while measuring
    friend bool operator==(const CapPlan&, const CapPlan&) = default;
    /// What the frames are paced to: the cap, or a fixed panel's refresh where its sync alone holds them; else nothing.
    [[nodiscard]] std::optional<Fps> pacedTo() const;
};

/// Why a plan works against the panel.
enum class CapConflict {
    AbovePanel,   // faster than the panel's fastest mode
    InsideMargin, // so near the top of the variable range that a late frame leaves it
    NoCap,        // a variable range is left at the top
    Uneven,       // a fixed panel shows such frames for differing numbers of refreshes
    Headset       // its runtime paces the frames already
};

/// Every rate that the panel can be set to, ascending; empty where its rate is not known.
std::vector<Hertz> modesOf(const std::optional<display::Panel>& panel);
/// The fastest rate that a cap may have on the panel; nothing where the panel's rate is not known. `limiterErrorMs`:
/// how late a limiter is at its p99.
std::optional<Fps> fastestCap(const std::optional<display::Panel>& panel, double limiterErrorMs);
/// A rate that every mode of the panel misses can never be seen: the fastest mode, where a target lies above it.
std::optional<Hertz> beyondPanel(const std::optional<display::Panel>& panel, Fps target);

/// The slowest mode of a headset that shows the target; nothing elsewhere, and where it is the one that is set.
std::optional<Hertz> headsetMode(const std::optional<display::Panel>& panel, Fps target);

/// What a person may set the sync to with a cap, in turn: variable ones where the panel follows the cap.
std::vector<run::Sync> syncsOf(const std::optional<display::Panel>& panel, std::optional<Fps> cap);
/// Sync and mode for a cap: inside a variable range the panel follows; below it, and on a fixed panel for a style that
/// paces to the target, an even rate runs with the panel's sync, a little above the even rate (R / k x 1.005), because
/// a limiter at the refresh itself drifts against it; at the refresh the sync alone holds it.
CapPlan planFor(std::optional<Fps> cap, const std::optional<display::Panel>& panel, run::Style style,
                double limiterErrorMs);
/// Even rates of every mode from `lowest` up, each with its sync; ascending.
std::vector<CapPlan> evenPlans(const display::Panel& panel, Fps lowest);
/// Nothing where the plan suits the panel, or the panel is not known.
std::optional<CapConflict> conflictOf(const CapPlan& plan, const std::optional<display::Panel>& panel,
                                      double limiterErrorMs);

} // namespace impasto::pace
