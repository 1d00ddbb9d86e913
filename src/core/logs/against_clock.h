// SPDX-License-Identifier: GPL-3.0-or-later
// Frame times held against the time stamps beside them. Private to logs.
#pragma once

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

namespace impasto::logs {

class AgainstClock {
  public:
    /// Now and then, and after a long frame, the frames since the last look against the stamps: whether they lie
    /// apart. `frames` were read, the last one of `lastMs`, and come to `atMs`; `stamp` tells the last one's, ms.
    template <class Stamp>
    [[nodiscard]] bool apart(std::size_t frames, double lastMs, double atMs, const Stamp& stamp) {
        constexpr std::size_t everyNth = 64;
        const bool longFrame = lastMs * static_cast<double>(frames) > 5 * atMs;
        if (longFrame) m_lookIn = 3; // its stamp may be the next one
        const bool soon = m_lookIn > 0 && --m_lookIn == 0;
        if (m_looked && (longFrame || m_lookIn > 0 || (!soon && frames % everyNth != 0))) return false;
        const double stampMs = stamp();
        if (std::isnan(stampMs)) return false;
        const auto before = std::exchange(m_looked, Look{stampMs, atMs, lastMs});
        if (!before) return false;
        const double clock = stampMs - before->stampMs, ended = atMs - before->atMs;
        // A stamp stands at its frame's end, or at its start.
        const double off = std::min(std::abs(clock - ended), std::abs(clock - ended + lastMs - before->lastMs));
        return off > std::max(5.0, 0.02 * ended);
    }

  private:
    struct Look {
        double stampMs, atMs, lastMs; // of the clock, of the frames' sum, of the last frame
    };
    std::optional<Look> m_looked;
    std::size_t m_lookIn = 0; // frames from now
};

} // namespace impasto::logs
