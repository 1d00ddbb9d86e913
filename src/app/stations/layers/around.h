// SPDX-License-Identifier: GPL-3.0-or-later
// Around the choice: every best set, ways to one rate, why a level is not in it, and what goes into the game's files.
// Computed on a worker when it is looked at.
#pragma once

#include "stations/layers/layers.h"

#include <impasto/results/power.h>
#include <impasto/wording/choice.h>

namespace impasto::app {

class Studio;

/// For the results, the choice and the target that it was computed from.
struct Around {
    std::shared_ptr<const results::Results> of;
    game::Values choice; // or, where nothing fits the target, the settings in use
    bool isChoice = true;
    Fps target{60};
    choose::Standpoint chosen;
    std::vector<choose::Standpoint> front;
    std::vector<std::pair<std::string, choose::Standpoint>> presets;
    std::vector<choose::Way>
        ways; // at most three, the choice's among them; the largest size first, invented frames last
    std::map<game::Values, pace::Draws> draws; // of all these sets, capped at the target; empty: no run tells power
    std::optional<choose::LeastMemory> leastMemory; // for the target, with as much of the picture as is asked for
    double pictureFloor = 0;
    std::optional<pace::Inventing> inventing; // how frames would be invented; none: not on this machine, or asked for
    cost::LevelKey asked;                     // "why not", and its answer
    std::optional<choose::WhyNot> answer;
    std::optional<Error> fault;
};

/// Values that go into the game: those of the run that is to be played next by hand, or else the choice.
struct ToSet {
    game::Values values;
    std::optional<run::Order> order; // of which run they are
};
std::optional<ToSet> toSetOf(const View& view);

/// What they would change in the game's files, as they were when they were looked at.
struct FilesLook {
    game::Values values;
    std::optional<config::Plan> plan;
    std::optional<Error> fault;
};

enum class LayersFace { Slabs, BestSets, Matters, Files };
struct AroundState {
    LayersFace face = LayersFace::Slabs;
    std::shared_ptr<const Around> around; // nullptr until it is computed
    cost::LevelKey asked;                 // empty: the level that would gain most
    std::optional<std::size_t> point;     // of the best sets
    std::shared_ptr<const FilesLook> files;
    std::vector<config::Written> written; // by the last press, to be taken back
};

/// The accepted choice, or the proposal, or else the baseline.
game::Values startOf(const View& view);
/// What is shown still holds for these results.
const Around* aroundOf(const View& view);

/// "95.3%"
QString pictureShare(double picture);
/// "GPU draws", by what the runs' logs tell of power.
QString drawsName(const View& view);
/// "9.1 W, 4.2 h" at the middle of what is expected of it at the target; empty where no run tells power.
QString drawsSaid(const View& view, const Around& around, const game::Values& values);
/// Side by side from top to bottom; gives where it goes on, the top where there are no two.
double drawWaysToRate(Sheet& sheet, const View& view, const Around& around, double top, double bottom);
Drawing layoutBestSets(const View& view, QSizeF size);
Drawing layoutBestSetsColumn(const View& view, QSizeF size);
Drawing layoutFiles(const View& view, QSizeF size);
Drawing layoutFilesColumn(const View& view, QSizeF size);
/// The words at the easel's top of which one is chosen.
void drawFaces(Sheet& sheet, const View& view);
double facesWidth(); // what they take

/// What the face in view needs is computed, or read, where that is not yet done.
void lookAround(Studio& studio);
std::vector<Hand> aroundHands();
std::vector<Key> aroundKeys();

} // namespace impasto::app
