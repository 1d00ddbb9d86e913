// SPDX-License-Identifier: GPL-3.0-or-later
// Power, heat and clocks of the simulated machine, stepped with the frames. Source: first-order textbook physics (an RC
// step in heat, an averaged power limit) and common practice; constants are the descriptions' own.
#pragma once

#include <impasto/rig/rig.h>
#include <impasto/rig_model/power.h>

namespace impasto::rig_sim {

class Chips {
  public:
    /// Without a state the machine is at rest: ambient temperature, full clock.
    Chips(rig_model::Power power, const std::optional<rig::PowerState>& state);
    Chips(const Chips&) = delete; // its sides point into its own power
    Chips& operator=(const Chips&) = delete;
    ~Chips() = default;

    /// Time went on; the lanes were busy for so long in it. Ms.
    void advance(double elapsedMs, double cpuBusyMs, double gpuBusyMs);
    /// How much longer work takes than at full clock.
    [[nodiscard]] double cpuStretch() const { return stretch(m_cpu); }
    [[nodiscard]] double gpuStretch() const { return stretch(m_gpu); }

    struct Reading {
        double cpuW, gpuW, systemW, cpuC, gpuC, cpuClock, gpuClock, fan; // clocks and fan as shares
    };
    [[nodiscard]] Reading reading() const;
    [[nodiscard]] rig::PowerState state() const;

    static constexpr double stepMs = 25;

  private:
    struct Side {
        const rig_model::Chip* chip;
        double busy = 0;                // ms since the last step
        double governed = 0;            // busy ms since the governor last looked
        double watts = 0, averageW = 0; // averageW: over boostSeconds
        double celsius = 0;
        double wish = 1, limit = 1; // clocks: the governor's, the power limit's
        double seen = 0;            // the busy share that the governor believes
        double clock = 1;
    };
    static double stretch(const Side& side);
    void step();
    void limitShared(double dt);
    void warm(double dt);
    void govern();
    [[nodiscard]] static double fanOf(const rig_model::Heat& heat, double celsius);
    [[nodiscard]] static double thermalClock(const rig_model::Heat& heat, const rig_model::Chip& chip, double celsius);

    rig_model::Power m_power;
    Side m_cpu, m_gpu;
    double m_sharedAverageW = 0;
    double m_untilStepMs = stepMs, m_untilGovernorMs = 0;
};

} // namespace impasto::rig_sim
