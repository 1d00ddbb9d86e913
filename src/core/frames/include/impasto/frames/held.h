// SPDX-License-Identifier: GPL-3.0-or-later
// When a frame is on time and a rate is held. One definition for a run, a proof, a choice and the simulator's truth
// (docs/method.md).
#pragma once

#include <impasto/frames/summary.h>
#include <impasto/run/run.h>
#include <span>

namespace impasto::frames {

/// For frames that were shown with a sync on a panel: where the panel paces them, each is meant for a refresh. Without
/// a variant (a dropped log) the frames were not paced, unless the panel is worn.
OnTime onTimeOf(Fps target, double tolerance, const std::optional<display::Panel>& panel, const run::Variant* variant);

/// The refresh that a headset's runtime paces the frames to, ms; nothing elsewhere.
std::optional<double> pacedMsOf(const std::optional<display::Panel>& panel, const run::Variant* variant);

/// How one part of a run kept to a target.
struct PartHeld {
    std::string part;
    std::size_t frames = 0;
    Fps average;
    double onTimeShare = 0;
    Fps slowestSecond; // the average, where the part is shorter than one
};
std::vector<PartHeld> heldParts(const capture::Capture& capture, const OnTime& rule);

/// What a held rate asks of every part: the average from 99% of the target (a limiter is late), the wished share of
/// frames on time, and no second under 90% of the target.
inline constexpr double heldAverage = 0.99, heldSecond = 0.90;
enum class HeldFigure { Average, OnTime, SlowestSecond };
inline constexpr std::array<HeldFigure, 3> allHeldFigures{HeldFigure::Average, HeldFigure::OnTime,
                                                          HeldFigure::SlowestSecond};
/// In fps, or a share.
double valueOf(const PartHeld& part, HeldFigure figure);
/// The least value that is held.
double boundOf(HeldFigure figure, Fps target, double onTimeShare);
/// In every part.
bool isHeld(std::span<const PartHeld> parts, Fps target, double onTimeShare);

} // namespace impasto::frames
