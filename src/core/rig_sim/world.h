// SPDX-License-Identifier: GPL-3.0-or-later
// What happens on the route, drawn in game time and never by frame, so that runs of one seed under other caps and
// values see the same world.
#pragma once

#include <impasto/base/random.h>
#include <impasto/rig_model/model.h>

namespace impasto::rig_sim {

/// A correlated swing around 1: first-order autoregressive on knots every 20 ms, linear in between.
class Swing {
  public:
    Swing(std::uint64_t seed, std::string_view purpose, double sd, double seconds);
    double at(double ms);

  private:
    RandomStream m_stream;
    double m_sd, m_rho;
    std::vector<double> m_knots;
};

/// The camera: it turns to a new view within about 150 ms and stays there for a while. A share of the work, around 0.
class Turns {
  public:
    Turns(std::uint64_t seed, double amplitude, double dwellSeconds);
    double at(double ms);

  private:
    RandomStream m_stream;
    double m_amplitude, m_dwellMs;
    double m_knotMs = 0, m_value = 0, m_before = 0, m_target = 0, m_nextMs = 0;
};

struct Event {
    double atMs, workMs;
};
std::vector<Event> drawEvents(std::uint64_t seed, std::string_view purpose, const rig_model::Events& events,
                              double durationMs);
/// Shaders met for the first time, at fixed places of the route with their own cost, whatever the seed of the run;
/// those behind the share that was met before.
std::vector<Event> compileEvents(const rig_model::Events& compiles, double durationMs, double metBefore);

/// Events in time order, each taken by the first frame that starts after it.
class EventQueue {
  public:
    explicit EventQueue(std::vector<Event> events) : m_events(std::move(events)) {}
    double takeUntil(double ms);

  private:
    std::vector<Event> m_events;
    std::size_t m_next = 0;
};

/// Background work of one lane.
class Backlog {
  public:
    Backlog(std::uint64_t seed, std::string_view purpose, const rig_model::Deferred& deferred, double switchLossMs);
    struct Done {
        double servedMs; // in the idle gap
        double fallenMs; // into the frame after it
    };
    Done pass(double elapsedMs, double gapMs, double moreMsPerSecond);

  private:
    void drawLimit();
    RandomStream m_stream;
    rig_model::Deferred m_deferred;
    double m_switchLossMs;
    double m_ms = 0, m_limitMs = 0;
};

/// The route's parts in game time, with the loads of the variant in each and a cross-fade between them.
class World {
  public:
    World(const rig_model::Model& model, const machine::Machine& machine, const game::Game& game,
          const game::Route& route, const run::Variant& variant, std::uint64_t seed);
    [[nodiscard]] double durationMs() const { return m_parts.empty() ? 0.0 : m_parts.back().endMs; }
    [[nodiscard]] std::size_t partAt(double ms) const;
    [[nodiscard]] rig_model::Work at(double ms) const;
    /// For how long nothing has moved, ms; 0 while something does.
    [[nodiscard]] double stillForMs(double ms) const;

  private:
    struct Part {
        double endMs, stillFromMs;
        rig_model::Work work;
    };
    std::vector<Part> m_parts;
};

} // namespace impasto::rig_sim
