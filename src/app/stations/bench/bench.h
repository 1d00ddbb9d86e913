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
};

Drawing layoutBench(const View& view, QSizeF size);
Drawing layoutBenchColumn(const View& view, QSizeF size);
/// Described in the program: the usual settings, played by hand.
void describeGame(Studio& studio);
void describeMachine(Studio& studio);
/// A shipped description, played by the simulator.
void openPractice(Studio& studio, const std::filesystem::path& file);
Station benchStation();

} // namespace impasto::app
