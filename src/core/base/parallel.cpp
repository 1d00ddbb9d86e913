// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/parallel.h>

#include <algorithm>
#include <atomic>
#include <exception>
#include <mutex>
#include <thread>
#include <vector>

namespace impasto {

std::size_t threadsAtOnce() {
    return std::max(1U, std::thread::hardware_concurrency());
}

void inParallel(std::size_t count, const std::function<void(std::size_t)>& work) {
    std::atomic<std::size_t> next = 0;
    std::mutex mutex;
    std::exception_ptr thrown;
    const auto loop = [&] {
        try {
            for (std::size_t i = next++; i < count; i = next++) work(i);
        } catch (...) {
            const std::lock_guard lock(mutex);
            if (!thrown) thrown = std::current_exception();
            next = count; // what has not begun is left
        }
    };
    const std::size_t threads = std::min(count, threadsAtOnce());
    {
        std::vector<std::jthread> others;
        for (std::size_t i = 1; i < threads; ++i) others.emplace_back(loop);
        loop();
    }
    if (thrown) std::rethrow_exception(thrown);
}

} // namespace impasto
