// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/parallel.h>

#include <algorithm>
#include <atomic>
#include <thread>
#include <vector>

namespace impasto {

void inParallel(std::size_t count, const std::function<void(std::size_t)>& work) {
    std::atomic<std::size_t> next = 0;
    const auto loop = [&] {
        for (std::size_t i = next++; i < count; i = next++) work(i);
    };
    const std::size_t threads = std::min<std::size_t>(count, std::max(1U, std::thread::hardware_concurrency()));
    std::vector<std::jthread> others;
    for (std::size_t i = 1; i < threads; ++i) others.emplace_back(loop);
    loop();
}

} // namespace impasto
