// SPDX-License-Identifier: GPL-3.0-or-later
// What is wanted, and how much of the budget is safe to fill.
#pragma once

#include <impasto/run/run.h>

namespace impasto::document {

struct Edit;

/// Shares of the budget that CPU, GPU or the frame may fill, said by hand; none: as measured.
struct SafeShares {
    std::optional<double> gpu, cpu, frame;
    friend bool operator==(const SafeShares&, const SafeShares&) = default;
    [[nodiscard]] std::optional<double> of(run::Lane lane) const {
        return lane == run::Lane::Gpu ? gpu : lane == run::Lane::Cpu ? cpu : frame;
    }
};

struct Goal {
    std::optional<run::Brief> brief;
    SafeShares shares;
    friend bool operator==(const Goal&, const Goal&) = default;
};

/// Errors: OutOfRange for a target outside 10 to 1000 fps, a lowest low above the target, a picture share outside 0 to
/// 1, a rate to be shown under the target or over 2000, a share of on-time frames outside 0.5 to 1, a tolerance outside
/// 0 to 0.5, a bound outside run::rangeOf.
Edit setBrief(run::Brief brief);
/// Of a lower target than the lowest low the low is kept, and asked for again once the target is above it.
Edit setTarget(Fps target);
/// Errors: OutOfRange outside 0.3 to 1.
Edit setShares(SafeShares shares);

} // namespace impasto::document
