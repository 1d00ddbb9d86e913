// SPDX-License-Identifier: GPL-3.0-or-later
#include "world.h"

#include <cmath>
#include <impasto/base/portable_math.h>

namespace impasto::rig_sim {
namespace {

constexpr double knotMs = 20.0;
constexpr double fadeMs = 800.0;
constexpr double turnMs = 150.0;

} // namespace

Swing::Swing(std::uint64_t seed, std::string_view purpose, double sd, double seconds)
    : m_stream(seed, purpose), m_sd(sd), m_rho(portable::exp(-knotMs / (1000 * seconds))) {
    m_knots.push_back(m_stream.normal());
}

double Swing::at(double ms) {
    const auto index = static_cast<std::size_t>(ms / knotMs);
    while (m_knots.size() < index + 2)
        m_knots.push_back(m_rho * m_knots.back() + std::sqrt(1 - m_rho * m_rho) * m_stream.normal());
    const double share = ms / knotMs - static_cast<double>(index);
    return 1 + m_sd * ((1 - share) * m_knots[index] + share * m_knots[index + 1]);
}

Turns::Turns(std::uint64_t seed, double amplitude, double dwellSeconds)
    : m_stream(seed, "turns"), m_amplitude(amplitude), m_dwellMs(1000 * dwellSeconds) {}

double Turns::at(double ms) {
    if (m_amplitude == 0) return 0;
    while (m_knotMs + knotMs <= ms) {
        m_knotMs += knotMs;
        if (m_knotMs >= m_nextMs) {
            m_target = m_amplitude * m_stream.uniform(-1.6, 1.6);
            m_nextMs = m_knotMs + 300 + m_stream.exponential(m_dwellMs);
        }
        m_before = m_value;
        m_value += (m_target - m_value) * knotMs / turnMs;
    }
    return m_before + (m_value - m_before) * (ms - m_knotMs) / knotMs;
}

std::vector<Event> drawEvents(std::uint64_t seed, std::string_view purpose, const rig_model::Events& events,
                              double durationMs) {
    RandomStream stream(seed, purpose);
    std::vector<Event> out;
    if (events.perSecond <= 0) return out;
    for (double at = stream.exponential(1000 / events.perSecond); at < durationMs;
         at += stream.exponential(1000 / events.perSecond))
        out.push_back({at, stream.lognormal(events.medianMs, events.sigma)});
    return out;
}

std::vector<Event> compileEvents(const rig_model::Events& compiles, double durationMs, double metBefore) {
    RandomStream stream(0, "compiles");
    std::vector<Event> out;
    for (int i = 0; i < static_cast<int>(compiles.perSecond); ++i) {
        const double place = stream.uniform();
        const double workMs = stream.lognormal(compiles.medianMs, compiles.sigma);
        if (place >= metBefore) out.push_back({durationMs * place, workMs});
    }
    std::sort(out.begin(), out.end(), [](const Event& a, const Event& b) { return a.atMs < b.atMs; });
    return out;
}

double EventQueue::takeUntil(double ms) {
    double work = 0;
    for (; m_next < m_events.size() && m_events[m_next].atMs <= ms; ++m_next) work += m_events[m_next].workMs;
    return work;
}

Backlog::Backlog(std::uint64_t seed, std::string_view purpose, const rig_model::Deferred& deferred, double switchLossMs)
    : m_stream(seed, purpose), m_deferred(deferred), m_switchLossMs(switchLossMs) {
    drawLimit();
}

void Backlog::drawLimit() {
    m_limitMs = m_stream.lognormal(m_deferred.limitMs, 0.22);
}

Backlog::Done Backlog::pass(double elapsedMs, double gapMs, double moreMsPerSecond) {
    m_ms += (m_deferred.msPerSecond + moreMsPerSecond) * elapsedMs / 1000;
    const double served = std::min(m_ms, std::max(0.0, gapMs - m_switchLossMs));
    m_ms -= served;
    if (m_ms <= m_limitMs) return {served, 0};
    drawLimit();
    return {served, std::exchange(m_ms, 0.0)};
}

World::World(const rig_model::Model& model, const machine::Machine& machine, const game::Game& game,
             const game::Route& route, const run::Variant& variant, std::uint64_t seed) {
    RandomStream stream(seed, "sections");
    const double runCpu = 1 + model.runSd * stream.normal(), runGpu = 1 + model.runSd * stream.normal();
    for (const auto& part : route.parts) {
        const double end = durationMs() + 1000 * part.seconds * (1 + 0.01 * stream.normal());
        const auto load = model.parts.find(part.name);
        const double still = load == model.parts.end() ? 0 : 1000 * load->second.stillSeconds;
        rig_model::Work work = workOf(model, machine, game, variant, part.name);
        work.cpuMs *= runCpu * (1 + model.sectionSd * stream.normal());
        work.gpuMs *= runGpu * (1 + model.sectionSd * stream.normal());
        m_parts.push_back({end, end - still, work});
    }
}

std::size_t World::partAt(double ms) const {
    std::size_t part = 0;
    while (part + 1 < m_parts.size() && ms >= m_parts[part].endMs) ++part;
    return part;
}

rig_model::Work World::at(double ms) const {
    const std::size_t part = partAt(ms);
    rig_model::Work work = m_parts[part].work;
    if (part > 0 && ms < m_parts[part - 1].endMs + fadeMs) {
        const double share = (ms - m_parts[part - 1].endMs) / fadeMs;
        work.cpuMs = share * work.cpuMs + (1 - share) * m_parts[part - 1].work.cpuMs;
        work.gpuMs = share * work.gpuMs + (1 - share) * m_parts[part - 1].work.gpuMs;
    }
    return work;
}

double World::stillForMs(double ms) const {
    return std::max(0.0, ms - m_parts[partAt(ms)].stillFromMs);
}

} // namespace impasto::rig_sim
