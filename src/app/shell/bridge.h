// SPDX-License-Identifier: GPL-3.0-or-later
// The one way from a worker to the window: a queued call on the window's thread.
#pragma once

#include <QtCore/QObject>
#include <functional>

namespace impasto::app {

class Bridge {
  public:
    Bridge() : m_target(std::make_unique<QObject>()) {}
    /// From any thread; runs later on the thread that made the bridge, unless the bridge is gone by then.
    void post(std::function<void()> call) const;

  private:
    std::unique_ptr<QObject> m_target;
};

} // namespace impasto::app
