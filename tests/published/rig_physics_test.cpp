// SPDX-License-Identifier: GPL-3.0-or-later
// The simulator's mechanisms against closed forms of textbooks.
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <impasto/pace/pipeline.h>
#include <rig_sim/chips.h>

using namespace impasto;

// The step response of one resistance and one capacity: T = ambient + P / h (1 - exp(-t h / C)); any textbook.
TEST(PublishedRigTest, ASinkWarmsAsTheClosedFormSays) {
    rig_model::Power p;
    p.gpu = {60, 0, 0.001, 0.9, 0.4, {}, 0};
    p.cpu = {0, 0, 0.001, 0.9, 0.4, {}, 0};
    p.gpuHeat = {1.5, 0, 90, 110, 8, 45, 85, 1, 0.05, 1};
    p.cpuHeat = p.gpuHeat;
    p.ambientC = 22;
    rig_sim::Chips chips(p, {});
    double seconds = 0;
    for (int i = 0; i < 4000; ++i) {
        chips.advance(50, 0, 0);
        seconds += 0.05;
        if (i % 400 == 0) {
            const double closed = 22 + 60 / 1.5 * (1 - std::exp(-seconds * 1.5 / 90));
            EXPECT_NEAR(chips.reading().gpuC, closed, 0.02) << seconds;
        }
    }
    EXPECT_NEAR(chips.reading().cpuC, 22, 0.01) << "a sink of its own stays cold";
}

// Waits before the GPU where frames come by themselves: a queue with one server (Kleinrock 1975, Queueing Systems 1;
// Pollaczek 1930, Khinchine 1932; from memory). Wait = rho s (1 + cv^2) / (2 (1 - rho)).
TEST(PublishedRigTest, FramesWaitForTheGpuAsInAQueueWithOneServer) {
    struct Case {
        double betweenMs, workMs;
        bool exponential; // the work; else constant
        double waitMs;
    };
    for (const auto& c :
         {Case{10, 5, true, 5}, Case{10, 5, false, 2.5}, Case{10, 4, true, 8.0 / 3}, Case{10, 4, false, 4.0 / 3}}) {
        RandomStream s(3, "queue");
        pace::Pipeline p;
        p.framesInFlight = p.images = 15; // as good as any number at these loads
        pace::FramePipeline frames(p);
        double waited = 0;
        constexpr int n = 400000;
        for (int i = 0; i < n; ++i) {
            frames.start();
            frames.cpu(s.exponential(c.betweenMs));
            const auto frame = frames.gpu(c.exponential ? s.exponential(c.workMs) : c.workMs);
            waited += frame.gpuStart - frame.cpuEnd;
        }
        EXPECT_NEAR(waited / n, c.waitMs, 0.04 * c.waitMs) << c.workMs;
    }
}
