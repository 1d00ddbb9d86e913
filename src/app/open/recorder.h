// SPDX-License-Identifier: GPL-3.0-or-later
// Records orders at the simulator on a worker, paced for the eye, with an append-only tail for the ribbon.
#pragma once

#include "open/bridge.h"

#include <condition_variable>
#include <impasto/base/worker.h>
#include <impasto/logbook/writer.h>
#include <impasto/path/record.h>

namespace impasto::app {

/// Holds a recording back to `speed` times real time. skip() lets it run free until reset().
class Pacer {
  public:
    explicit Pacer(double speed) : m_speed(speed) {} // 0: never waits
    void reset();
    void skip();
    void wait(double recordedMs, const std::stop_token& stop);

  private:
    double m_speed;
    std::mutex m_mutex;
    std::condition_variable_any m_changed;
    bool m_skip = false;
    std::chrono::steady_clock::time_point m_start;
};

class Recorder {
  public:
    struct Hooks { // on the window's thread
        std::function<void(const run::Order&, std::size_t index)> onStart;
        std::function<void(run::Run)> onRun;
        std::function<void(std::optional<Error>)> onEnd;
    };
    Recorder(Bridge bridge, double speed, Worker::Fault fault)
        : m_bridge(std::move(bridge)), m_pacer(speed), m_worker(std::move(fault)) {}

    /// The originals are copied: the window may learn more of them meanwhile.
    void start(const document::Session& session, const description::Originals& originals,
               std::vector<run::Order> orders, const IdSource& ids, const Clock& clock, logbook::LogbookWriter* writer,
               Hooks hooks);
    /// The recording ends soon and says so; one that has not begun yet, too.
    void cancel() {
        m_cancel.request_stop();
        m_pacer.skip();
    }
    void skip() { m_pacer.skip(); }
    [[nodiscard]] bool idle() const { return m_worker.idle(); }
    /// Frames pushed since the last call for this run, appended; and the part marks so far.
    void takeTail(std::vector<double>& frameMs, std::vector<capture::PartMark>& marks);

  private:
    struct Tail {
        capture::Capture capture;
        RunId id;
        std::size_t taken = 0;
    };
    Bridge m_bridge;
    Pacer m_pacer;
    std::mutex m_mutex;
    Tail m_tail;
    std::stop_source m_cancel; // of the newest recording
    Worker m_worker;           // last: it uses the members above
};

} // namespace impasto::app
