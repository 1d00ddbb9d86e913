// SPDX-License-Identifier: GPL-3.0-or-later
// What a careful person looks for in a run before its figures are believed. Rules and thresholds: docs/method.md
// (common practice, no source).
#pragma once

#include <impasto/capture/trim.h>
#include <impasto/run/run.h>
#include <span>

namespace impasto::frames {

enum class Finding {
    Flattened,   // a cap or sync holds frames: neither lane fills them, or they last alike
    Drifts,      // looked for where the run has parts: the second half of each part is slower or faster than its first
    Sags,        // a stretch is slower than the same place in its siblings
    StandsStill, // a work reading never moves: it is a wait; of a log without readings nothing
    Stalled,     // the frames nearly stop for a while
    TooShort,    // the 1% low rests on few frames
    Unlike,      // its siblings agree, it does not
    NotApplied,  // a level was changed, and nothing that it pays for moved
    Background   // the machine's CPU was busier than in its siblings, and the frames were no faster for it
};
std::string_view keyOf(Finding finding);
struct Examined {
    Finding finding = Finding::Flattened;
    bool found = false;
    /// Flattened: share of the time that is held. Drifts: relative change. Sags: relative change of the rate.
    /// StandsStill: 1 for the CPU, 2 for the GPU, 3 for both. Stalled: seconds. TooShort: frames that the 1% low is
    /// from. Unlike: relative difference from the siblings. Background: points of CPU load above them. NotApplied:
    /// relative change, or of a cap the average over it.
    double figure = 0;
    /// False where it may be otherwise. Flattened: no lane tells whether a cap holds the frames. Unlike, not found: too
    /// few siblings to tell. NotApplied: what was changed is not what limits.
    bool sure = true;
    std::optional<capture::Span> where = {}; // Sags
};
/// Of one run by itself; of an empty one nothing.
std::vector<Examined> examine(const capture::Capture& capture);
struct Ends {
    bool begin = false, end = false;
    friend bool operator==(const Ends&, const Ends&) = default;
};
/// Stretches at the ends that look like loading, a menu or idling and not like the route; nothing is left out by
/// itself, and a stall inside is evidence. Menus are looked for only where no marks say where the route begins. Half of
/// what is asked for otherwise is enough at the `expected` ends.
std::vector<capture::Span> pollutionOf(const capture::Capture& capture, Ends expected = {});
/// Where more than half of the runs of a route, two at least, have something proposed.
Ends expectedIn(std::span<const std::vector<capture::Span>> proposed);
/// One thing that a changed level pays for: in the run, and in the runs before the change.
struct Paid {
    double now = 0;
    std::vector<double> before;
};
/// Whether nothing moved by 1%, or by 0.1% and two deviations of the runs before; nothing under two of those. Not sure
/// where frame times stand for the lanes: another lane may limit.
std::optional<Examined> notApplied(std::span<const Paid> paid, bool lanesTell = true);
/// Whether a run goes beyond the cap it was ordered with.
Examined capNotApplied(Fps average, Fps cap);
/// What a run tells of the machine around it.
struct Load {
    double cpuPercent = 0; // of the whole machine
    double averageFps = 0;
};
/// The run at `index` among runs of one variant; nothing under four.
std::optional<Examined> background(std::span<const Load> runs, std::size_t index);
/// How evenly runs of one variant ran.
struct Evenness {
    static constexpr double mostSpread = 0.05; // of a fixed route; common practice, no source
    double spread = 0;                         // between the slowest and the fastest average, a share of their median
    double most = mostSpread;                  // of runs that are even
    std::optional<std::size_t> odd;            // the one without which the others are even, where they are not with it
    [[nodiscard]] bool even() const { return spread <= most; }
};
Evenness evennessOf(std::span<const double> averages, double mostSpread = Evenness::mostSpread);
/// The run at `index` among runs of one variant; nothing under four. Of few runs only one is named that is far off.
std::optional<Examined> unlike(std::span<const double> averages, std::size_t index);

/// Share of the time that a cap or sync must hold of a run that was to be free, for it to be another run.
inline constexpr double mostlyHeld = 0.6;

} // namespace impasto::frames
