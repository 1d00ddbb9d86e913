// SPDX-License-Identifier: GPL-3.0-or-later
// The one owner of everything that belongs to an open session: its store, its results, its logbook and every thread
// that works on it. It is closed on the window's thread (at once: all is cancelled, nothing is heard of it any more)
// and destroyed on another one (joins its threads, stores what waits, closes the logbook).
#pragma once

#include "open/recorder.h"

#include <filesystem>
#include <impasto/logbook/computing.h>
#include <impasto/logbook/kept_results.h>
#include <impasto/logs/follow.h>
#include <impasto/probe/sampler.h>
#include <impasto/results/results.h>
#include <mutex>

namespace impasto::app {

/// A session as it was made or loaded, off the window's thread.
struct Started {
    document::SessionStore store;
    std::unique_ptr<logbook::Logbook> logbook; // none: nothing is saved
    description::Originals originals;
    std::vector<Error> faults;                       // to be told
    std::vector<logbook::SessionHead> sessions = {}; // all of the logbook
    bool stored = false;                             // the session is in the logbook
    bool unsettled = false;                          // a run was found half recorded and not yet given its place
};

/// A log that another program is still writing, and this machine's sensors meanwhile.
struct Followed {
    std::mutex mutex; // of both
    logs::Follower log;
    std::optional<probe::Sampler> sensors; // none: not to be read
    std::optional<bool> elsewhere;         // another machine writes it; none: nobody has looked yet
};

/// Results of single runs between starts, in that file; `salt`: another at every start.
results::Keeping keepingIn(std::shared_ptr<logbook::KeptResults> kept, std::uint64_t salt);

struct OpenSession {
    /// `fault`: told on the window's thread what threw in a job.
    OpenSession(Started started, double speed, Deliver deliver, std::function<void(const Error&)> fault);
    ~OpenSession();
    OpenSession(const OpenSession&) = delete;
    OpenSession& operator=(const OpenSession&) = delete;

    /// On the window's thread, once.
    void close();
    /// No thread of it works or has something to do.
    [[nodiscard]] bool idle() const;
    /// What was written to before is kept until the end: a recording may still send it frames.
    void startWriter(std::unique_ptr<logbook::Logbook> logbook, logbook::LogbookWriter::Hooks hooks, Clock clock);

    Bridge bridge;
    document::SessionStore store;
    description::Originals originals;
    results::ResultsCache cache; // used on the results worker only
    std::shared_ptr<Followed> followed;
    std::stop_source importStop;
    std::vector<std::unique_ptr<logbook::LogbookWriter>> formerWriters;
    std::unique_ptr<logbook::LogbookWriter> writer;
    std::shared_ptr<logbook::Computing> computing; // told which runs the results worker is at; none: nothing is saved
    Recorder recorder;
    Worker importer, solver, follower, reader, spans, results; // last: they use the members above
    Worker files, prober; // what a newer job must not replace while it waits: a game's files written, the machine read
};

} // namespace impasto::app
