// SPDX-License-Identifier: GPL-3.0-or-later
#include "open/recorder.h"

#include <impasto/rig_sim/simulated.h>

namespace impasto::app {

using namespace std::chrono;

void Pacer::reset() {
    const std::lock_guard lock(m_mutex);
    m_skip = false;
    m_start = steady_clock::now();
}

void Pacer::skip() {
    const std::lock_guard lock(m_mutex);
    m_skip = true;
    m_changed.notify_all();
}

void Pacer::wait(double recordedMs, const std::stop_token& stop) {
    if (m_speed <= 0) return;
    std::unique_lock lock(m_mutex);
    const auto due =
        m_start + duration_cast<steady_clock::duration>(duration<double, std::milli>(recordedMs / m_speed));
    if (m_skip || due - steady_clock::now() < milliseconds(4)) return;
    m_changed.wait_until(lock, stop, due, [this] { return m_skip; });
}

void Recorder::takeTail(std::vector<double>& frameMs, std::vector<capture::PartMark>& marks) {
    const std::lock_guard lock(m_mutex);
    frameMs.insert(frameMs.end(), m_tail.capture.framesMs.begin() + static_cast<std::ptrdiff_t>(m_tail.taken),
                   m_tail.capture.framesMs.end());
    m_tail.taken = m_tail.capture.frames();
    marks = m_tail.capture.marks;
}

void Recorder::start(const document::Session& session, const description::Originals& originals,
                     std::vector<run::Order> orders, const IdSource& ids, const Clock& clock,
                     logbook::LogbookWriter* writer, Hooks hooks) {
    auto shared = std::make_shared<Hooks>(std::move(hooks));
    m_cancel = std::stop_source();
    m_worker.post([this, session, originals, orders = std::move(orders), ids, clock, writer, shared,
                   cancel = m_cancel](const std::stop_token& closed) mutable {
        const std::stop_callback whenClosed(closed, [&cancel] { cancel.request_stop(); });
        const std::stop_token stop = cancel.get_token();
        const auto end = [this, shared](std::optional<Error> error) {
            m_bridge.post([shared, error = std::move(error)] { shared->onEnd(error); });
        };
        auto rig = rig_sim::simulatedRig(originals, *session.machine(), *session.game(),
                                         [this](double ms, const std::stop_token& s) { m_pacer.wait(ms, s); });
        if (!rig) return end(rig.error());
        const auto* route = session.route();
        std::size_t index = 0;
        auto stored = steady_clock::now();
        path::RecordHooks inner;
        OrderId current;
        inner.onStart = [&](const run::Order& order, RunId id) {
            current = order.id;
            m_pacer.reset();
            {
                const std::lock_guard lock(m_mutex);
                m_tail = {};
                m_tail.id = id;
            }
            m_bridge.post([shared, order, at = index++] { shared->onStart(order, at); });
        };
        inner.onFrame = [&](const rig::FrameSample& frame) {
            run::Run soFar;
            {
                const std::lock_guard lock(m_mutex);
                auto& c = m_tail.capture;
                c.kind = capture::IntervalKind::Displayed;
                rig::append(c, frame, route == nullptr ? std::string() : route->parts[frame.part].name);
                if (writer == nullptr || steady_clock::now() - stored < milliseconds(900)) return;
                soFar.id = m_tail.id;
                soFar.capture = std::make_shared<const capture::Capture>(c);
            }
            stored = steady_clock::now();
            soFar.order = current;
            soFar.maker = run::Maker::SimulatedRig;
            soFar.made = clock();
            writer->postRecording(session, std::move(soFar));
        };
        inner.onRun = [&](run::Run run) {
            m_bridge.post([shared, run = std::move(run)]() mutable { shared->onRun(std::move(run)); });
        };
        const auto done = path::recordAll(**rig, orders, path::rigStateOf(session), inner, {stop, {}}, ids, clock);
        end(done ? std::nullopt : std::optional(done.error()));
    });
}

} // namespace impasto::app
