// SPDX-License-Identifier: GPL-3.0-or-later
// The slabs of Layers as data.
#pragma once

#include "stations/layers/layers.h"

namespace impasto::app {

struct Layer {
    std::string setting; // empty: what the frame costs with all settings at their lowest level
    QString label, level;
    double ms = 0; // against the setting's lowest level, in the worst part, on what lies below it
    std::optional<double> halfWidth;
    bool usual = false;           // no run has changed the setting yet: it is as thick as usual
    std::optional<double> atMost; // from frame times that hardly showed this lane: no more than that is known
    int step = 0;                 // the walk's next step lowers it, -1, or raises it, 1
};

struct Stack {
    run::Lane lane = run::Lane::Frame;
    std::vector<Layer> layers; // from the floor up: the fixed one, then by cost
    double totalMs = 0;
    double halfWidth = 0; // of the total
};

/// The stacks of the start values, or of `values`; empty without costs.
std::vector<Stack> stacksOf(const View& view, const std::optional<game::Values>& values = {});

/// Of a level from the start level on a lane in its worst part, with its half width; 0 for the start level; nothing for
/// a level that no choice may take.
struct Difference {
    double ms = 0;
    std::optional<double> halfWidth;
};
std::optional<Difference> differenceOf(const View& view, const choose::LaneCosts& lane, const std::string& setting,
                                       const std::string& level);

inline constexpr double fanWidth = 246;
/// The levels of the opened setting, fanned out from its slab: each line starts where the slab would end.
struct FanPlace {
    QRectF slab;         // of the opened setting
    double pxPerMs = 10; // of the column
    double left = 0;     // of the levels
    double clearOf = 0;  // the budget line, whose handle stays free
    QRectF within;
};
void drawFan(Sheet& sheet, const View& view, const Stack& stack, const FanPlace& place);

/// The choice that the narrow column shows: the one under the hand, the accepted one, or the proposal.
struct ShownChoice {
    game::Values values;
    std::vector<choose::LaneOutcome> lanes;
    bool accepted = false;
};
std::optional<ShownChoice> choiceOf(const View& view);

} // namespace impasto::app
