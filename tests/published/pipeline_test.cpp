// SPDX-License-Identifier: GPL-3.0-or-later
// Max-plus theory (Baccelli, Cohen, Olsder, Quadrat 1992, Synchronization and Linearity; from memory): the period of
// the event graph is its largest cycle mean, max(c, g, r, L, (c + g) / Q) for constant work.
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <impasto/pace/pipeline.h>

using namespace impasto;
using namespace impasto::pace;

namespace {

double period(const Pipeline& p, const std::vector<double>& c, const std::vector<double>& g, std::size_t frames) {
    std::vector<double> cpu, gpu;
    for (std::size_t i = 0; i < frames; ++i) {
        cpu.push_back(c[i % c.size()]);
        gpu.push_back(g[i % g.size()]);
    }
    const auto all = simulate(p, cpu, gpu);
    const std::size_t half = frames / 2;
    return (all[frames - 1].ready - all[half - 1].ready) / static_cast<double>(frames - half);
}

} // namespace

TEST(PublishedPipelineTest, ThePeriodIsTheLargestCycleMean) {
    RandomStream s(12, "cases");
    for (int i = 0; i < 2000; ++i) {
        Pipeline p;
        p.framesInFlight = 1 + static_cast<int>(s.below(4));
        p.images = 2 + static_cast<int>(s.below(3));
        const double c = s.uniform(1, 20), g = s.uniform(1, 20);
        if (s.uniform() < 0.5) p.copyMs = s.uniform(0.1, 20);
        if (s.uniform() < 0.5) p.limiterMs = s.uniform(1, 30);
        const double wanted = std::max({c, g, p.copyMs, p.limiterMs.value_or(0), (c + g) / p.framesInFlight});
        ASSERT_NEAR(period(p, {c}, {g}, 400), wanted, 1e-9) << i;
    }
}

// The same source: periodic work has the largest cycle ratio, which the formula with means may undercut.
TEST(PublishedPipelineTest, PeriodicWorkHasTheLargestCycleRatio) {
    struct Case {
        std::vector<double> c, g;
        int q;
        double ratio;
    };
    const Case cases[] = {{{8, 14}, {12, 6}, 1, 20},
                          {{8, 14}, {12, 6}, 2, 11},
                          {{4, 20}, {20, 4}, 1, 24},
                          {{4, 20}, {4, 20}, 2, 20},
                          {{4, 20}, {4, 20}, 3, 12},
                          {{5, 5, 5, 40}, {10, 10, 10, 10}, 2, 17.5},
                          {{5, 5, 5, 40}, {10, 10, 10, 10}, 4, 13.75},
                          {{6, 30, 6}, {14, 14, 14}, 2, 58.0 / 3}};
    for (const auto& c : cases) {
        Pipeline p;
        p.framesInFlight = c.q;
        p.images = 8; // the display takes no part
        EXPECT_NEAR(period(p, c.c, c.g, 4800), c.ratio, 1e-9) << c.q << " of " << c.c.size();
    }
}

// Gordon and Newell (1967), Buzen (1973) (from memory): exponential work, closed cyclic network, G(Q) / G(Q - 1).
TEST(PublishedPipelineTest, RandomWorkFollowsTheProductForm) {
    for (const auto& [c, g, q, wanted] :
         {std::tuple(10.0, 10.0, 2, 15.0), std::tuple(8.0, 12.0, 2, 15.2), std::tuple(8.0, 12.0, 3, 260.0 / 19)}) {
        RandomStream s(7, "work");
        std::vector<double> cpu, gpu;
        for (int i = 0; i < 400000; ++i) {
            cpu.push_back(s.exponential(c));
            gpu.push_back(s.exponential(g));
        }
        Pipeline p;
        p.framesInFlight = q;
        p.images = 8;
        const auto all = simulate(p, cpu, gpu);
        EXPECT_NEAR(all.back().gpuEnd / 400000, wanted, 0.15) << c << " " << g << " " << q;
    }
}

// Lindley (1952): a wait is the one before plus the service before, less the time between, never under 0.
TEST(PublishedPipelineTest, WaitsBehindALimiterFollowLindley) {
    RandomStream s(3, "service");
    Pipeline p;
    p.limiterMs = 10;
    p.framesInFlight = p.images = 15;
    FramePipeline frames(p);
    double wait = 0, before = 0;
    for (int i = 0; i < 20000; ++i) {
        const double service = s.exponential(6);
        frames.start();
        frames.cpu(0);
        const auto frame = frames.gpu(service);
        wait = i == 0 ? 0 : std::max(0.0, wait + before - 10);
        if (wait > 130) return; // so many wait that the limiter itself is held back
        ASSERT_NEAR(frame.gpuStart - frame.cpuEnd, wait, 1e-6) << i;
        before = service;
    }
}

// Kendall (1953), D/M/1: with x = exp(-(1 - x) / load), the mean wait is x / (1 - x) services. Pollaczek (1930) and
// Khinchine (1932), M/D/1: load / (2 (1 - load)) services. Both from memory; the CPU that is never idle gives Poisson
// arrivals.
TEST(PublishedPipelineTest, MeanWaitsAreThoseOfTheQueue) {
    constexpr int n = 400000;
    Pipeline p;
    p.framesInFlight = p.images = 15;
    for (const double load : {0.4, 0.6}) {
        RandomStream s(11, "queue");
        double x = 0.5;
        for (int i = 0; i < 200; ++i) x = std::exp(-(1 - x) / load);
        p.limiterMs = 10;
        FramePipeline regular(p);
        p.limiterMs.reset();
        FramePipeline random(p);
        double waits = 0, poisson = 0;
        for (int i = 0; i < n; ++i) {
            regular.start();
            regular.cpu(0);
            const auto frame = regular.gpu(s.exponential(10 * load));
            waits += frame.gpuStart - frame.cpuEnd;
            random.start();
            random.cpu(s.exponential(10));
            const auto other = random.gpu(10 * load);
            poisson += other.gpuStart - other.cpuEnd;
        }
        EXPECT_NEAR(waits / n, x / (1 - x) * 10 * load, 0.03 * 10 * load) << load;
        EXPECT_NEAR(poisson / n, load / (2 * (1 - load)) * 10 * load, 0.03 * 10 * load) << load;
    }
}
