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

void LogbookWriter::postTried(const RunId& run) {
    Job job;
    job.tried = run;
    push(std::move(job));
}

void LogbookWriter::postWhole(const document::SessionStore& store, const description::Originals& originals) {
    Job job;
    job.change = Logbook::wholeOf(store);
    job.words = Logbook::wordsOf(job.change, store, originals);
    job.words.stepsFrom = 0;
    job.words.whole = true;
    push(std::move(job));
}

void LogbookWriter::retry() {
    const std::lock_guard lock(m_mutex);
    m_again = m_held.has_value();
    m_changed.notify_all();
}

void LogbookWriter::waitIdle() {
    std::unique_lock lock(m_mutex);
    m_changed.wait(lock, [this] { return nothingWaits() && !m_busy; });
}

bool LogbookWriter::idle() const {
    const std::lock_guard lock(m_mutex);
    return nothingWaits() && !m_busy;
}

Result<void> LogbookWriter::perform(const Job& job) {
    if (job.about) return m_logbook->storeAbout(job.change.session.id, *job.about);
    if (job.deleted) return m_logbook->storeDeleted(job.change.session.id, *job.deleted);
    if (job.tried) return m_logbook->storeTried(*job.tried);
    if (job.recording) return m_logbook->storeRecording(job.change.session, *job.recording);
    return m_logbook->store(job.change, job.words, m_clock().time_since_epoch().count());
}

void LogbookWriter::tell(const Job& job) {
    if (job.about || job.tried) return;
    if (job.deleted) {
        if (auto sessions = m_logbook->sessions(); sessions && m_hooks.onSessions)
            m_hooks.onSessions(std::move(*sessions));
        return;
    }
    if (job.recording && m_hooks.onFramesSaved)
        m_hooks.onFramesSaved(job.recording->id, job.recording->capture->frames());
    if (!job.recording && m_hooks.onSaved) m_hooks.onSaved(job.change.session.id, job.change.session.revision);
}

/// Facts are added at the end of their lists, so two changes in a row are one that adds what both do.
LogbookWriter::Job LogbookWriter::together(Job earlier, Job later) {
    Job both = std::move(later);
    both.change.machines += earlier.change.machines;
    both.change.games += earlier.change.games;
    both.change.orders += earlier.change.orders;
    both.change.runs += earlier.change.runs;
    both.words.stepsFrom = std::min(earlier.words.stepsFrom, both.words.stepsFrom);
    both.words.whole = earlier.words.whole;
    const auto before = [](std::vector<std::string>& texts, std::vector<std::string>& first) {
        texts.insert(texts.begin(), std::make_move_iterator(first.begin()), std::make_move_iterator(first.end()));
    };
    before(both.words.machines, earlier.words.machines);
    before(both.words.games, earlier.words.games);
    return both;
}

/// The oldest that waits; a change takes along what is held.
LogbookWriter::Job LogbookWriter::next() {
    const bool heldOnly = m_jobs.empty();
    Job job = heldOnly ? std::move(*m_held) : std::move(m_jobs.front());
    if (!heldOnly) m_jobs.pop_front();
    if (heldOnly || job.isChange()) {
        if (!heldOnly && m_held) job = together(std::move(*m_held), std::move(job));
        m_held.reset();
        m_again = false;
    }
    return job;
}

void LogbookWriter::hold(Job job, const Error& error) {
    if (!job.isChange()) return; // what it says is of the moment
    m_held = std::move(job);
    m_again = error.code == ErrorCode::DiskFull || error.code == ErrorCode::LogbookBusy;
}

void LogbookWriter::loop(const std::stop_token& quit) {
    bool failing = false;
    std::unique_lock lock(m_mutex);
    for (;;) {
        m_changed.wait(lock, quit, [this] { return !nothingWaits(); });
        if (m_jobs.empty() && !m_held) return;
        Job job = next(); // closing: what is held, for a last time
        const bool recording = job.recording.has_value(), frames = recording || job.isChange();
        m_busy = true;
        lock.unlock();
        const auto done = guarded([&] { return perform(job); });
        if (done) tell(job);
        if (!done && !(failing && frames) && !job.about && m_hooks.onError) m_hooks.onError(done.error());
        lock.lock();
        if (frames) failing = !done;
        if (!done) hold(std::move(job), done.error());
        if (done && !recording && nothingWaits()) {
            lock.unlock();
            m_logbook->settle();
            lock.lock();
        }
        m_busy = false;
        m_changed.notify_all();
        if (done) continue;
        if (quit.stop_requested() && m_jobs.empty()) return;
        if (m_again) m_changed.wait_for(lock, quit, std::chrono::milliseconds(300), [] { return false; });
    }
}

} // namespace impasto::logbook
