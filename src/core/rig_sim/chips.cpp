// SPDX-License-Identifier: GPL-3.0-or-later
#include "chips.h"

#include <algorithm>
#include <impasto/base/portable_math.h>
#include <utility>

namespace impasto::rig_sim {
namespace {

using rig_model::Chip;
using rig_model::Heat;

double wattsOf(const Chip& chip, double clock, double share) {
    return chip.idleW + chip.staticW * clock * clock + chip.dynamicW * share * portable::pow(clock, 2.6);
}

/// What a limit allows now: bursts while the average is low, held to the sustained power once it is not.
double allowedW(double sustainedW, double burstW, double averageW) {
    return std::clamp(sustainedW + 3 * (sustainedW - averageW), 0.9 * sustainedW, std::max(burstW, sustainedW));
}

/// The clock that brings the power to what is allowed, approached step by step.
double towards(double clock, double watts, double allowed, double idleW, double lowest) {
    const double ratio = std::max(0.05, allowed - idleW) / std::max(0.05, watts - idleW);
    return std::clamp(clock * portable::pow(ratio, 0.35), lowest, 1.0);
}

} // namespace

Chips::Chips(rig_model::Power power, const std::optional<rig::PowerState>& state)
    : m_power(std::move(power)), m_cpu{&m_power.cpu}, m_gpu{&m_power.gpu} {
    const rig::PowerState s = state.value_or(rig::PowerState{m_power.ambientC, m_power.ambientC, 0, 0, 0, 1, 1});
    m_cpu.celsius = s.cpuC;
    m_gpu.celsius = s.gpuC;
    m_cpu.averageW = s.cpuAverageW;
    m_gpu.averageW = s.gpuAverageW;
    m_sharedAverageW = s.sharedAverageW;
    m_cpu.wish = m_cpu.clock = s.cpuClock;
    m_gpu.wish = m_gpu.clock = s.gpuClock;
    if (m_power.governor) {
        m_untilGovernorMs = m_power.governor->periodMs;
        m_cpu.seen = m_power.governor->cpuTarget;
        m_gpu.seen = m_power.governor->gpuTarget;
    } else {
        m_cpu.wish = m_gpu.wish = 1; // nothing keeps them down
    }
    for (Side* side : {&m_cpu, &m_gpu}) side->watts = wattsOf(*side->chip, side->clock, 0);
}

double Chips::stretch(const Side& side) {
    return side.chip->clockBound / side.clock + 1 - side.chip->clockBound;
}

void Chips::advance(double elapsedMs, double cpuBusyMs, double gpuBusyMs) {
    // Work spreads evenly over the time it took.
    while (elapsedMs > 0) {
        const double part = std::min(elapsedMs, m_untilStepMs);
        const double share = part / elapsedMs;
        m_cpu.busy += share * cpuBusyMs;
        m_gpu.busy += share * gpuBusyMs;
        cpuBusyMs -= share * cpuBusyMs;
        gpuBusyMs -= share * gpuBusyMs;
        elapsedMs -= part;
        m_untilStepMs -= part;
        if (m_untilStepMs > 1e-9) continue;
        step();
        m_untilStepMs = stepMs;
    }
}

void Chips::step() {
    const double dt = stepMs / 1000;
    for (Side* side : {&m_cpu, &m_gpu}) {
        const double share = std::min(1.0, side->busy / stepMs);
        side->watts = wattsOf(*side->chip, side->clock, share);
        side->averageW += (side->watts - side->averageW) * dt / m_power.boostSeconds;
        side->governed += side->busy;
        side->busy = 0;
        if (side->chip->sustainedW)
            side->limit =
                towards(side->clock, side->watts, allowedW(*side->chip->sustainedW, side->chip->burstW, side->averageW),
                        side->chip->idleW, side->chip->lowestClock);
    }
    limitShared(dt);
    warm(dt);
    govern();
    const Heat& cpuHeat = m_power.heatIsShared ? m_power.gpuHeat : m_power.cpuHeat;
    m_cpu.clock = std::min(
        {m_cpu.wish, m_cpu.limit, m_power.cpu.highestClock, thermalClock(cpuHeat, m_power.cpu, m_cpu.celsius)});
    m_gpu.clock = std::min(
        {m_gpu.wish, m_gpu.limit, m_power.gpu.highestClock, thermalClock(m_power.gpuHeat, m_power.gpu, m_gpu.celsius)});
}

void Chips::limitShared(double dt) {
    if (!m_power.shared) return;
    const double watts = m_cpu.watts + m_gpu.watts, idle = m_power.cpu.idleW + m_power.gpu.idleW;
    m_sharedAverageW += (watts - m_sharedAverageW) * dt / m_power.boostSeconds;
    const double allowed = allowedW(m_power.shared->sustainedW, m_power.shared->burstW, m_sharedAverageW);
    m_gpu.limit = towards(m_gpu.clock, watts, allowed, idle, m_power.gpu.lowestClock);
    // The CPU gives up less.
    m_cpu.limit = std::max(m_power.cpu.lowestClock, portable::pow(m_gpu.limit, 0.4));
}

double Chips::fanOf(const Heat& heat, double celsius) {
    const double curve = (celsius - heat.fanFromC) / (heat.fanToC - heat.fanFromC);
    return std::clamp(curve, heat.leastFan, std::max(heat.leastFan, heat.mostFan));
}

double Chips::thermalClock(const Heat& heat, const Chip& chip, double celsius) {
    const double over = (celsius - heat.limitC) / heat.bandC;
    return std::clamp(1 - over * (1 - chip.lowestClock), chip.lowestClock, 1.0);
}

void Chips::warm(double dt) {
    const auto heated = [&](const Heat& heat, double celsius, double watts) {
        const double lost =
            (heat.wattPerKelvin + heat.fanWattPerKelvin * fanOf(heat, celsius)) * (celsius - m_power.ambientC);
        return celsius + (watts - lost) / heat.joulePerKelvin * dt;
    };
    if (m_power.heatIsShared) {
        m_cpu.celsius = m_gpu.celsius = heated(m_power.gpuHeat, m_gpu.celsius, m_cpu.watts + m_gpu.watts);
        return;
    }
    m_cpu.celsius = heated(m_power.cpuHeat, m_cpu.celsius, m_cpu.watts);
    m_gpu.celsius = heated(m_power.gpuHeat, m_gpu.celsius, m_gpu.watts);
}

void Chips::govern() {
    if (!m_power.governor) return;
    const auto& g = *m_power.governor;
    m_untilGovernorMs -= stepMs;
    if (m_untilGovernorMs > 1e-9) return;
    m_untilGovernorMs += g.periodMs;
    const auto steer = [&](Side& side, double target) {
        const double busy = std::min(1.0, std::exchange(side.governed, 0.0) / g.periodMs);
        side.seen += g.smoothing * (busy - side.seen);
        side.wish = std::clamp(side.clock * std::min(side.seen / target, g.mostStepUp), side.chip->lowestClock, 1.0);
    };
    steer(m_cpu, g.cpuTarget);
    steer(m_gpu, g.gpuTarget);
}

Chips::Reading Chips::reading() const {
    const Heat& heat = m_power.gpuHeat;
    return {m_cpu.watts,
            m_gpu.watts,
            m_cpu.watts + m_gpu.watts + m_power.restW,
            m_cpu.celsius,
            m_gpu.celsius,
            m_cpu.clock,
            m_gpu.clock,
            fanOf(heat, m_gpu.celsius)};
}

rig::PowerState Chips::state() const {
    return {m_cpu.celsius, m_gpu.celsius, m_cpu.averageW, m_gpu.averageW, m_sharedAverageW, m_cpu.wish, m_gpu.wish};
}

} // namespace impasto::rig_sim
