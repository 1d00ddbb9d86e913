// SPDX-License-Identifier: GPL-3.0-or-later
// A rig makes a run for an order. It changes no value that the order does not name; what carries over between runs is
// its state alone, which is stored with every run.
#pragma once

#include <impasto/base/context.h>
#include <impasto/run/run.h>

namespace impasto::rig {

/// One recorded frame, as it is pushed while recording.
struct FrameSample {
    double frameMs = 0;
    double cpuWorkMs = 0;
    double gpuWorkMs = 0;
    double latencyMs = 0;
    std::size_t part = 0; // index into the route's parts
    std::size_t lost = 0; // frames rendered before it and never shown
    std::span<const double>
        inventedMs; // when invented frames were shown, after the rendered frame before; for the call
};
/// Adds the frame, as recordings hold it.
void append(capture::Capture& capture, const FrameSample& frame, const std::string& part);

/// Told every frame, on the rig's thread. May be empty.
using FrameSink = std::function<void(const FrameSample&)>;

/// How warm a machine is, what it drew of late, and at which clocks it ran; shares of the highest clock.
struct PowerState {
    double cpuC = 0, gpuC = 0;
    double cpuAverageW = 0, gpuAverageW = 0, sharedAverageW = 0;
    double cpuClock = 1, gpuClock = 1;
    friend bool operator==(const PowerState&, const PowerState&) = default;
};

/// What carries over from one run to the next.
struct RigState {
    double shadersMet = 0;                // share of the route whose shaders are compiled
    std::optional<PowerState> power = {}; // none: at rest, or a machine whose power is not modelled
    game::Values applied = {};            // in effect, where some wait for a reload or may crash; else empty
    friend bool operator==(const RigState&, const RigState&) = default;
};
std::string textOf(const RigState& state);
/// Errors: BadValue.
Result<RigState> stateOf(std::string_view text);

struct Recording {
    capture::Capture capture; // cut at the moment of a cancel, holding exactly the frames that were pushed
    RigState next;
    bool cancelled = false;
    bool crashed = false; // the game ended by itself; the capture holds what there was
};

class Rig {
  public:
    Rig() = default;
    Rig(const Rig&) = delete;
    Rig& operator=(const Rig&) = delete;
    virtual ~Rig() = default;
    /// Errors: UnknownName or OutOfRange for what the game or the machine does not have, Cancelled before the first
    /// frame, GameCrashed before it.
    virtual Result<Recording> record(const run::Order& order, const RigState& state, const FrameSink& sink,
                                     const Context& context) = 0;
};

} // namespace impasto::rig
