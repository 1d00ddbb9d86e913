// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/worker.h>

#include <impasto/base/guard.h>

namespace impasto {

Worker::Worker(Fault fault)
    : m_fault(std::move(fault)), m_thread([this](const std::stop_token& quit) { loop(quit); }) {}

Worker::~Worker() {
    m_thread.request_stop();
    cancel();
    m_thread.join();
}

void Worker::post(Job job) {
    const std::lock_guard lock(m_mutex);
    m_waiting = std::move(job);
    if (m_running) m_running->request_stop();
    m_changed.notify_all();
}

void Worker::cancel() {
    const std::lock_guard lock(m_mutex);
    m_waiting.reset();
    if (m_running) m_running->request_stop();
    m_changed.notify_all();
}

void Worker::waitIdle() {
    std::unique_lock lock(m_mutex);
    m_changed.wait(lock, [this] { return !m_running && !m_waiting; });
}

bool Worker::idle() const {
    const std::lock_guard lock(m_mutex);
    return !m_running && !m_waiting;
}

void Worker::loop(const std::stop_token& quit) {
    std::unique_lock lock(m_mutex);
    while (m_changed.wait(lock, quit, [this] { return m_waiting.has_value(); })) {
        Job job = std::move(*m_waiting);
        m_waiting.reset();
        m_running.emplace();
        const std::stop_token stop = m_running->get_token();
        lock.unlock();
        const auto done = guarded([&]() -> Result<void> {
            job(stop);
            return {};
        });
        if (!done) m_fault(done.error());
        job = nullptr; // what it holds is released before anyone is told that it ended
        lock.lock();
        m_running.reset();
        m_changed.notify_all();
    }
}

} // namespace impasto
