// SPDX-License-Identifier: GPL-3.0-or-later
// Work that swings slowly, and from frame to frame.
#pragma once

#include <cmath>
#include <impasto/base/random.h>
#include <vector>

namespace impasto::support {

/// Lognormal around a mean by so much, a share; neighbours go together by 0.9.
inline std::vector<double> swinging(double mean, double spread, std::size_t count, std::uint64_t seed,
                                    std::string_view name) {
    RandomStream random(seed, name);
    std::vector<double> out;
    for (double swing = 0; out.size() < count;) {
        swing = 0.9 * swing + 0.44 * random.normal();
        out.push_back(mean * std::exp(spread * swing));
    }
    return out;
}

} // namespace impasto::support
