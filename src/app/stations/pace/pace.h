// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

namespace impasto::app {

enum class PaceFace { Caps, Generation, Power };

struct PaceState {
    std::optional<PaceFace> face;             // none: what is chosen, or is to be taken
    std::optional<std::size_t> generation;    // that is looked at, of the plan's; none: the chosen or the best one
    std::size_t frame = 0;                    // that is followed, of the replay
    std::optional<run::LimiterPlace> limiter; // looked at; none: as the runs have it
    std::optional<double> dragged;            // the cap under the hand, fps
    std::optional<double> draggedBase;        // the base cap under the hand, of the plan that is shown, fps
    bool frames = false; // they are shown instead of the curves, where there is no room for both; of Power, its table
};

Drawing layoutPace(const View& view, QSizeF size);
Drawing layoutPaceColumn(const View& view, QSizeF size);
/// The plan that is shown: the chosen one, else the one to take.
pace::CapPlan shownPlan(const View& view);
/// A cap of one's own, applied where the chosen one is. Needs a brief.
pace::CapPlan ownPlan(const View& view, std::optional<Fps> fps);
/// What the frames are paced to; under the hand, where the knob is.
std::optional<Fps> shownCap(const View& view);
/// Cap by pixel in the picture.
Scale paceCapScale(const View& view, QSizeF size);
/// Where the cap holds the frames that are shown.
run::LimiterPlace shownLimiter(const View& view);
/// Ten frames on their rows, and where their cap holds them; gives their end.
double drawFrames(Sheet& sheet, const View& view, double top);
PaceFace paceFace(const View& view);
/// Caps, plans with invented frames, or power, at the right of the title; gives how much of its width they take.
double drawPaceFaces(Sheet& sheet, const View& view);
/// Two pictures of which a low window has room for one; gives where they begin.
double drawPictures(Sheet& sheet, const QString& first, const QString& second, bool isFirst);
/// A figure of the player's own, to be typed; gives where the next line begins.
double drawTyped(Sheet& sheet, double x, double y, double w, const QString& id, const QString& name,
                 const QString& text);
/// Caps along x, a rate or watts along y.
void drawCapAxes(Sheet& sheet, const Scale& x, const Scale& y, double step, const QString& unit);
/// The cap, to be dragged or typed.
void drawCapKnob(Sheet& sheet, const View& view, const Scale& x, double top, double bottom);
/// The cap against average, lows and goals.
void drawCaps(Sheet& sheet, const View& view, double top);
/// The plan with invented frames that is shown: the one looked at, else the chosen one, else the best; nullptr without
/// any.
const pace::GenerationOffer* shownGeneration(const View& view);
/// What it does: as chosen, though its figures may not be computed yet, and under the hand, where the knob is.
std::optional<pace::CapPlan> shownInventing(const View& view);
/// Its base cap. None: without one.
std::optional<Fps> shownBase(const View& view);
/// Base cap by pixel in the picture.
Scale paceBaseScale(const View& view, QSizeF size);
Drawing layoutGeneration(const View& view, QSizeF size);
Drawing layoutGenerationColumn(const View& view, QSizeF size);
/// What a cap draws, and before, chosen and chosen with the cap side by side.
Drawing layoutPower(const View& view, QSizeF size);
Drawing layoutPowerColumn(const View& view, QSizeF size);
Drawing layoutWorn(const View& view, QSizeF size);
Drawing layoutWornColumn(const View& view, QSizeF size);
/// The slowest frame after the ten that are shown, or the slowest of all.
void nextWorstFrame(Studio& studio);
Station paceStation();

} // namespace impasto::app
