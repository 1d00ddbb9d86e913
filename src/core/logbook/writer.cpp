// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/logbook/writer.h>

namespace impasto::logbook {

LogbookWriter::LogbookWriter(std::unique_ptr<Logbook> logbook, Hooks hooks, Clock clock)
    : m_logbook(std::move(logbook)), m_hooks(std::move(hooks)), m_clock(std::move(clock)),
      m_thread([this](const std::stop_token& quit) { loop(quit); }) {}

LogbookWriter::~LogbookWriter() {
    m_thread.request_stop();
    m_thread.join();
}

void LogbookWriter::post(const session::Change& change, const session::SessionStore& store) {
    const std::lock_guard lock(m_mutex);
    m_jobs.push_back({change, store.first(), store.steps(), {}});
    m_changed.notify_all();
}

void LogbookWriter::postRecording(const session::Session& session, run::Run soFar) {
    const std::lock_guard lock(m_mutex);
    std::erase_if(m_jobs, [&](const Job& job) { return job.recording && job.recording->id == soFar.id; });
    Job job;
    job.change.session = session;
    job.recording = std::move(soFar);
    m_jobs.push_back(std::move(job));
    m_changed.notify_all();
}

void LogbookWriter::waitIdle() {
    std::unique_lock lock(m_mutex);
    m_changed.wait(lock, [this] { return m_jobs.empty() && !m_busy; });
}

bool LogbookWriter::idle() const {
    const std::lock_guard lock(m_mutex);
    return m_jobs.empty() && !m_busy;
}

Result<void> LogbookWriter::perform(const Job& job) {
    if (job.recording) return m_logbook->storeRecording(job.change.session, *job.recording);
    return m_logbook->store(job.change, job.first, job.steps, m_clock().time_since_epoch().count());
}

void LogbookWriter::tell(const Job& job) {
    if (job.recording && m_hooks.onFramesSaved)
        m_hooks.onFramesSaved(job.recording->id, job.recording->capture->frames());
    if (!job.recording && m_hooks.onSaved) m_hooks.onSaved(job.change.session.id, job.change.session.revision);
}

void LogbookWriter::loop(const std::stop_token& quit) {
    bool failing = false;
    std::unique_lock lock(m_mutex);
    for (;;) {
        m_changed.wait(lock, quit, [this] { return !m_jobs.empty(); });
        if (m_jobs.empty()) return;
        Job job = std::move(m_jobs.front());
        m_jobs.pop_front();
        m_busy = true;
        lock.unlock();
        const auto done = perform(job);
        if (done)
            tell(job);
        else if (!failing && m_hooks.onError)
            m_hooks.onError(done.error());
        failing = !done;
        lock.lock();
        m_busy = false;
        if (failing) {
            // Facts are added at the end of their lists: order must be kept.
            m_jobs.push_front(std::move(job));
            if (quit.stop_requested()) return;
            m_changed.wait_for(lock, quit, std::chrono::milliseconds(300), [] { return false; });
        }
        m_changed.notify_all();
    }
}

} // namespace impasto::logbook
