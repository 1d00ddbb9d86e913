// SPDX-License-Identifier: GPL-3.0-or-later
// The simulated rig: work from hidden tables, the world of the route, clocks and faults, through the frame pipeline.
#include <cmath>
#include <impasto/pace/pipeline.h>
#include <impasto/rig_sim/simulated.h>

#include "sensors.h"
#include "world.h"

namespace impasto::rig_sim {
namespace {

using namespace rig_model;

constexpr double limiterJitterMs = 0.08; // one-sided: a limiter is late, never early
constexpr double stillBeforeIdleMs = 1000;

/// What goes wrong in this run, and when, in game time.
struct Trouble {
    std::optional<double> crashAtMs, gpuIdleFromMs;
    double gpuIdleWaitMs = 0;
};

Trouble drawTrouble(const Model& model, const run::Order& order, const rig::RigState& state, double durationMs) {
    RandomStream stream(order.seed, "faults");
    Trouble out;
    for (const auto& fault : model.faults) {
        const bool happens = stream.uniform() < fault.chance;
        const double at = durationMs * stream.uniform(0.05, 0.4);
        if (!happens) continue;
        if (fault.kind == Fault::Kind::GpuIdle) {
            if (!order.variant.generation || order.variant.generation->kind != run::GenerationKind::External) continue;
            out.gpuIdleFromMs = at;
            out.gpuIdleWaitMs = fault.waitMs;
            continue;
        }
        const auto wanted = order.variant.values.find(fault.setting), before = state.applied.find(fault.setting);
        const bool newly = wanted != order.variant.values.end() && wanted->second == fault.level &&
                           (before == state.applied.end() || before->second != fault.level);
        if (newly) out.crashAtMs = at;
    }
    return out;
}

double spread(std::uint64_t seed, std::string_view purpose, double sd) {
    return sd > 0 ? RandomStream(seed, purpose).lognormal(1, sd) : 1;
}

Events scaled(Events events, double factor) {
    events.perSecond *= factor;
    return events;
}

Deferred scaled(Deferred deferred, std::uint64_t seed, std::string_view purpose, double sd) {
    RandomStream stream(seed, purpose);
    if (sd > 0) {
        deferred.msPerSecond *= stream.lognormal(1, sd);
        deferred.limitMs *= stream.lognormal(1, sd);
    }
    return deferred;
}

/// Everything that a run's frames are made from.
struct Scene {
    const Model& model;
    const machine::Machine& machine;
    const game::Game& game;
    const game::Route& route;
};

pace::Pipeline pipelineOf(const Scene& scene, const run::Variant& variant) {
    const Model& model = scene.model;
    const display::Resolution output = outputOf(scene.machine, scene.game, variant);
    pace::Pipeline p;
    p.framesInFlight = model.framesInFlight;
    p.images = scene.machine.panel.headset ? 2 : p.images;
    p.display = pace::displayOf(scene.machine.panel, variant.sync, variant.refresh);
    if (variant.cap) p.limiterMs = 1000.0 / variant.cap->value();
    p.limiterPlace = variant.limiter;
    if (model.copy && !variant.direct) p.copyMs = model.copy->msOf(output);
    if (const auto& generation = variant.generation) {
        p.multiplier = generation->multiplier;
        if (generation->target) p.generationTargetMs = 1000.0 / generation->target->value();
        if (generation->onSecondGpu) p.copyMs = model.secondGpu->linkMsOf(output);
    }
    return p;
}

/// One run as it is played, frame by frame.
class Play {
  public:
    Play(const Scene& scene, const run::Order& order, const rig::RigState& state);
    /// The next frame that is shown; nothing when the route is over or the game has crashed.
    std::optional<rig::FrameSample> next();
    [[nodiscard]] double share() const { return m_pipeline.previous().cpuStart / m_endMs; }
    [[nodiscard]] bool crashed() const { return m_crashed; }
    [[nodiscard]] rig::RigState after(const rig::RigState& before, const run::Order& order) const;
    std::vector<capture::Track> takeTracks() { return m_sensors.take(); }

  private:
    bool step();
    double cpuWork(double start, double gapMs, double elapsed);
    double gpuWork(double start, double gapMs, double elapsed);
    double generationWork();
    [[nodiscard]] rig::FrameSample sampleOf(const pace::Stages& frame) const;
    std::optional<rig::FrameSample> give();

    const Scene& m_scene;
    const run::Variant& m_variant;
    World m_world;
    double m_endMs;
    Swing m_cpuSwing, m_gpuSwing;
    Turns m_turns;
    RandomStream m_white, m_limiter, m_copy;
    EventQueue m_cpuSpikes, m_gpuSpikes, m_compiles;
    Backlog m_cpuBacklog, m_gpuBacklog;
    Sensors m_sensors;
    std::optional<Chips> m_chips;
    Trouble m_trouble;
    pace::Pipeline m_stages;
    pace::FramePipeline m_pipeline;
    double m_copySd;
    double m_outputMpix;

    // Of the frame that step() made.
    Work m_work;
    double m_cpuMs = 0, m_gpuMs = 0, m_cpuServedMs = 0, m_gpuServedMs = 0, m_startedApartMs = 0, m_secondGpuMs = 0;
    double m_turn = 0;
    // A frame is given once the next is there: under some syncs that one may take its refresh.
    std::optional<rig::FrameSample> m_held;
    double m_heldShownMs = 0, m_shownBeforeMs = 0;
    bool m_first = true;
    std::vector<double> m_invented, m_given; // of the frame held, of the one given
    double m_recordedMs = 0;
    bool m_crashed = false, m_over = false;
};

Play::Play(const Scene& scene, const run::Order& order, const rig::RigState& state)
    : m_scene(scene), m_variant(order.variant),
      m_world(scene.model, scene.machine, scene.game, scene.route, order.variant, order.seed),
      m_endMs(m_world.durationMs() * std::min(1.0, order.seconds / scene.route.seconds())),
      m_cpuSwing(order.seed, "cpu swing", scene.model.cpuSwing, scene.model.swingSeconds),
      m_gpuSwing(order.seed, "gpu swing", scene.model.gpuSwing, scene.model.swingSeconds),
      m_turns(order.seed, scene.model.turn, scene.model.turnDwellSeconds), m_white(order.seed, "white"),
      m_limiter(order.seed, "limiter"), m_copy(order.seed, "copy"),
      m_cpuSpikes(drawEvents(
          order.seed, "cpu spikes",
          scaled(scene.model.cpuSpikes, spread(order.seed, "cpu spike rate", scene.model.backgroundSd)), m_endMs)),
      m_gpuSpikes(drawEvents(
          order.seed, "gpu spikes",
          scaled(scene.model.gpuSpikes, spread(order.seed, "gpu spike rate", scene.model.backgroundSd)), m_endMs)),
      m_compiles(compileEvents(scene.model.compiles, m_world.durationMs(),
                               order.conditions.driverUpdated ? 0 : state.shadersMet)),
      m_cpuBacklog(order.seed, "cpu backlog",
                   scaled(scene.model.cpuDeferred, order.seed, "cpu background", scene.model.backgroundSd),
                   scene.model.switchLossCpuMs),
      m_gpuBacklog(order.seed, "gpu backlog",
                   scaled(scene.model.gpuDeferred, order.seed, "gpu background", scene.model.backgroundSd),
                   scene.model.switchLossGpuMs),
      m_sensors(order.seed, scene.model, scene.model.power.has_value()),
      m_trouble(drawTrouble(scene.model, order, state, m_endMs)), m_stages(pipelineOf(scene, order.variant)),
      m_pipeline(m_stages), m_copySd(scene.model.copy && !order.variant.direct ? scene.model.copy->sd : 0),
      m_outputMpix(display::megapixelsOf(outputOf(scene.machine, scene.game, order.variant)).value()) {
    if (scene.model.power) m_chips.emplace(under(*scene.model.power, order.conditions), state.power);
}

// Background work, spikes and compiles copy more than they compute: they wait less for the clock.

double Play::cpuWork(double start, double gapMs, double elapsed) {
    const double stretch = m_chips ? m_chips->cpuStretch() : 1;
    const auto background = m_cpuBacklog.pass(elapsed, gapMs, 0);
    m_cpuServedMs = background.servedMs;
    double ms = m_work.cpuMs * stretch * (m_cpuSwing.at(start) + m_turn / 2);
    ms *= 1 + m_scene.model.whiteSd * m_white.normal();
    return ms + std::sqrt(stretch) * (m_cpuSpikes.takeUntil(start) + m_compiles.takeUntil(start) + background.fallenMs);
}

double Play::gpuWork(double start, double gapMs, double elapsed) {
    const double stretch = m_chips ? m_chips->gpuStretch() : 1;
    const auto background = m_gpuBacklog.pass(elapsed, gapMs, m_scene.model.pagingBacklogMs * m_work.overflowGib);
    m_gpuServedMs = background.servedMs;
    double ms = m_work.gpuMs * stretch * (m_gpuSwing.at(start) + m_turn);
    ms *= 1 + m_scene.model.whiteSd * m_white.normal();
    return ms + std::sqrt(stretch) * (m_gpuSpikes.takeUntil(start) + background.fallenMs);
}

/// Renders one frame; false when the run is over.
bool Play::step() {
    const pace::Stages before = m_pipeline.previous();
    if (m_variant.idleCap) {
        const bool idle = m_world.stillForMs(before.cpuStart) >= stillBeforeIdleMs;
        const auto cap = !idle           ? m_variant.cap
                         : m_variant.cap ? std::min(*m_variant.cap, *m_variant.idleCap)
                                         : *m_variant.idleCap;
        m_pipeline.setLimiter(cap ? std::optional(1000.0 / cap->value()) : std::nullopt);
    }
    const double start = m_pipeline.start(std::abs(limiterJitterMs * m_limiter.normal()));
    m_crashed = m_trouble.crashAtMs && start >= *m_trouble.crashAtMs;
    m_over = start >= m_endMs;
    if (m_over || m_crashed) return false;
    m_work = m_world.at(start);
    m_turn = m_world.stillForMs(start) > 0 ? 0 : m_turns.at(start);
    m_startedApartMs = start - before.cpuStart;
    if (m_chips) m_chips->advance(m_startedApartMs, m_cpuMs + m_cpuServedMs, m_gpuMs + m_gpuServedMs);
    m_cpuMs = cpuWork(start, start - before.cpuEnd, m_startedApartMs);
    const double gpuStart = m_pipeline.cpu(m_cpuMs);
    m_gpuMs = gpuWork(start, gpuStart - before.gpuEnd, m_startedApartMs);
    double copyMs = m_stages.copyMs;
    if (copyMs > 0 && m_copySd > 0) copyMs *= std::max(0.2, 1 + m_copySd * m_copy.normal());
    m_secondGpuMs = 0;
    if (const double ms = generationWork(); m_variant.generation && m_variant.generation->onSecondGpu)
        m_secondGpuMs = ms;
    else
        m_gpuMs += ms;
    const bool waits = m_trouble.gpuIdleFromMs && start >= *m_trouble.gpuIdleFromMs;
    m_pipeline.gpu(m_gpuMs + (waits ? m_trouble.gpuIdleWaitMs : 0), copyMs, m_secondGpuMs);
    m_sensors.busy(m_cpuMs + m_cpuServedMs, m_gpuMs + m_gpuServedMs, m_secondGpuMs);
    return true;
}

double Play::generationWork() {
    const auto& generation = m_variant.generation;
    if (!generation) return 0;
    const Model& model = m_scene.model;
    const double ms = model.generation.msOf(generation->kind, m_pipeline.multiplier(), m_outputMpix);
    if (generation->onSecondGpu) return ms / model.secondGpu->speed;
    return ms / model.gpuSpeed * (m_chips ? m_chips->gpuStretch() : 1);
}

rig::FrameSample Play::sampleOf(const pace::Stages& frame) const {
    return {frame.shown - m_shownBeforeMs,
            m_scene.model.cpuReadingWaits ? m_startedApartMs : m_cpuMs,
            m_gpuMs,
            frame.shown - frame.cpuStart,
            m_world.partAt(frame.cpuStart),
            0,
            {}};
}

std::optional<rig::FrameSample> Play::next() {
    while (step()) {
        const pace::Stages& frame = m_pipeline.previous();
        if (std::exchange(m_first, false)) { // no interval before the first frame
            m_heldShownMs = m_shownBeforeMs = frame.shown;
            continue;
        }
        if (frame.shown <= m_heldShownMs) { // it takes the refresh of the frame before, which is lost
            const std::size_t lost = m_held ? m_held->lost + 1 : 1;
            if (frame.shown > m_shownBeforeMs) m_held = sampleOf(frame);
            if (m_held) m_held->lost = lost;
            continue;
        }
        const auto given = give();
        m_shownBeforeMs = m_heldShownMs;
        m_heldShownMs = frame.shown;
        m_held = sampleOf(frame);
        m_invented.clear();
        for (const double at : m_pipeline.invented())
            if (at > m_shownBeforeMs) m_invented.push_back(at - m_shownBeforeMs);
        if (given) return given;
    }
    return give();
}

/// The frame that is held, with its readings.
std::optional<rig::FrameSample> Play::give() {
    auto sample = std::exchange(m_held, std::nullopt);
    if (!sample) return sample;
    m_given = m_invented;
    sample->inventedMs = m_given;
    m_recordedMs += sample->frameMs;
    m_sensors.frame(m_recordedMs, sample->frameMs, m_work, m_chips ? &*m_chips : nullptr);
    return sample;
}

rig::RigState Play::after(const rig::RigState& before, const run::Order& order) const {
    rig::RigState out;
    const double playedMs = m_over ? m_endMs : m_pipeline.previous().cpuStart;
    out.shadersMet = std::max(order.conditions.driverUpdated ? 0 : before.shadersMet, playedMs / m_world.durationMs());
    if (m_chips) out.power = m_chips->state();
    const bool remembers = !m_scene.model.waitsForReload.empty() || !m_scene.model.faults.empty();
    if (m_crashed)
        out.applied = before.applied;
    else if (remembers)
        out.applied = order.variant.values;
    return out;
}

class SimulatedRig final : public rig::Rig {
  public:
    SimulatedRig(Model model, machine::Machine machine, game::Game game, Playback playback)
        : m_model(std::move(model)), m_machine(std::move(machine)), m_game(std::move(game)),
          m_playback(std::move(playback)) {}

    Result<rig::Recording> record(const run::Order& order, const rig::RigState& state, const rig::FrameSink& sink,
                                  const Context& context) override;

  private:
    [[nodiscard]] std::optional<Error> faultOf(const run::Order& order) const;
    [[nodiscard]] Result<rig::RigState> warmedUp(const run::Order& order, rig::RigState state, const Context& context);

    Model m_model;
    machine::Machine m_machine;
    game::Game m_game;
    Playback m_playback;
};

/// What the order asks for that the game or the machine does not have.
std::optional<Error> SimulatedRig::faultOf(const run::Order& order) const {
    const auto lacks = [](std::string what, std::string key) {
        return Error{ErrorCode::UnknownName, std::move(what), {{}, {}, {}, std::move(key)}};
    };
    const auto outside = [](std::string range, std::string key) {
        return Error{ErrorCode::OutOfRange, std::move(range), {{}, {}, {}, std::move(key)}};
    };
    const run::Variant& v = order.variant;
    if (m_game.route(order.route) == nullptr) return lacks(order.route, "route");
    if (const auto known = game::checkValues(m_game, v.values); !known) return known.error();
    const auto& modes = m_machine.panel.modes;
    if (v.refresh && *v.refresh != m_machine.panel.refresh &&
        std::find(modes.begin(), modes.end(), *v.refresh) == modes.end())
        return lacks(fmt::format("{} Hz", v.refresh->value()), "refresh");
    if (v.upscaling) {
        const auto& kinds = m_game.upscalers;
        if (std::find(kinds.begin(), kinds.end(), v.upscaling->kind) == kinds.end())
            return lacks(std::string(game::keyOf(v.upscaling->kind)), "upscaling");
        if (v.upscaling->ratio < 1 || v.upscaling->ratio > 4) return outside("1 to 4", "upscaling");
    }
    if (v.sharpening < 0 || v.sharpening > 1) return outside("0 to 1", "sharpening");
    if (const auto& g = v.generation) {
        const bool builtIn = g->kind == run::GenerationKind::BuiltIn;
        if (builtIn && !m_game.generatesFrames) return lacks(std::string(run::keyOf(g->kind)), "generation");
        if (g->onSecondGpu && (!m_model.secondGpu || builtIn)) return lacks("second GPU", "generation");
        if (g->multiplier < 2 || g->multiplier > run::mostMultiplier)
            return outside(fmt::format("2 to {}", run::mostMultiplier), "generation");
    }
    if (v.direct && !m_model.copy) return lacks("direct", "copy_route");
    return std::nullopt;
}

/// The state after playing before the recording.
Result<rig::RigState> SimulatedRig::warmedUp(const run::Order& order, rig::RigState state, const Context& context) {
    const Scene scene{m_model, m_machine, m_game, *m_game.route(order.route)};
    run::Order lap = order;
    double left = order.conditions.warmUpSeconds;
    for (std::uint64_t i = 0; left > 0; ++i) {
        lap.seconds = std::min(left, scene.route.seconds());
        lap.seed = deriveSeed(order.seed, fmt::format("warm-up {}", i));
        left -= lap.seconds;
        Play play(scene, lap, state);
        while (play.next())
            if (context.cancelled()) return fail(ErrorCode::Cancelled);
        state = play.after(state, lap);
        lap.conditions.driverUpdated = false;
        if (play.crashed()) return fail(ErrorCode::GameCrashed);
    }
    return state;
}

Result<rig::Recording> SimulatedRig::record(const run::Order& wanted, const rig::RigState& before,
                                            const rig::FrameSink& sink, const Context& context) {
    if (auto fault = faultOf(wanted)) return tl::unexpected(*fault);
    run::Order order = wanted;
    if (!order.conditions.reload)
        for (const auto& id : m_model.waitsForReload)
            if (const auto it = before.applied.find(id); it != before.applied.end())
                order.variant.values[id] = it->second;
    const auto state = warmedUp(order, before, context);
    if (!state) return tl::unexpected(state.error());
    if (order.conditions.warmUpSeconds > 0) order.conditions.driverUpdated = false;

    const Scene scene{m_model, m_machine, m_game, *m_game.route(order.route)};
    Play play(scene, order, *state);
    rig::Recording out;
    out.capture.kind = capture::IntervalKind::Displayed;
    double recordedMs = 0;
    while (const auto sample = play.next()) {
        if (context.cancelled()) {
            out.cancelled = true;
            break;
        }
        rig::append(out.capture, *sample, scene.route.parts[sample->part].name);
        recordedMs += sample->frameMs;
        if (sink) sink(*sample);
        if (m_playback) m_playback(recordedMs, context.stop);
        if (out.capture.frames() % 256 == 0) context.report(play.share());
    }
    out.crashed = play.crashed();
    if (out.capture.frames() == 0) {
        if (out.cancelled) return fail(ErrorCode::Cancelled);
        if (out.crashed) return fail(ErrorCode::GameCrashed);
    }
    out.next = play.after(*state, order);
    out.capture.tracks = play.takeTracks();
    context.report(1);
    return out;
}

} // namespace

bool canSimulate(const description::Originals& originals, const machine::Machine& machine, const game::Game& game) {
    return hasModel(machine, game, originals);
}

Result<std::unique_ptr<rig::Rig>> simulatedRig(const description::Originals& originals, const machine::Machine& machine,
                                               const game::Game& game, Playback playback) {
    auto model = readModel(machine, game, originals);
    if (!model) return tl::unexpected(model.error());
    return std::unique_ptr<rig::Rig>(
        std::make_unique<SimulatedRig>(std::move(*model), machine, game, std::move(playback)));
}

std::string hiddenTables(const std::string& description) {
    const auto at = description.find("\n[rig");
    return at == std::string::npos ? std::string() : description.substr(at);
}

} // namespace impasto::rig_sim
