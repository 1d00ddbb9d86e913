// SPDX-License-Identifier: GPL-3.0-or-later
// Readings of this machine's sensors, taken now and then while something runs on it: loads, clocks, temperatures,
// power, fans and memory, from /proc and /sys, without root. Nothing is written, and nothing guessed.
#pragma once

#include <filesystem>
#include <impasto/capture/capture.h>
#include <memory>
#include <optional>
#include <string>

namespace impasto::probe {

/// Not thread-safe.
class Sampler {
  public:
    /// Looks once for what can be read below the root.
    explicit Sampler(const std::filesystem::path& root = "/");
    ~Sampler();
    Sampler(const Sampler&) = delete;
    Sampler& operator=(const Sampler&) = delete;

    /// Reads every sensor; `atMs` by the caller's clock, later than the time before. Loads, and watts from a counter of
    /// energy, are means since the reading before: the first one has none.
    void sample(double atMs);
    /// A track a sensor that told anything, times by the caller's clock. Of several GPUs the one that works: the one
    /// that would render first (devices.h), unless it rests (under 15%) while another is at it (30% or more). Clocks
    /// are shares of the highest: of the chip's own highest where it says one, else of the fastest that was read so
    /// far.
    [[nodiscard]] std::vector<capture::Track> readings() const;
    /// The name of the GPU that works, where that is another than would render first.
    [[nodiscard]] std::optional<std::string> otherGpu() const;
    /// The readings with the last value of each alone.
    [[nodiscard]] std::vector<capture::Track> latest() const;

  private:
    struct State;
    std::unique_ptr<State> m_state;
};

} // namespace impasto::probe
