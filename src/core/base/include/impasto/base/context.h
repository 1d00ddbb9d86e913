// SPDX-License-Identifier: GPL-3.0-or-later
// What a long function is given: when to stop, and whom to tell how far it is. Passed by const reference.
#pragma once

#include <chrono>
#include <functional>
#include <stop_token>

namespace impasto {

/// Told a share from 0 to 1. May be empty.
using Progress = std::function<void(double)>;
/// The wall clock, passed in so that tests and pictures can fix it. Seconds since 1970, UTC.
using Clock = std::function<std::chrono::sys_seconds()>;

struct Context {
    std::stop_token stop;
    Progress progress;
    [[nodiscard]] bool cancelled() const { return stop.stop_requested(); }
    void report(double share) const {
        if (progress) progress(share);
    }
};

inline Clock systemClock() {
    return [] { return std::chrono::floor<std::chrono::seconds>(std::chrono::system_clock::now()); };
}

} // namespace impasto
