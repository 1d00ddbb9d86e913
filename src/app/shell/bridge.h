// SPDX-License-Identifier: GPL-3.0-or-later
// The one way from a worker to the window: a queued call on the window's thread. Each open session has its own, so that
// what a session's workers still say once it is closed is heard by nobody.
#pragma once

#include <QtCore/QObject>
#include <functional>
#include <memory>
#include <mutex>

namespace impasto::app {

class Bridge {
  public:
    Bridge() : m_state(std::make_shared<State>()) {}
    /// From any thread; runs later on the thread that made the bridge, unless it is closed by then.
    void post(std::function<void()> call) const;
    /// On the thread that made it: drops every call on its way, and those still to come.
    void close();

  private:
    struct State {
        std::mutex mutex;
        std::unique_ptr<QObject> target = std::make_unique<QObject>();
    };
    std::shared_ptr<State> m_state;
};

} // namespace impasto::app
