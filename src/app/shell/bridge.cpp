// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/bridge.h"

namespace impasto::app {

void Bridge::post(std::function<void()> call) const {
    QMetaObject::invokeMethod(m_target.get(), std::move(call), Qt::QueuedConnection);
}

} // namespace impasto::app
