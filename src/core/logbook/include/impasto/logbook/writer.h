// SPDX-License-Identifier: GPL-3.0-or-later
// One thread that stores every change in order. A change that cannot be stored is held, and what comes after it is
// stored together with it. While the disk is full it tries again until there is room; what will not pass by itself is
// tried again with the next change, or when asked to.
#pragma once

#include <condition_variable>
#include <deque>
#include <impasto/base/context.h>
#include <impasto/logbook/logbook.h>
#include <mutex>
#include <thread>

namespace impasto::logbook {

class LogbookWriter {
  public:
    /// Told on the writer's thread; each may be empty.
    struct Hooks {
        std::function<void(SessionId, std::uint64_t)> onSaved;    // a revision, after its COMMIT
        std::function<void(RunId, std::size_t)> onFramesSaved;    // frames of a recording, after their COMMIT
        std::function<void(std::vector<SessionHead>)> onSessions; // after one was deleted or brought back
        std::function<void(const Error&)> onError;                // once for a row of failures
    };
    LogbookWriter(std::unique_ptr<Logbook> logbook, Hooks hooks, Clock clock);
    /// Stores what waits, tries once more what is held, and closes the logbook.
    ~LogbookWriter();
    LogbookWriter(const LogbookWriter&) = delete;
    LogbookWriter& operator=(const LogbookWriter&) = delete;

    void post(const document::Change& change, const document::SessionStore& store,
              const description::Originals& originals);
    /// The frames so far; replaces what waits for the same run.
    void postRecording(const document::Session& session, run::Run soFar);
    void postAbout(const SessionId& session, const About& about);
    void postDeleted(const SessionId& session, bool deleted);
    /// A run that was marked after a crash is tried again when its session is loaded next.
    void postTried(const RunId& run);
    /// All of a session, for a file that does not know it.
    void postWhole(const document::SessionStore& store, const description::Originals& originals);
    /// Tries again what is held.
    void retry();
    void waitIdle();
    /// Nothing waits; what is held and is not tried again by itself does not count.
    [[nodiscard]] bool idle() const;

  private:
    struct Job {
        document::Change change;
        Logbook::Words words;
        std::optional<run::Run> recording;
        std::optional<About> about;
        std::optional<bool> deleted;
        std::optional<RunId> tried;
        [[nodiscard]] bool isChange() const { return !recording && !about && !deleted && !tried; }
    };
    void push(Job job);
    void loop(const std::stop_token& quit);
    Job next();
    void hold(Job job, const Error& error);
    [[nodiscard]] bool nothingWaits() const { return m_jobs.empty() && !m_again; }
    Result<void> perform(const Job& job);
    void tell(const Job& job);
    static Job together(Job earlier, Job later);

    std::unique_ptr<Logbook> m_logbook;
    Hooks m_hooks;
    Clock m_clock;
    mutable std::mutex m_mutex;
    std::condition_variable_any m_changed;
    std::deque<Job> m_jobs;
    std::optional<Job> m_held; // could not be stored
    bool m_again = false;      // it is tried by itself
    bool m_busy = false;
    std::jthread m_thread; // last: it uses the members above
};

} // namespace impasto::logbook
