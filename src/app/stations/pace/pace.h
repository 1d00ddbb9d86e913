// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

namespace impasto::app {

enum class PaceFace { Caps, Generation };

struct PaceState {
    std::optional<PaceFace> face;          // none: what is chosen, or is to be taken
    std::optional<std::size_t> generation; // that is looked at, of the plan's; none: the chosen or the best one
    std::size_t frame = 0;                 // that is followed, of the replay
    std::optional<double> dragged;         // the cap under the hand, fps
    bool frames = false;                   // they are shown instead of the caps, where there is no room for both
};

Drawing layoutPace(const View& view, QSizeF size);
Drawing layoutPaceColumn(const View& view, QSizeF size);
/// The plan that is shown: the chosen one, else the one to take.
pace::CapPlan shownPlan(const View& view);
/// What the frames are paced to; under the hand, where the knob is.
std::optional<Fps> shownCap(const View& view);
/// Cap by pixel in the picture.
Scale paceCapScale(const View& view, QSizeF size);
/// Ten frames on their rows; gives their end.
double drawFrames(Sheet& sheet, const View& view, double top);
PaceFace paceFace(const View& view);
/// Caps, or plans with invented frames, at the right of the title.
void drawPaceFaces(Sheet& sheet, const View& view);
/// The cap against average, lows and goals.
void drawCaps(Sheet& sheet, const View& view, double top);
/// The plan with invented frames that is shown, and which of its list; nullptr without any.
const pace::GenerationOffer* shownGeneration(const View& view);
Drawing layoutGeneration(const View& view, QSizeF size);
Drawing layoutGenerationColumn(const View& view, QSizeF size);
Drawing layoutWorn(const View& view, QSizeF size);
Drawing layoutWornColumn(const View& view, QSizeF size);
/// The slowest frame after the ten that are shown, or the slowest of all.
void nextWorstFrame(Studio& studio);
Station paceStation();

} // namespace impasto::app
