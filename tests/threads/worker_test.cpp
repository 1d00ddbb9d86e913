// SPDX-License-Identifier: GPL-3.0-or-later
#include <atomic>
#include <gtest/gtest.h>
#include <impasto/base/worker.h>

using namespace impasto;

TEST(WorkerTest, TheLatestJobWins) {
    std::atomic<int> finished{0}, cancelled{0};
    std::atomic<bool> started{false};
    Worker worker;
    worker.post([&](const std::stop_token& stop) {
        started = true;
        while (!stop.stop_requested()) std::this_thread::yield();
        ++cancelled;
    });
    while (!started) std::this_thread::yield();
    for (int i = 0; i < 50; ++i) worker.post([&](const std::stop_token&) { ++finished; });
    worker.waitIdle();
    EXPECT_EQ(cancelled, 1);
    EXPECT_GE(finished, 1);
    EXPECT_LE(finished, 50);
    EXPECT_TRUE(worker.idle());
}

TEST(WorkerTest, DestructionEndsARunningJob) {
    std::atomic<bool> started{false};
    {
        Worker worker;
        worker.post([&](const std::stop_token& stop) {
            started = true;
            while (!stop.stop_requested()) std::this_thread::yield();
        });
        while (!started) std::this_thread::yield();
    }
    SUCCEED();
}

TEST(WorkerTest, CancelDropsWhatWaits) {
    Worker worker;
    std::atomic<bool> started{false};
    std::atomic<int> ran{0};
    worker.post([&](const std::stop_token& stop) {
        started = true;
        while (!stop.stop_requested()) std::this_thread::yield();
    });
    while (!started) std::this_thread::yield();
    worker.cancel();
    worker.waitIdle();
    EXPECT_EQ(ran, 0);
}
