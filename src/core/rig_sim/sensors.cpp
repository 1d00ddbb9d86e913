// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensors.h"

#include <cmath>
#include <impasto/base/portable_math.h>

namespace impasto::rig_sim {
namespace {

constexpr double paceMs = 500;
constexpr double powerLagSeconds = 0.4, temperatureLagSeconds = 2;

} // namespace

Sensors::Slow::Slow(double seconds) : m_share(1 - portable::exp(-paceMs / (1000 * seconds))) {}

double Sensors::Slow::follow(double value) {
    m_value = m_value ? *m_value + m_share * (value - *m_value) : value;
    return *m_value;
}

double Sensors::Second::mean(double value) {
    const double out = (value + m_before.value_or(value)) / 2;
    m_before = value;
    return out;
}

Sensors::Sensors(std::uint64_t seed, const rig_model::Model& model, bool chips)
    : m_stream(seed, "sensors"), m_model(model), m_cpuW(powerLagSeconds), m_gpuW(powerLagSeconds),
      m_systemW(powerLagSeconds), m_cpuC(temperatureLagSeconds), m_gpuC(temperatureLagSeconds) {
    using capture::Sensor;
    for (const auto sensor :
         {Sensor::GpuLoad, Sensor::CpuLoad, Sensor::GpuMemory, Sensor::SystemMemory, Sensor::GpuPower})
        m_tracks.push_back({sensor, {}, {}});
    if (chips)
        for (const auto sensor : {Sensor::CpuPower, Sensor::SystemPower, Sensor::CpuClock, Sensor::GpuClock,
                                  Sensor::CpuTemperature, Sensor::GpuTemperature, Sensor::Fan})
            m_tracks.push_back({sensor, {}, {}});
    if (m_model.secondGpu) m_tracks.push_back({Sensor::SecondGpuLoad, {}, {}});
}

void Sensors::busy(double cpuMs, double gpuMs, double secondGpuMs) {
    m_cpuBusyMs += cpuMs;
    m_gpuBusyMs += gpuMs;
    m_secondGpuBusyMs += secondGpuMs;
}

void Sensors::frame(double recordedMs, double frameMs, const rig_model::Work& memory, const Chips* chips) {
    m_spanMs += frameMs;
    if (m_spanMs < paceMs) return;
    const auto share = [this](double busyMs) { return std::min(1.0, busyMs / m_spanMs); };
    const double gpu = m_gpuLoad.mean(share(m_gpuBusyMs)), cpu = m_cpuLoad.mean(share(m_cpuBusyMs));
    std::array<double, 13> values{100 * gpu, 100 * cpu, memory.gpuMemoryMib + 4 * m_stream.normal(),
                                  memory.systemMemoryMib + 12 * m_stream.normal()};
    std::size_t n = 4;
    if (chips == nullptr) {
        values[n++] = m_model.gpuIdleW + noisy((m_model.gpuBusyW - m_model.gpuIdleW) * gpu, 0.01);
    } else {
        const auto r = chips->reading();
        const double secondW = m_model.secondGpu
                                   ? m_model.secondGpu->idleW + (m_model.secondGpu->busyW - m_model.secondGpu->idleW) *
                                                                    share(m_secondGpuBusyMs)
                                   : 0;
        for (const double v : {noisy(m_gpuW.follow(r.gpuW), 0.01), noisy(m_cpuW.follow(r.cpuW), 0.01),
                               noisy(m_systemW.follow(r.systemW + secondW), 0.01), 100 * r.cpuClock, 100 * r.gpuClock,
                               std::round(m_cpuC.follow(r.cpuC)), std::round(m_gpuC.follow(r.gpuC)), 100 * r.fan})
            values[n++] = v;
    }
    values[n] = 100 * m_secondGpuLoad.mean(share(m_secondGpuBusyMs)); // the last track, where there is such a GPU
    for (std::size_t i = 0; i < m_tracks.size(); ++i) {
        m_tracks[i].timeMs.push_back(recordedMs);
        m_tracks[i].values.push_back(static_cast<float>(values[i]));
    }
    m_cpuBusyMs = m_gpuBusyMs = m_secondGpuBusyMs = m_spanMs = 0;
}

} // namespace impasto::rig_sim
