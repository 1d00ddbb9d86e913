// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/logbook/writer.h>

#include <impasto/base/guard.h>

namespace impasto::logbook {

LogbookWriter::LogbookWriter(std::unique_ptr<Logbook> logbook, Hooks hooks, Clock clock)
    : m_logbook(std::move(logbook)), m_hooks(std::move(hooks)), m_clock(std::move(clock)),
      m_thread([this](const std::stop_token& quit) { loop(quit); }) {}

LogbookWriter::~LogbookWriter() {
    m_thread.request_stop();
    m_thread.join();
}

void LogbookWriter::post(const document::Change& change, const document::SessionStore& store,
                         const description::Originals& originals) {
    auto words = Logbook::wordsOf(change, store, originals);
    Job job;
    job.change = change;
    job.words = std::move(words);
    push(std::move(job));
}

void LogbookWriter::postRecording(const document::Session& session, run::Run soFar) {
    const std::lock_guard lock(m_mutex);
    std::erase_if(m_jobs, [&](const Job& job) { return job.recording && job.recording->id == soFar.id; });
    Job job;
    job.change.session = session;
    job.recording = std::move(soFar);
    m_jobs.push_back(std::move(job));
    m_changed.notify_all();
}

void LogbookWriter::push(Job job) {
    const std::lock_guard lock(m_mutex);
    m_jobs.push_back(std::move(job));
    m_changed.notify_all();
}

void LogbookWriter::postAbout(const SessionId& session, const About& about) {
    Job job;
    job.change.session.id = session;
    job.about = about;
    push(std::move(job));
}

void LogbookWriter::postDeleted(const SessionId& session, bool deleted) {
    Job job;
    job.change.session.id = session;
    job.deleted = deleted;
    push(std::move(job));
}

void LogbookWriter::waitIdle() {
    std::unique_lock lock(m_mutex);
    m_changed.wait(lock, [this] { return m_jobs.empty() && !m_busy; });
}

bool LogbookWriter::idle() const {
    const std::lock_guard lock(m_mutex);
    return m_jobs.empty() && !m_busy;
}

bool LogbookWriter::nothingWaits() const {
    const std::lock_guard lock(m_mutex);
    return m_jobs.empty();
}

Result<void> LogbookWriter::perform(const Job& job) {
    if (job.about) return m_logbook->storeAbout(job.change.session.id, *job.about);
    if (job.deleted) return m_logbook->storeDeleted(job.change.session.id, *job.deleted);
    if (job.recording) return m_logbook->storeRecording(job.change.session, *job.recording);
    return m_logbook->store(job.change, job.words, m_clock().time_since_epoch().count());
}

void LogbookWriter::tell(const Job& job) {
    if (job.about) return;
    if (job.deleted) {
        if (auto sessions = m_logbook->sessions(); sessions && m_hooks.onSessions)
            m_hooks.onSessions(std::move(*sessions));
        return;
    }
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
        const auto done = guarded([&] { return perform(job); });
        if (done) tell(job);
        if (done && !job.recording && nothingWaits()) m_logbook->settle();
        if (!done && !failing && m_hooks.onError) m_hooks.onError(done.error());
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
