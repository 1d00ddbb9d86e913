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
