// SPDX-License-Identifier: GPL-3.0-or-later
#include <atomic>
#include <gtest/gtest.h>
#include <impasto/base/parallel.h>
#include <vector>

using namespace impasto;

TEST(ParallelTest, EveryPieceIsDoneOnce) {
    for (const std::size_t count : {0U, 1U, 2U, 1000U}) {
        std::vector<int> done(count, 0);
        std::atomic<std::size_t> all = 0;
        inParallel(count, [&](std::size_t i) {
            ++done[i];
            ++all;
        });
        EXPECT_EQ(all, count);
        for (const int n : done) EXPECT_EQ(n, 1);
    }
}
