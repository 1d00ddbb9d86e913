// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

#include <filesystem>

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
    std::string setting; // that is edited; empty: none
};

/// An underlined value that a click corrects; one without text is not known.
void benchValue(Sheet& sheet, QRectF place, const QString& id, const QString& name, const QString& text,
                const QString& edit);
/// The state that every run is played in; gives the y below it.
double playedIn(Sheet& sheet, const View& view, double top);
/// One setting of the game, edited; what only its own describer says is left out for others.
void layoutSetting(Sheet& sheet, const View& view, const game::Setting& setting, bool mine);
std::vector<Hand> machineHands();
std::vector<Hand> gameHands();
Error badValue(const char* wanted, const QString& field);
Drawing layoutBench(const View& view, QSizeF size);
Drawing layoutBenchColumn(const View& view, QSizeF size);
/// Described in the program: the usual settings, played by hand.
void describeGame(Studio& studio);
void describeMachine(Studio& studio);
/// A shipped description, played by the simulator.
void openPractice(Studio& studio, const std::filesystem::path& file);
Station benchStation();

} // namespace impasto::app
