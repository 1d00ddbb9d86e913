// SPDX-License-Identifier: GPL-3.0-or-later
// Readings as tools give them: one every half second of recorded time, noisy, averaged over a while and late.
#pragma once

#include <impasto/base/random.h>
#include <impasto/rig_model/model.h>

#include "chips.h"

namespace impasto::rig_sim {

class Sensors {
  public:
    /// Without chips there are no clocks and temperatures, and the GPU's power follows its load.
    Sensors(std::uint64_t seed, const rig_model::Model& model, bool chips);

    /// Work was done, background work in idle time among it.
    void busy(double cpuMs, double gpuMs, double secondGpuMs);
    /// A frame was shown.
    void frame(double recordedMs, double frameMs, const rig_model::Work& memory, const Chips* chips);
    std::vector<capture::Track> take() { return std::move(m_tracks); }

  private:
    /// A reading that follows slowly.
    class Slow {
      public:
        explicit Slow(double seconds);
        double follow(double value);

      private:
        double m_share;
        std::optional<double> m_value;
    };
    /// Mean of the last second.
    class Second {
      public:
        double mean(double value);

      private:
        std::optional<double> m_before;
    };
    double noisy(double value, double share) { return value * (1 + share * m_stream.normal()); }

    RandomStream m_stream;
    const rig_model::Model& m_model;
    std::vector<capture::Track> m_tracks;
    double m_spanMs = 0, m_cpuBusyMs = 0, m_gpuBusyMs = 0, m_secondGpuBusyMs = 0;
    Second m_cpuLoad, m_gpuLoad, m_secondGpuLoad;
    Slow m_cpuW, m_gpuW, m_systemW, m_cpuC, m_gpuC;
};

} // namespace impasto::rig_sim
