// SPDX-License-Identifier: GPL-3.0-or-later
// The one way from a worker to the window: a call that runs later on the window's thread. Each open session has its
// own, so that what a session's workers still say once it is closed is heard by nobody.
#pragma once

#include <deque>
#include <functional>
#include <memory>
#include <mutex>

namespace impasto::app {

/// Hands a call to the window's thread, from any thread; it runs there later, in order.
using Deliver = std::function<void(std::function<void()>)>;

class Bridge {
  public:
    explicit Bridge(Deliver deliver) : m_state(std::make_shared<State>()) { m_state->deliver = std::move(deliver); }
    /// From any thread; runs later on the window's thread, unless the bridge is closed by then.
    void post(std::function<void()> call) const;
    /// On the window's thread: drops every call on its way, and those still to come.
    void close();

  private:
    struct State {
        std::mutex mutex;
        std::deque<std::function<void()>> calls;
        bool closed = false;
        Deliver deliver;
    };
    std::shared_ptr<State> m_state;
};

} // namespace impasto::app
