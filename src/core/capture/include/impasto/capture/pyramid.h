// SPDX-License-Identifier: GPL-3.0-or-later
// The lowest and highest frame time of any stretch of a recording, without reading all of its frames: what draws a
// trace of any length at any zoom in one pass over its pixels.
#pragma once

#include <cstddef>
#include <span>
#include <vector>

namespace impasto::capture {

/// Frames are not copied: they outlive the pyramid. Some 0.4 bytes a frame.
class Pyramid {
  public:
    Pyramid() = default;
    explicit Pyramid(std::span<const double> frameMs);

    [[nodiscard]] std::span<const double> framesMs() const { return m_frames; }
    [[nodiscard]] double durationMs() const { return m_endMs.empty() ? 0 : m_endMs.back(); }
    /// The first frame that ends at `ms` from the first frame's start, or later; the number of frames where none does.
    [[nodiscard]] std::size_t frameAt(double ms) const;
    /// When the frames before `frame` have ended, ms.
    [[nodiscard]] double startOf(std::size_t frame) const;
    struct Range {
        double least = 0, most = 0;
    };
    /// Of the frames [first, last), of which there is one at least.
    [[nodiscard]] Range range(std::size_t first, std::size_t last) const;

  private:
    static constexpr std::size_t block = 64, fold = 16;
    std::span<const double> m_frames;
    std::vector<double> m_endMs;              // of each block of frames
    std::vector<std::vector<Range>> m_levels; // of blocks, of 16 blocks, of 256 ...
};

} // namespace impasto::capture
