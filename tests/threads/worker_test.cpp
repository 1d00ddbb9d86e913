// SPDX-License-Identifier: GPL-3.0-or-later
#include <atomic>
#include <gtest/gtest.h>
#include <impasto/base/worker.h>
#include <vector>

using namespace impasto;

namespace {

/// Runs until it is asked to stop; `started` is told.
Worker::Job untilStopped(std::atomic<bool>& started, std::atomic<int>& stopped) {
    return [&](const std::stop_token& stop) {
        started = true;
        while (!stop.stop_requested()) std::this_thread::yield();
        ++stopped;
    };
}

void noFault(const Error& error) {
    ADD_FAILURE() << static_cast<int>(error.code) << " " << error.what;
}

} // namespace

TEST(WorkerTest, TheLatestJobWins) {
    std::atomic<int> stopped{0};
    std::atomic<bool> started{false};
    std::atomic<bool> hold{true};
    std::vector<int> ran; // by the worker's thread alone
    Worker worker(noFault);
    // The running job does not end before all are posted: of those, only the last one is left.
    worker.post([&](const std::stop_token&) {
        started = true;
        while (hold) std::this_thread::yield();
        ++stopped;
    });
    while (!started) std::this_thread::yield();
    for (int i = 0; i < 50; ++i) worker.post([&ran, i](const std::stop_token&) { ran.push_back(i); });
    hold = false;
    worker.waitIdle();
    EXPECT_EQ(stopped, 1);
    EXPECT_EQ(ran, std::vector<int>{49});
    EXPECT_TRUE(worker.idle());
}

TEST(WorkerTest, APostAsksTheRunningJobToStop) {
    std::atomic<int> stopped{0}, ran{0};
    std::atomic<bool> started{false};
    Worker worker(noFault);
    worker.post(untilStopped(started, stopped));
    while (!started) std::this_thread::yield();
    worker.post([&](const std::stop_token&) { ++ran; });
    worker.waitIdle();
    EXPECT_EQ(stopped, 1);
    EXPECT_EQ(ran, 1);
}

TEST(WorkerTest, DestructionEndsARunningJobAndDropsTheWaitingOne) {
    std::atomic<int> stopped{0}, ran{0};
    std::atomic<bool> started{false}, hold{true};
    {
        Worker worker(noFault);
        worker.post([&](const std::stop_token& stop) {
            started = true;
            while (hold || !stop.stop_requested()) std::this_thread::yield();
            ++stopped;
        });
        while (!started) std::this_thread::yield();
        worker.post([&](const std::stop_token&) { ++ran; });
        worker.cancel(); // as the destructor does first
        hold = false;
    }
    EXPECT_EQ(stopped, 1);
    EXPECT_EQ(ran, 0);
}

TEST(WorkerTest, CancelDropsWhatWaits) {
    std::atomic<int> stopped{0}, ran{0};
    std::atomic<bool> started{false}, hold{true};
    Worker worker(noFault);
    worker.post([&](const std::stop_token&) {
        started = true;
        while (hold) std::this_thread::yield();
        ++stopped;
    });
    while (!started) std::this_thread::yield();
    worker.post([&](const std::stop_token&) { ++ran; });
    worker.cancel();
    hold = false;
    worker.waitIdle();
    EXPECT_EQ(stopped, 1);
    EXPECT_EQ(ran, 0) << "the one that waited";
}

TEST(WorkerTest, WhatAJobThrowsIsToldAndTheNextOneRuns) {
    std::vector<Error> told; // on the worker's thread, read once it is idle
    std::atomic<int> ran{0};
    Worker worker([&](const Error& error) { told.push_back(error); });
    worker.post([](const std::stop_token&) { throw std::runtime_error("out of paint"); });
    worker.waitIdle();
    worker.post([](const std::stop_token&) { throw std::bad_alloc(); });
    worker.waitIdle();
    worker.post([&](const std::stop_token&) { ++ran; });
    worker.waitIdle();
    ASSERT_EQ(told.size(), 2U);
    EXPECT_EQ(told[0].code, ErrorCode::Internal);
    EXPECT_EQ(told[0].what, "out of paint");
    EXPECT_EQ(told[1].code, ErrorCode::OutOfMemory);
    EXPECT_EQ(ran, 1);
}
