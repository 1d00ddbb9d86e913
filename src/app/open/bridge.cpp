// SPDX-License-Identifier: GPL-3.0-or-later
#include "open/bridge.h"

namespace impasto::app {

void Bridge::post(std::function<void()> call) const {
    {
        const std::lock_guard lock(m_state->mutex);
        if (m_state->closed) return;
        m_state->calls.push_back(std::move(call));
    }
    m_state->deliver([state = m_state] {
        std::function<void()> next;
        {
            const std::lock_guard lock(state->mutex);
            if (state->calls.empty()) return; // closed meanwhile
            next = std::move(state->calls.front());
            state->calls.pop_front();
        }
        next();
    });
}

void Bridge::close() {
    std::deque<std::function<void()>> dropped; // what they hold is let go outside the lock
    const std::lock_guard lock(m_state->mutex);
    m_state->closed = true;
    dropped.swap(m_state->calls);
}

} // namespace impasto::app
