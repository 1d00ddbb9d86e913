// SPDX-License-Identifier: GPL-3.0-or-later
// What of the picture matters, asked in pairs.
#pragma once

#include "stations/layers/layers.h"

#include <impasto/choose/prefer.h>

namespace impasto::app {

class Studio;

struct MattersState {
    std::uint64_t game = 0;              // the mark of the one that the answers are about
    std::vector<choose::Missed> answers; // that were not taken yet
};

/// Two settings, of which the one that would be missed more is pressed, and the weights that follow.
Drawing layoutMatters(const View& view, QSizeF size);
Drawing layoutMattersColumn(const View& view, QSizeF size);
std::vector<Hand> mattersHands();
/// Says that the first of the two would be missed more.
void answerFirst(Studio& studio);

} // namespace impasto::app
