// SPDX-License-Identifier: GPL-3.0-or-later
// What a careful person looks for in a run before its figures are believed. Rules and thresholds: docs/method.md
// (common practice, no source).
#pragma once

#include <impasto/capture/trim.h>
#include <impasto/run/run.h>
#include <span>

namespace impasto::frames {

enum class Finding {
    Flattened,   // a cap or sync holds most frames: neither lane fills them, or they last alike
    Drifts,      // looked for where the run has parts: the second half of each part is slower or faster than its first
    StandsStill, // a work reading never moves: it is a wait
    TooShort,    // the 1% low rests on few frames
    Unlike,      // its siblings agree, it does not
    NotApplied,  // a level was changed, and nothing that it pays for moved
    Background   // the machine's CPU was busier than in its siblings, and the frames were no faster for it
};
std::string_view keyOf(Finding finding);
struct Examined {
    Finding finding = Finding::Flattened;
    bool found = false;
    /// Flattened: share of the frames that are held. Drifts: relative change. StandsStill: 1 for the CPU, 2
    /// for the GPU, 3 for both. TooShort: frames that the 1% low is from. Unlike: relative difference from the
    /// siblings. Background: points of CPU load above them.
    double figure = 0;
};
/// Of one run by itself; of an empty one nothing.
std::vector<Examined> examine(const capture::Capture& capture);
/// Stretches that look like loading, a menu, idling or a stall and not like the route; nothing is left out by itself.
std::vector<capture::Span> pollutionOf(const capture::Capture& capture);
/// One thing that a changed level pays for: in the run, and in the runs before the change.
struct Paid {
    double now = 0;
    std::vector<double> before;
};
/// Whether nothing moved by 1%, or by 0.1% and two deviations of the runs before; nothing under two of those.
std::optional<Examined> notApplied(std::span<const Paid> paid);
/// What a run tells of the machine around it.
struct Load {
    double cpuPercent = 0; // of the whole machine
    double averageFps = 0;
};
/// The run at `index` among runs of one variant; nothing under four.
std::optional<Examined> background(std::span<const Load> runs, std::size_t index);
/// How evenly runs of one variant ran.
struct Evenness {
    double spread = 0;              // between the slowest and the fastest average, a share of their median
    std::optional<std::size_t> odd; // the one without which the others are even, where they are not with it
    [[nodiscard]] bool even() const { return spread <= mostSpread; }
    static constexpr double mostSpread = 0.05; // common practice, no source
};
Evenness evennessOf(std::span<const double> averages);
/// The run at `index` among runs of one variant; nothing under four.
std::optional<Examined> unlike(std::span<const double> averages, std::size_t index);

} // namespace impasto::frames
