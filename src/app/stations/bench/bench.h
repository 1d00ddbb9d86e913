// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

#include <filesystem>
#include <impasto/checklist/checklist.h>
#include <impasto/game/start.h>

namespace impasto::app {

/// A shipped description that the simulator can play.
struct Practice {
    bool isMachine = false;
    QString name, note;
    std::filesystem::path file;
};

/// What Bench offers.
struct BenchState {
    std::vector<game::Setting> usualSettings;
    std::vector<Practice> practice;
    std::vector<checklist::Point> points;
    std::string setting;  // that is edited; empty: none
    bool checks = false;  // below the machine: its checklist, in place of how it is played and with which settings
    std::string point;    // of the checklist, that is looked at; empty: none
    bool reading = false; // the machine is being read
};

/// Where the parts of the machine's path stand.
struct Wired {
    double left = 24, width = 0, gap = 0, pitch = 0, room = 0; // room: for words under a part
};
Wired wiredIn(const Sheet& sheet);
/// The path of a frame through the machine; gives the y below it.
double layoutWired(Sheet& sheet, const View& view, double top);

/// How the points of the checklist stand, under the part that each belongs to.
void layoutChecks(Sheet& sheet, const View& view, double top);
/// One of them: why, how to see it, how to change it; nullptr where none is looked at.
const checklist::Point* pointInView(const View& view);
void layoutPoint(Sheet& sheet, const View& view, const checklist::Point& point);
checklist::Counts countsOf(const View& view);
std::vector<Hand> checkHands();
/// What lies below the machine is shown, or the other.
void showChecks(Studio& studio, bool checks);
/// This machine, read from the system; where nothing can be read, a new one to be typed.
void readThisMachine(Studio& studio);

/// An underlined value that a click corrects; one without text is not known.
void benchValue(Sheet& sheet, QRectF place, const QString& id, const QString& name, const QString& text,
                const QString& edit);
/// The state that every run is played in; gives the y below it.
double playedIn(Sheet& sheet, const View& view, double top);
/// One setting of the game, edited; what only its own describer says is left out for others.
void layoutSetting(Sheet& sheet, const View& view, const game::Setting& setting, bool mine);
std::vector<Hand> machineHands();
/// What the brief's style is known to start from; nullptr without a game, or where it has none.
const game::StyleSet* usualStart(const View& view);
std::vector<Hand> gameHands();
Error badValue(const char* wanted, const QString& field);
Drawing layoutBench(const View& view, QSizeF size);
Drawing layoutBenchColumn(const View& view, QSizeF size);
/// Described in the program: the usual settings, played by hand.
void describeGame(Studio& studio);
void typeMachine(Studio& studio);
/// A shipped description, played by the simulator.
void openPractice(Studio& studio, const std::filesystem::path& file);
Station benchStation();

} // namespace impasto::app
