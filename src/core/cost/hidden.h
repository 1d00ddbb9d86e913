// SPDX-License-Identifier: GPL-3.0-or-later
// CPU and GPU where only frame times are known: a frame takes as long as the longer of the two. Both are learnt
// together by expectation propagation (Minka 2001), with a normal site for each lane, run and part.
#pragma once

#include "lane.h"

namespace impasto::cost {

struct Hidden {
    std::vector<Lane> lanes; // CPU, GPU
    double evidence = 0;
};

/// From frame times. `ladder`: the run at the least rendered size, where there is one.
Hidden learnHidden(const Layout& layout, const std::vector<Observed>& seen, Assumed assumed,
                   std::optional<std::size_t> ladder);

/// Mean and variance of the greater of two independent normal values (Clark 1961), and how likely the first is it.
struct Greater {
    double mean = 0, variance = 0, first = 0;
};
Greater greaterOf(const Site& a, const Site& b);

} // namespace impasto::cost
