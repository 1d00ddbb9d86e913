// SPDX-License-Identifier: GPL-3.0-or-later
// The resolution ladder: runs at several rendered sizes tell the CPU's ceiling, the GPU's fixed cost and its cost a
// megapixel, and where the bottleneck changes sides; with frame times alone, too. A frame takes as long as the longer
// of CPU and GPU; the GPU's work grows with the rendered pixels (docs/method.md, Resolution ladder).
#pragma once

#include <impasto/capture/capture.h>
#include <impasto/stats/stats.h>
#include <memory>
#include <span>

namespace impasto::limits {

/// Runs at one rendered size.
struct Rung {
    Megapixels rendered;
    std::vector<std::shared_ptr<const capture::Capture>> runs;
};

/// The longer of a ceiling and a line over the megapixels.
struct LadderFit {
    /// Frame time that no smaller picture gets under; nothing where no rung reached it.
    std::optional<stats::Interval> ceilingMs;
    std::optional<stats::Interval> gpuFixedMs, gpuPerMegapixelMs; // nothing where no two rungs show the GPU
    double gpuCovariance = 0;                                     // of the two half widths
    /// Where one size alone shows the GPU: the largest on the ceiling, that one, and its frame time. It changes sides
    /// between the two.
    struct Between {
        double from = 0, to = 0, toMs = 0;
    };
    std::optional<Between> between;
};

struct Ladder {
    std::string part;
    struct Seen {
        Megapixels rendered;
        double frameMs = 0; // mean over the runs
        std::size_t runs = 0;
    };
    std::vector<Seen> seen; // by size, ascending
    bool byTimes = false;   // from frame times alone
    LadderFit fit;
    std::vector<LadderFit> others;               // that frame times allow as well
    std::optional<stats::Interval> changesSides; // megapixels

    struct Predicted {
        double ms = 0, lowMs = 0, highMs = 0;
    };
    /// Frame time at a rendered size; nothing where what decides there is not known.
    [[nodiscard]] std::optional<Predicted> at(Megapixels rendered) const;
};

/// For each part of the first rung's first run that all rungs have. Empty with fewer than two sizes.
std::vector<Ladder> laddersOf(std::span<const Rung> rungs);

} // namespace impasto::limits
