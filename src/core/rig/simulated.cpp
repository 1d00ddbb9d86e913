// SPDX-License-Identifier: GPL-3.0-or-later
// The simulated rig, first form: work from hidden tables, noise and events drawn in game time, through the frame
// pipeline.
#include <cmath>
#include <impasto/base/portable_math.h>
#include <impasto/base/random.h>
#include <impasto/rig/rig.h>
#include <impasto/rig_model/model.h>

#include "chips.h"

namespace impasto::rig {
namespace {

using namespace rig_model;

constexpr double knotMs = 20.0;
constexpr double sensorMs = 500.0;
constexpr double fadeMs = 800.0;

/// A correlated swing around 1, sampled every 20 ms of game time and linear in between, so that runs of one seed with
/// other caps see the same world.
class Swing {
  public:
    Swing(std::uint64_t seed, std::string_view purpose, double sd, double seconds)
        : m_stream(seed, purpose), m_sd(sd), m_rho(portable::exp(-knotMs / (1000 * seconds))) {
        m_knots.push_back(m_stream.normal());
    }
    double at(double ms) {
        const auto index = static_cast<std::size_t>(ms / knotMs);
        while (m_knots.size() < index + 2)
            m_knots.push_back(m_rho * m_knots.back() + std::sqrt(1 - m_rho * m_rho) * m_stream.normal());
        const double share = ms / knotMs - static_cast<double>(index);
        return 1 + m_sd * ((1 - share) * m_knots[index] + share * m_knots[index + 1]);
    }

  private:
    RandomStream m_stream;
    double m_sd, m_rho;
    std::vector<double> m_knots;
};

struct Event {
    double atMs, workMs;
};

std::vector<Event> drawEvents(std::uint64_t seed, std::string_view purpose, const Events& events, double durationMs) {
    RandomStream stream(seed, purpose);
    std::vector<Event> out;
    if (events.perSecond <= 0) return out;
    for (double at = stream.exponential(1000 / events.perSecond); at < durationMs;
         at += stream.exponential(1000 / events.perSecond))
        out.push_back({at, stream.lognormal(events.medianMs, events.sigma)});
    return out;
}

/// Shaders met for the first time, at fixed places of the route with their own cost, whatever the seed of the run.
std::vector<Event> compileEvents(const Events& compiles, double durationMs) {
    RandomStream stream(0, "compiles");
    std::vector<Event> out;
    for (int i = 0; i < static_cast<int>(compiles.perSecond); ++i)
        out.push_back({durationMs * stream.uniform(), stream.lognormal(compiles.medianMs, compiles.sigma)});
    std::sort(out.begin(), out.end(), [](const Event& a, const Event& b) { return a.atMs < b.atMs; });
    return out;
}

/// Events in time order, each taken by the first frame that starts after it.
class EventQueue {
  public:
    explicit EventQueue(std::vector<Event> events) : m_events(std::move(events)) {}
    double takeUntil(double ms) {
        double work = 0;
        for (; m_next < m_events.size() && m_events[m_next].atMs <= ms; ++m_next) work += m_events[m_next].workMs;
        return work;
    }

  private:
    std::vector<Event> m_events;
    std::size_t m_next = 0;
};

/// Background work of one lane.
class Backlog {
  public:
    Backlog(std::uint64_t seed, std::string_view purpose, const Deferred& deferred, double switchLossMs)
        : m_stream(seed, purpose), m_deferred(deferred), m_switchLossMs(switchLossMs) {
        drawLimit();
    }
    /// The work that falls into the frame after an idle gap.
    double fall(double elapsedMs, double gapMs) {
        m_ms += m_deferred.msPerSecond * elapsedMs / 1000;
        m_ms -= std::min(m_ms, std::max(0.0, gapMs - m_switchLossMs));
        if (m_ms <= m_limitMs) return 0;
        drawLimit();
        return std::exchange(m_ms, 0.0);
    }

  private:
    void drawLimit() { m_limitMs = m_stream.lognormal(m_deferred.limitMs, 0.22); }
    RandomStream m_stream;
    Deferred m_deferred;
    double m_switchLossMs;
    double m_ms = 0, m_limitMs = 0;
};

/// The route's parts in game time, with the loads of the variant in each and a cross-fade between them.
class World {
  public:
    World(const Model& model, const machine::Machine& machine, const game::Game& game, const game::Route& route,
          const run::Order& order) {
        RandomStream stream(order.seed, "sections");
        const double runCpu = 1 + model.runSd * stream.normal(), runGpu = 1 + model.runSd * stream.normal();
        for (const auto& part : route.parts) {
            m_ends.push_back(durationMs() + 1000 * part.seconds * (1 + 0.01 * stream.normal()));
            Work work = workOf(model, machine, game, order.variant, part.name);
            work.cpuMs *= runCpu * (1 + model.sectionSd * stream.normal());
            work.gpuMs *= runGpu * (1 + model.sectionSd * stream.normal());
            m_works.push_back(work);
        }
    }
    [[nodiscard]] double durationMs() const { return m_ends.empty() ? 0.0 : m_ends.back(); }
    [[nodiscard]] std::size_t partAt(double ms) const {
        std::size_t part = 0;
        while (part + 1 < m_ends.size() && ms >= m_ends[part]) ++part;
        return part;
    }
    [[nodiscard]] Work at(double ms) const {
        const std::size_t part = partAt(ms);
        Work work = m_works[part];
        if (part > 0 && ms < m_ends[part - 1] + fadeMs) {
            const double share = (ms - m_ends[part - 1]) / fadeMs;
            work.cpuMs = share * work.cpuMs + (1 - share) * m_works[part - 1].cpuMs;
            work.gpuMs = share * work.gpuMs + (1 - share) * m_works[part - 1].gpuMs;
        }
        return work;
    }

  private:
    std::vector<double> m_ends;
    std::vector<Work> m_works;
};

/// Slow readings, one every half second of recorded time.
class Sensors {
  public:
    Sensors(std::uint64_t seed, const Model& model) : m_stream(seed, "sensors"), m_model(model) {
        for (const auto sensor : {capture::Sensor::GpuLoad, capture::Sensor::CpuLoad, capture::Sensor::GpuMemory,
                                  capture::Sensor::SystemMemory, capture::Sensor::GpuPower})
            m_tracks.push_back({sensor, {}, {}});
        if (!model.power) return;
        for (const auto sensor : {capture::Sensor::CpuPower, capture::Sensor::SystemPower, capture::Sensor::CpuClock,
                                  capture::Sensor::GpuClock, capture::Sensor::CpuTemperature,
                                  capture::Sensor::GpuTemperature, capture::Sensor::Fan})
            m_tracks.push_back({sensor, {}, {}});
    }
    void frame(double recordedMs, double frameMs, const Work& work, double cpuMs, double gpuMs, const Chips* chips) {
        m_cpuBusy += cpuMs;
        m_gpuBusy += gpuMs;
        m_span += frameMs;
        if (m_span < sensorMs) return;
        const double cpu = std::min(1.0, m_cpuBusy / m_span), gpu = std::min(1.0, m_gpuBusy / m_span);
        const auto noisy = [this](double value, double share) { return value * (1 + share * m_stream.normal()); };
        std::vector<double> values{100 * gpu, 100 * cpu, work.gpuMemoryMib + 4 * m_stream.normal(),
                                   work.systemMemoryMib + 12 * m_stream.normal()};
        if (chips == nullptr) {
            values.push_back(m_model.gpuIdleW + noisy((m_model.gpuBusyW - m_model.gpuIdleW) * gpu, 0.01));
        } else {
            const auto r = chips->reading();
            values.insert(values.end(),
                          {noisy(r.gpuW, 0.01), noisy(r.cpuW, 0.01), noisy(r.systemW, 0.01), 100 * r.cpuClock,
                           100 * r.gpuClock, std::round(r.cpuC), std::round(r.gpuC), 100 * r.fan});
        }
        for (std::size_t i = 0; i < m_tracks.size(); ++i) {
            m_tracks[i].timeMs.push_back(recordedMs);
            m_tracks[i].values.push_back(static_cast<float>(values[i]));
        }
        m_cpuBusy = m_gpuBusy = m_span = 0;
    }
    std::vector<capture::Track> take() { return std::move(m_tracks); }

  private:
    RandomStream m_stream;
    const Model& m_model;
    std::vector<capture::Track> m_tracks;
    double m_cpuBusy = 0, m_gpuBusy = 0, m_span = 0;
};

class SimulatedRig final : public Rig {
  public:
    SimulatedRig(Model model, machine::Machine machine, game::Game game, Playback playback)
        : m_model(std::move(model)), m_machine(std::move(machine)), m_game(std::move(game)),
          m_playback(std::move(playback)) {}

    Result<Recording> record(const run::Order& order, const RigState& state, const FrameSink& sink,
                             const Context& context) override;

  private:
    Model m_model;
    machine::Machine m_machine;
    game::Game m_game;
    Playback m_playback;
};

pace::Pipeline pipelineOf(const Model& model, const machine::Machine& machine, const run::Variant& variant) {
    pace::Pipeline p;
    p.framesInFlight = model.framesInFlight;
    p.display = pace::displayOf(machine.panel, variant.sync);
    if (model.copy) p.copyMs = model.copy->msOf(outputOf(machine, variant));
    if (variant.cap) p.limiterMs = 1000.0 / variant.cap->value();
    return p;
}

capture::Capture emptyCapture() {
    capture::Capture c;
    c.kind = capture::IntervalKind::Displayed;
    c.cpuWorkMs.emplace();
    c.gpuWorkMs.emplace();
    c.latencyMs.emplace();
    return c;
}

Result<Recording> SimulatedRig::record(const run::Order& order, const RigState& state, const FrameSink& sink,
                                       const Context& context) {
    const auto* route = m_game.route(order.route);
    if (route == nullptr) return fail(ErrorCode::UnknownName, order.route, {{}, {}, {}, "route"});
    if (const auto known = game::checkValues(m_game, order.variant.values); !known)
        return tl::unexpected(known.error());

    const World world(m_model, m_machine, m_game, *route, order);
    const double durationMs = world.durationMs() * std::min(1.0, order.seconds / route->seconds());
    Swing cpuSwing(order.seed, "cpu swing", m_model.cpuSwing, m_model.swingSeconds);
    Swing gpuSwing(order.seed, "gpu swing", m_model.gpuSwing, m_model.swingSeconds);
    RandomStream white(order.seed, "white"), limiter(order.seed, "limiter");
    EventQueue cpuSpikes(drawEvents(order.seed, "cpu spikes", m_model.cpuSpikes, durationMs));
    EventQueue gpuSpikes(drawEvents(order.seed, "gpu spikes", m_model.gpuSpikes, durationMs));
    const bool compiling = order.driverUpdated || !state.shadersCompiled;
    EventQueue compiles(compiling ? compileEvents(m_model.compiles, world.durationMs()) : std::vector<Event>{});
    Backlog cpuBacklog(order.seed, "cpu backlog", m_model.cpuDeferred, m_model.switchLossCpuMs);
    Backlog gpuBacklog(order.seed, "gpu backlog", m_model.gpuDeferred, m_model.switchLossGpuMs);
    Sensors sensors(order.seed, m_model);
    std::optional<Chips> chips;
    if (m_model.power) chips.emplace(*m_model.power, state.power);

    pace::FramePipeline pipeline(pipelineOf(m_model, m_machine, order.variant));
    Recording out{emptyCapture(), {true}, false};
    double recordedMs = 0, lastCpuMs = 0, lastGpuMs = 0;
    bool first = true;
    std::size_t part = static_cast<std::size_t>(-1);
    for (;;) {
        const pace::Stages before = pipeline.previous();
        const double start = pipeline.start(std::abs(0.08 * limiter.normal()));
        if (start >= durationMs) break;
        const Work work = world.at(start);
        const double elapsed = start - before.cpuStart;
        if (chips) chips->advance(elapsed, lastCpuMs, lastGpuMs);
        // Background work, spikes and compiles copy more than they compute: they wait less for the clock.
        const double cpuStretch = chips ? chips->cpuStretch() : 1, gpuStretch = chips ? chips->gpuStretch() : 1;
        double cpuMs = work.cpuMs * cpuStretch * cpuSwing.at(start) * (1 + m_model.whiteSd * white.normal());
        cpuMs += std::sqrt(cpuStretch) * (cpuSpikes.takeUntil(start) + compiles.takeUntil(start) +
                                          cpuBacklog.fall(elapsed, start - before.cpuEnd));
        const double gpuStart = pipeline.cpu(cpuMs);
        double gpuMs = work.gpuMs * gpuStretch * gpuSwing.at(start) * (1 + m_model.whiteSd * white.normal());
        gpuMs +=
            std::sqrt(gpuStretch) * (gpuSpikes.takeUntil(start) + gpuBacklog.fall(elapsed, gpuStart - before.gpuEnd));
        lastCpuMs = cpuMs;
        lastGpuMs = gpuMs;
        const pace::Stages frame = pipeline.gpu(gpuMs);
        if (std::exchange(first, false)) continue; // no interval before the first frame
        const FrameSample sample{frame.shown - before.shown, cpuMs, gpuMs, frame.shown - frame.cpuStart,
                                 world.partAt(start)};
        if (sample.frameMs <= 0) continue; // two frames in one tick
        if (context.cancelled()) {
            out.cancelled = true;
            break;
        }
        if (sample.part != part) {
            part = sample.part;
            out.capture.marks.push_back({route->parts[part].name, out.capture.frames()});
        }
        out.capture.framesMs.push_back(sample.frameMs);
        out.capture.cpuWorkMs->push_back(cpuMs);
        out.capture.gpuWorkMs->push_back(gpuMs);
        out.capture.latencyMs->push_back(sample.latencyMs);
        recordedMs += sample.frameMs;
        sensors.frame(recordedMs, sample.frameMs, work, cpuMs, gpuMs, chips ? &*chips : nullptr);
        if (sink) sink(sample);
        if (m_playback) m_playback(recordedMs, context.stop);
        if (out.capture.frames() % 256 == 0) context.report(start / durationMs);
    }
    if (out.cancelled && out.capture.frames() == 0) return fail(ErrorCode::Cancelled);
    // A cut run has not met every shader.
    out.next.shadersCompiled = state.shadersCompiled || !out.cancelled;
    if (chips) out.next.power = chips->state();
    out.capture.tracks = sensors.take();
    context.report(1);
    return out;
}

} // namespace

bool canSimulate(const machine::Machine& machine, const game::Game& game) {
    return hasModel(machine, game);
}

Result<std::unique_ptr<Rig>> simulatedRig(const machine::Machine& machine, const game::Game& game, Playback playback) {
    auto model = readModel(machine, game);
    if (!model) return tl::unexpected(model.error());
    return std::unique_ptr<Rig>(std::make_unique<SimulatedRig>(std::move(*model), machine, game, std::move(playback)));
}

} // namespace impasto::rig
