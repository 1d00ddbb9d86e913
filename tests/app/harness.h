// SPDX-License-Identifier: GPL-3.0-or-later
// The real window, driven offscreen.
#pragma once

#include "shell/shots.h"
#include "stations/bench/bench.h"
#include "stations/layers/layers.h"
#include "stations/pace/pace.h"
#include "stations/runs/runs.h"
#include "support/support.h"

namespace impasto::app {

/// A studio with a logbook in a folder of its own, and its window.
class Driven {
  public:
    explicit Driven(const support::TemporaryFolder& folder, bool latest = false, const logs::ReadOptions& reading = {});
    Studio studio;
    std::unique_ptr<Window> window;

    /// Waits until nothing is under way; fails the test after that much waiting.
    void rest();
    void key(int key, Qt::KeyboardModifiers modifiers = Qt::NoModifier);
    void click(Picture* picture, const QString& id);
    void drop(const std::vector<std::filesystem::path>& files);
    [[nodiscard]] const View& view() const { return studio.view(); }
    /// Presses Space until the action comes next, at most `presses` times.
    bool spaceUntil(path::Action action, int presses = 60);
};

/// A frame log with frame times only.
std::string frameLog(const std::vector<double>& frameMs);

} // namespace impasto::app
