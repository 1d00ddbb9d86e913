// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/bridge.h"

namespace impasto::app {

void Bridge::post(std::function<void()> call) const {
    const std::lock_guard lock(m_state->mutex);
    if (m_state->target) QMetaObject::invokeMethod(m_state->target.get(), std::move(call), Qt::QueuedConnection);
}

void Bridge::close() {
    const std::lock_guard lock(m_state->mutex);
    m_state->target.reset(); // the calls that wait for it go with it
}

} // namespace impasto::app
