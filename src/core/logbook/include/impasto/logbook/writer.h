// SPDX-License-Identifier: GPL-3.0-or-later
// One thread that stores every change in order. When the disk is full it says so once, keeps the queue and tries again
// until there is room.
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
    /// Stores what waits (gives up where the disk is full) and closes the logbook.
    ~LogbookWriter();
    LogbookWriter(const LogbookWriter&) = delete;
    LogbookWriter& operator=(const LogbookWriter&) = delete;

    void post(const document::Change& change, const document::SessionStore& store,
              const description::Originals& originals);
    /// The frames so far; replaces what waits for the same run.
    void postRecording(const document::Session& session, run::Run soFar);
    void postAbout(const SessionId& session, const About& about);
    void postDeleted(const SessionId& session, bool deleted);
    void waitIdle();
    [[nodiscard]] bool idle() const;

  private:
    struct Job {
        document::Change change;
        Logbook::Words words;
        std::optional<run::Run> recording;
        std::optional<About> about;
        std::optional<bool> deleted;
    };
    void push(Job job);
    void loop(const std::stop_token& quit);
    [[nodiscard]] bool nothingWaits() const;
    Result<void> perform(const Job& job);
    void tell(const Job& job);

    std::unique_ptr<Logbook> m_logbook;
    Hooks m_hooks;
    Clock m_clock;
    mutable std::mutex m_mutex;
    std::condition_variable_any m_changed;
    std::deque<Job> m_jobs;
    bool m_busy = false;
    std::jthread m_thread; // last: it uses the members above
};

} // namespace impasto::logbook
